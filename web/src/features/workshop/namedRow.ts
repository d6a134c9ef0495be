import { assemblyOf, nameOf, rowsOf, type Assembly, type Document, type Row } from './model'

const step = /(?:'(?:[^']|'')*'|[\p{L}_][\p{L}\p{N}_]*)/u
const path = new RegExp(`(?:(?:${step.source})(?:\\[[^\\]]*\\])?\\s*\\.\\s*)*(?:${step.source})$`, 'u')

const bare = (name: string) =>
  name
    .trim()
    .replace(/\[.*\]$/, '')
    .trim()
    .replace(/^'|'$/g, '')
    .replaceAll("''", "'")
    .toUpperCase()

/** The row that a name in an expression stands for: `width`, `door.width`, also `core` of `core.wall`; nothing for a value or a function. */
export function namedRow(document: Document, assemblyId: string, text: string, end: number): { row: Row; assembly: Assembly } | undefined {
  const found = path.exec(text.slice(0, end))?.[0]
  let assembly = assemblyOf(document, assemblyId)
  if (!found || !assembly) return undefined
  const steps = found.split(/\s*\.\s*/).map(bare)
  for (const name of steps.slice(0, -1)) {
    const row: Row | undefined = rowsOf(assembly).find((r) => nameOf(r).toUpperCase() === name)
    // What stands behind a choice is a property of its values: the choice is what is named.
    if (row && row.kind !== 'subassembly') return { row, assembly }
    assembly = row && assemblyOf(document, row.assemblyId)
    if (!assembly) return undefined
  }
  const row = rowsOf(assembly).find((r) => nameOf(r).toUpperCase() === steps.at(-1))
  return row && { row, assembly }
}
