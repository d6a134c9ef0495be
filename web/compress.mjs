// Writes every built file that is worth it compressed beside it, once, so that no request has to.
import { readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { brotliCompressSync, constants, gzipSync } from 'node:zlib'

const worthIt = /\.(js|css|html|svg|json|map)$/
const least = 1024

function compress(folder) {
  for (const name of readdirSync(folder)) {
    const path = join(folder, name)
    if (statSync(path).isDirectory()) compress(path)
    else if (worthIt.test(name) && statSync(path).size >= least) {
      const content = readFileSync(path)
      writeFileSync(`${path}.br`, brotliCompressSync(content, { params: { [constants.BROTLI_PARAM_QUALITY]: 11 } }))
      writeFileSync(`${path}.gz`, gzipSync(content, { level: 9 }))
    }
  }
}

compress(process.argv[2] ?? 'dist')
