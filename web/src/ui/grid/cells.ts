/** Rows and columns of what a spreadsheet put on the clipboard: tabs between cells, quotes around those with line breaks. */
export function pastedCells(text: string): string[][] {
  const rows: string[][] = []
  let row: string[] = []
  let cell = ''
  let quoted = false
  const clean = text.replace(/\r\n?/g, '\n')
  for (let i = 0; i < clean.length; i++) {
    const c = clean[i]!
    if (quoted) {
      if (c === '"' && clean[i + 1] === '"') {
        cell += '"'
        i++
      } else if (c === '"') quoted = false
      else cell += c === '\n' ? ' ' : c
    } else if (c === '"' && cell === '') quoted = true
    else if (c === '\t') {
      row.push(cell.trim())
      cell = ''
    } else if (c === '\n') {
      rows.push([...row, cell.trim()])
      row = []
      cell = ''
    } else cell += c
  }
  if (cell !== '' || row.length > 0) rows.push([...row, cell.trim()])
  // An empty row within a block is a row; those after its end are none.
  while (rows.length > 0 && rows.at(-1)!.every((c) => c === '')) rows.pop()
  return rows
}

/** Cells as spreadsheets take them from the clipboard; the counterpart of `pastedCells`. */
export const copiedText = (cells: string[][]): string =>
  cells.map((row) => row.map((c) => (/[\t\n\r]|^"/.test(c) ? `"${c.replaceAll('"', '""')}"` : c)).join('\t')).join('\n')

/** The number a cell begins with, as in “900 mm”; NaN where it begins with none. */
const numberIn = (cell: string): number => Number.parseFloat(/^[-+]?[\d.]+/.exec(cell.trim())?.[0] ?? '')

/**
 * Whether a cell is what a filter asks for: a text in it, in any case; `=text` and `<>text` the whole cell, `=` an empty one;
 * `<5`, `>=5` its number.
 */
export function isWanted(cell: string, filter: string): boolean {
  const [, sign = '', rest = ''] = /^\s*(<>|<=|>=|=|<|>)?\s*([\s\S]*?)\s*$/.exec(filter) ?? []
  const [text, wanted] = [cell.trim().toLowerCase(), rest.toLowerCase()]
  if (sign === '') return text.includes(wanted)
  if (sign === '=') return text === wanted
  if (sign === '<>') return text !== wanted
  const [number, bound] = [numberIn(cell), numberIn(rest)]
  return sign === '<' ? number < bound : sign === '<=' ? number <= bound : sign === '>' ? number > bound : number >= bound
}

const collator = new Intl.Collator('en', { numeric: true, sensitivity: 'base' })

/** Numbers by their size, texts by their letters with the numbers in them by size; empty cells last in either direction. */
export function compareCells(a: string, b: string, down: boolean): number {
  if (a === '' || b === '') return a === b ? 0 : a === '' ? 1 : -1
  const [x, y] = [numberIn(a), numberIn(b)]
  const order = !Number.isNaN(x) && !Number.isNaN(y) && x !== y ? x - y : collator.compare(a, b)
  return down ? -order : order
}
