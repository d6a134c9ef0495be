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
  return rows.filter((r) => r.some((c) => c !== ''))
}
