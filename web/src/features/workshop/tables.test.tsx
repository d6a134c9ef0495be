import { createEvent, fireEvent, screen, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, it } from 'vitest'
import { documentOf, finding, finishes, inWorkshop, rows } from '../../testing/workshop'
import { GridEditor } from './GridEditor'
import { KindTable } from './KindTable'
import { ListEditor } from './ListEditor'
import type { Row } from './model'

const cell = (name: string) => screen.getByRole<HTMLInputElement>('textbox', { name })

/** Pastes as a spreadsheet does: rows by lines, cells by tabs. Tells whether the cell left it to the table. */
function paste(name: string, text: string): boolean {
  const event = createEvent.paste(cell(name), { clipboardData: { getData: () => text } })
  fireEvent(cell(name), event)
  return event.defaultPrevented
}

describe('a value list', () => {
  const show = (more = {}) => inWorkshop(() => <ListEditor list={finishes} />, more)

  it('stores a cell once, with what stood there before, and Enter goes on to the next row', async () => {
    const { edits } = show()
    await userEvent.clear(cell('Label, row 1'))
    await userEvent.type(cell('Label, row 1'), 'Snow{Enter}')
    expect(edits).toEqual([[{ do: 'set', rowId: 'v.white', field: 'label/en', value: 'Snow', before: 'White' }]])
    expect(document.activeElement).toBe(cell('Label, row 2'))
    await userEvent.keyboard('{ArrowUp}')
    expect(document.activeElement).toBe(cell('Label, row 1'))
  })

  it('knows an empty colour, property or date from an empty text', async () => {
    const { edits } = show()
    await userEvent.clear(cell('Colour, row 1'))
    await userEvent.type(cell('cost, row 2'), '7.5')
    await userEvent.clear(cell('cost, row 1'))
    await userEvent.tab()
    expect(edits).toEqual([
      [{ do: 'set', rowId: 'v.white', field: 'color', value: null, before: '#ffffff' }],
      [{ do: 'set', rowId: 'v.grey', field: 'properties/p.cost', value: '7.5', before: null }],
      [{ do: 'set', rowId: 'v.white', field: 'properties/p.cost', value: null, before: '3' }],
    ])
  })

  it('keeps dates, sites and notes of its values out of the way until they are asked for', async () => {
    const { edits } = show()
    expect(screen.queryByRole('textbox', { name: 'until, row 1' })).toBeNull()
    await userEvent.click(screen.getByRole('button', { name: 'Show dates, sites and notes' }))
    await userEvent.type(cell('until, row 1'), '2027-12-31{Enter}')
    await userEvent.type(cell('Only at sites, row 2'), 'HAL, TRN{Enter}')
    expect(edits).toEqual([
      [{ do: 'set', rowId: 'v.white', field: 'to', value: '2027-12-31', before: null }],
      [{ do: 'set', rowId: 'v.grey', field: 'sites', value: ['HAL', 'TRN'], before: [] }],
    ])
  })

  it('shows them where there are some', () => {
    inWorkshop(() => <ListEditor list={{ ...finishes, values: [{ ...finishes.values[0]!, sites: ['HAL'] }] }} />)
    expect(cell('Only at sites, row 1').value).toBe('HAL')
  })

  it('takes what a spreadsheet holds: over the cells that are there, and as new values below them', () => {
    const { edits } = show()
    expect(paste('Code, row 2', 'graphite\tGraphite\t#333333\t4\nlinen\t"Linen ""raw"""\n\n')).toBe(true)
    expect(edits).toHaveLength(1)
    const [code, label, color, cost, added] = edits[0]!
    expect([code!, label!, color!, cost!].map((s) => s.do === 'set' && [s.field, s.value, s.before])).toEqual([
      ['code', 'graphite', 'grey'],
      ['label/en', 'Graphite', 'Grey'],
      ['color', '#333333', null],
      ['properties/p.cost', '4', null],
    ])
    expect(added).toMatchObject({ do: 'add', parentId: 'finishes', collection: 'values', afterId: 'v.grey', row: { code: 'linen', label: { en: 'Linen "raw"' } } })
  })

  it('leaves a single pasted cell to the field', () => {
    const { edits } = show()
    expect(paste('Code, row 1', 'snow')).toBe(false)
    expect(edits).toEqual([])
  })

  it('adds, moves and deletes values and properties', async () => {
    const { edits } = show()
    await userEvent.click(screen.getByRole('button', { name: 'Value' }))
    await userEvent.click(screen.getByRole('button', { name: 'Yes/no property' }))
    await userEvent.click(screen.getByRole('button', { name: 'Move grey up' }))
    await userEvent.click(screen.getByRole('button', { name: 'Delete white' }))
    await userEvent.click(screen.getByRole('button', { name: 'Delete property cost' }))
    expect(edits.map(([s]) => s)).toMatchObject([
      { do: 'add', collection: 'values', afterId: 'v.grey', row: { code: 'value_3' } },
      { do: 'add', collection: 'properties', afterId: 'p.cost', row: { name: 'property_2', type: 'yesNo' } },
      { do: 'move', rowId: 'v.grey', parentId: 'finishes', collection: 'values', afterId: null },
      { do: 'remove', rowId: 'v.white' },
      { do: 'remove', rowId: 'p.cost' },
    ])
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Move white up' }).disabled).toBe(true)
  })

  it('tells what is wrong at the cell and below the table, and leads to the cell', async () => {
    show({ findings: [finding('finishes', 'values/v.grey/code', '“grey” is there twice; case makes no difference.'), finding('finishes', 'name', '“finishes” is there twice.')] })
    expect(cell('Code, row 2').getAttribute('aria-invalid')).toBe('true')
    expect(cell('Code, row 1').getAttribute('aria-invalid')).toBe('false')
    expect(screen.getAllByRole('alert').map((a) => a.textContent)).toEqual(['“finishes” is there twice.', 'Code, row 2“grey” is there twice; case makes no difference.'])
    await userEvent.click(screen.getByRole('button', { name: 'Code, row 2' }))
    expect(document.activeElement).toBe(cell('Code, row 2'))
  })

  it('leads to the attributes that use it', async () => {
    const { goToRow } = show()
    await userEvent.click(screen.getByRole('button', { name: 'finish' }))
    expect(goToRow).toHaveBeenCalledWith('door', 'finish')
  })

  it('can only be read by those who may not edit', () => {
    show({ mayEdit: false })
    expect(cell('Code, row 1').disabled).toBe(true)
    for (const name of ['Value', 'Delete list', 'Delete white']) expect(screen.queryByRole('button', { name })).toBeNull()
  })
})

describe('a combination grid', () => {
  type Grid = Extract<Row, { kind: 'grid' }>
  const grid = rows.spans as Grid
  const show = (more = {}) => inWorkshop(() => <GridEditor grid={grid} assemblyId="door" />, more)

  it('stores a row as a whole, filled up where cells are missing', async () => {
    const { edits } = show()
    await userEvent.type(cell('longest, row 2'), '1100{Enter}')
    expect(edits).toEqual([[{ do: 'set', rowId: 'r2', field: 'cells', value: ['grey', '1100'], before: ['grey'] }]])
  })

  it('takes pasted cells from the cell they are pasted into, and no wider than its columns', () => {
    const { edits } = show()
    paste('longest, row 1', '950\tbeyond\n1000\n1050')
    expect(edits).toMatchObject([
      [
        { do: 'set', rowId: 'r1', value: ['white', '950'] },
        { do: 'set', rowId: 'r2', value: ['grey', '1000'] },
        { do: 'add', parentId: 'spans', collection: 'rows', afterId: 'r2', row: { cells: ['', '1050'] } },
      ],
    ])
  })

  it('takes pasted rows at its end, with line breaks of any system', () => {
    const { edits } = show()
    fireEvent.paste(screen.getByRole('textbox', { name: 'Paste rows here' }), { clipboardData: { getData: () => 'white\t700\r\ngrey\t800\r\n' } })
    const added = edits[0]!.map((s) => s as unknown as { afterId: string; row: { id: string; cells: string[] } })
    expect(added.map((a) => a.row.cells)).toEqual([['white', '700'], ['grey', '800']])
    expect(added.map((a) => a.afterId)).toEqual(['r2', added[0]!.row.id])
  })

  it('changes all rows with its columns, in one edit', async () => {
    const { edits } = show()
    await userEvent.click(screen.getByRole('button', { name: 'Column' }))
    await userEvent.click(screen.getByRole('button', { name: 'Delete column finish' }))
    expect(edits).toMatchObject([
      [{ do: 'add', collection: 'columns', afterId: 'c2' }, { rowId: 'r1', value: ['white', '900', ''] }, { rowId: 'r2', value: ['grey', '', ''] }],
      [{ do: 'remove', rowId: 'c1' }, { rowId: 'r1', value: ['900'] }, { rowId: 'r2', value: [''] }],
    ])
  })

  it('repairs a faulty cell with what was meant, leaving the rest of the cell', async () => {
    const { edits } = show({ findings: [finding('spans', 'rows/0/cells/0', 'There is no “whit”. Did you mean “white”?', { start: 0, length: 5, suggestion: 'grey' })] })
    await userEvent.click(screen.getByRole('button', { name: 'Write grey' }))
    expect(edits).toMatchObject([[{ rowId: 'r1', field: 'cells', value: ['grey', '900'] }]])
  })

  it('tells the first faults and counts the others', () => {
    const many = { ...grid, rows: Array.from({ length: 20 }, (_, i) => ({ id: `r${i}`, cells: ['x', '1'] })) }
    inWorkshop(() => <GridEditor grid={many} assemblyId="door" />, { findings: many.rows.map((_, i) => finding('spans', `rows/${i}/cells/0`, 'There is no “x”.')) })
    expect(screen.getAllByRole('alert')).toHaveLength(8)
    expect(screen.getByText(/and 12 more cells/)).toBeTruthy()
  })
})

describe('rows of one kind as a table', () => {
  const other = { ...rows.hang, id: 'test', sequence: 20, name: 'test', label: { en: 'Test' } } as Row
  const show = (more = {}) => inWorkshop((_, door) => <KindTable assembly={door} kind="operation" />, { document: documentOf(rows.width, rows.hang, other), ...more })

  it('shows only that kind, and says where there is none', () => {
    show()
    const table = screen.getByRole('table', { name: 'Operations' })
    expect(within(table).getAllByRole('row')).toHaveLength(3)
    inWorkshop((_, door) => <KindTable assembly={door} kind="limit" />)
    expect(screen.getByText('This assembly has no rows of this kind: limits.')).toBeTruthy()
  })

  it('stores texts, whole numbers and expressions, and nothing where nothing changed or it is no number', async () => {
    const { edits } = show()
    await userEvent.clear(cell('Number, row 1'))
    await userEvent.type(cell('Number, row 1'), 'ten{Enter}')
    await userEvent.clear(cell('Run, row 2'))
    await userEvent.type(cell('Run, row 2'), '3 min{Enter}')
    await userEvent.type(cell('Label, row 1'), ' {Enter}')
    await userEvent.clear(cell('Number, row 2'))
    await userEvent.type(cell('Number, row 2'), '30{Enter}')
    expect(edits).toEqual([
      [{ do: 'set', rowId: 'test', field: 'run', value: '3 min', before: '2 min' }],
      [{ do: 'set', rowId: 'test', field: 'sequence', value: 30, before: 20 }],
    ])
  })

  it('takes pasted cells as one edit, as far as there are rows', () => {
    const { edits } = show()
    paste('Set-up, row 1', '7 min\n8 min\n9 min')
    expect(edits.map((e) => e.map((s) => s.do === 'set' && [s.rowId, s.field, s.value]))).toEqual([[['hang', 'setup', '7 min'], ['test', 'setup', '8 min']]])
  })

  it('leads from a line to its row', async () => {
    const { goToRow } = show()
    await userEvent.click(screen.getAllByRole('button', { name: 'open' })[1]!)
    expect(goToRow).toHaveBeenCalledWith('door', 'test')
  })
})
