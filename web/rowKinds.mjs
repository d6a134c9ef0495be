// Writes the kinds of rows and their fields, as the server describes them, where the forms and tables find them.
import { readFileSync, writeFileSync } from 'node:fs'

const description = JSON.parse(readFileSync(new URL('../src/Juniperfall.Server/obj/openapi.json', import.meta.url), 'utf8'))
writeFileSync(new URL('src/api/rowKinds.json', import.meta.url), `${JSON.stringify(description['x-row-kinds'], null, 2)}\n`)
