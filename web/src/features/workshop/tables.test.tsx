import { screen, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, it, vi } from 'vitest'
import { cell, pasteInto, typeInto } from '../../testing/grid'
import { documentOf, finding, finishes, inWorkshop, rows } from '../../testing/workshop'
import { GridEditor } from './GridEditor'
import { KindTable } from './KindTable'
import { ListEditor } from './ListEditor'
import type { Row } from './model'

describe('a value list', () => {
  const show = (more = {}) => inWorkshop(() => <ListEditor list={finishes} />, more)

  it('stores a cell once, with what stood there before, and Enter goes on to the next row', async () => {
    const { edits } = show()
    await typeInto('Label', 1, 'Snow{Enter}')
    expect(edits).toEqual([[{ do: 'set', rowId: 'v.white', field: 'label/en', value: 'Snow', before: 'White' }]])
    expect(document.activeElement).toBe(cell('Label', 2))
  })

  it('knows an empty colour, property or date from an empty text', async () => {
    const { edits } = show()
    await typeInto('Colour', 1, '{Delete}')
    await typeInto('cost', 2, '7.5{Enter}')
    await typeInto('cost', 1, '{Backspace}')
    expect(edits).toEqual([
      [{ do: 'set', rowId: 'v.white', field: 'color', value: null, before: '#ffffff' }],
      [{ do: 'set', rowId: 'v.grey', field: 'properties/p.cost', value: '7.5', before: null }],
      [{ do: 'set', rowId: 'v.white', field: 'properties/p.cost', value: null, before: '3' }],
    ])
  })

  it('keeps dates, sites and notes of its values out of the way until they are asked for', async () => {
    const { edits } = show()
    expect(screen.queryByRole('columnheader', { name: 'until' })).toBeNull()
    await userEvent.click(screen.getByRole('button', { name: 'Show dates, sites and notes' }))
    await typeInto('until', 1, '2027-12-31{Enter}')
    await typeInto('Only at sites', 2, 'HAL, TRN{Enter}')
    expect(edits).toEqual([
      [{ do: 'set', rowId: 'v.white', field: 'to', value: '2027-12-31', before: null }],
      [{ do: 'set', rowId: 'v.grey', field: 'sites', value: ['HAL', 'TRN'], before: [] }],
    ])
  })

  it('shows them where there are some', () => {
    inWorkshop(() => <ListEditor list={{ ...finishes, values: [{ ...finishes.values[0]!, sites: ['HAL'] }] }} />)
    expect(cell('Only at sites', 1).textContent).toBe('HAL')
  })

  it('takes what a spreadsheet holds: over the cells that are there, and as new values below them', () => {
    const { edits } = show()
    pasteInto('Code', 2, 'graphite\tGraphite\t#333333\t4\nlinen\t"Linen ""raw"""\n\n')
    expect(edits).toHaveLength(1)
    const [code, label, color, cost, added] = edits[0]!
    expect([code!, label!, color!, cost!].map((s) => s.do === 'set' && [s.field, s.value, s.before])).toEqual([
      ['code', 'graphite', 'grey'],
      ['label/en', 'Graphite', 'Grey'],
      ['color', '#333333', null],
      ['properties/p.cost', '4', null],
    ])
    expect(added).toMatchObject({
      do: 'add',
      parentId: 'finishes',
      collection: 'values',
      afterId: 'v.grey',
      row: { code: 'linen', label: { en: 'Linen "raw"' } },
    })
  })

  it('takes a single pasted cell in place of what stands there', () => {
    const { edits } = show()
    pasteInto('Code', 1, 'snow')
    expect(edits).toMatchObject([[{ rowId: 'v.white', field: 'code', value: 'snow' }]])
  })

  it('makes a value of what is typed in the empty line at its end', async () => {
    const { edits } = show()
    await typeInto('Code', 3, 'linen{Enter}')
    expect(edits).toMatchObject([[{ do: 'add', parentId: 'finishes', collection: 'values', afterId: 'v.grey', row: { code: 'linen' } }]])
  })

  it('takes back its own edits by their ids, and none of what was changed elsewhere', async () => {
    const [undo, redo] = [vi.fn(() => 'u1'), vi.fn(() => 'r1')]
    const ids = ['e1', 'e2']
    show({ model: { edit: () => ids.shift(), undo, redo } })
    await typeInto('Code', 1, 'snow{Enter}stone{Enter}')
    await userEvent.keyboard('{Control>}zy{/Control}{Control>}zzz{/Control}')
    expect(undo.mock.calls).toEqual([['e2'], ['r1'], ['e1']])
    expect(redo.mock.calls).toEqual([['u1']])
  })

  it('adds, moves and deletes values and properties', async () => {
    const { edits } = show()
    await userEvent.click(cell('Code', 2))
    await userEvent.click(screen.getByRole('button', { name: 'New value' }))
    await userEvent.click(screen.getByRole('button', { name: 'Yes/no property' }))
    await userEvent.click(screen.getByRole('button', { name: 'Move 1 value up' }))
    await userEvent.click(cell('Code', 1))
    await userEvent.click(screen.getByRole('button', { name: 'Delete 1 value' }))
    await userEvent.click(screen.getByRole('button', { name: 'Delete property cost' }))
    expect(edits.map(([s]) => s)).toMatchObject([
      { do: 'add', collection: 'values', afterId: 'v.grey', row: { code: 'value_3' } },
      { do: 'add', collection: 'properties', afterId: 'p.cost', row: { name: 'property_2', type: 'yesNo' } },
      { do: 'move', rowId: 'v.grey', parentId: 'finishes', collection: 'values', afterId: null },
      { do: 'remove', rowId: 'v.white' },
      { do: 'remove', rowId: 'p.cost' },
    ])
  })

  it('tells what is wrong at the cell and below the table, and leads to the cell', async () => {
    show({
      findings: [
        finding('finishes', 'values/v.grey/code', '“grey” is there twice; case makes no difference.'),
        finding('finishes', 'name', '“finishes” is there twice.'),
      ],
    })
    expect(cell('Code', 2).getAttribute('aria-invalid')).toBe('true')
    expect(cell('Code', 1).getAttribute('aria-invalid')).toBeNull()
    expect(screen.getAllByRole('alert').map((a) => a.textContent)).toEqual([
      '“finishes” is there twice.',
      'Code, row 2“grey” is there twice; case makes no difference.',
    ])
    await userEvent.click(screen.getByRole('button', { name: 'Code, row 2' }))
    expect(document.activeElement).toBe(cell('Code', 2))
  })

  it('leads to the attributes that use it', async () => {
    const { goToRow } = show()
    await userEvent.click(screen.getByRole('button', { name: 'finish' }))
    expect(goToRow).toHaveBeenCalledWith('door', 'finish')
  })

  it('can only be read by those who may not edit', () => {
    show({ mayEdit: false })
    expect(screen.getByRole('grid').getAttribute('aria-readonly')).toBe('true')
    for (const name of ['New value', 'Delete list', 'Delete 1 value', 'Delete property cost'])
      expect(screen.queryByRole('button', { name })).toBeNull()
  })
})

describe('a combination grid', () => {
  type CombinationGrid = Extract<Row, { kind: 'grid' }>
  const grid = rows.spans as CombinationGrid
  const show = (more = {}) => inWorkshop(() => <GridEditor grid={grid} assemblyId="door" />, more)

  it('stores a row as a whole, filled up where cells are missing', async () => {
    const { edits } = show()
    await typeInto('longest', 2, '1100{Enter}')
    expect(edits).toEqual([[{ do: 'set', rowId: 'r2', field: 'cells', value: ['grey', '1100'], before: ['grey'] }]])
  })

  it('takes pasted cells from the cell they are pasted into, and no wider than its columns', () => {
    const { edits } = show()
    pasteInto('longest', 1, '950\tbeyond\n1000\n1050')
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
    pasteInto('finish', 3, 'white\t700\r\ngrey\t800\r\n')
    const added = edits[0]!.map((s) => s as unknown as { afterId: string; row: { id: string; cells: string[] } })
    expect(added.map((a) => a.row.cells)).toEqual([
      ['white', '700'],
      ['grey', '800'],
    ])
    expect(added.map((a) => a.afterId)).toEqual(['r2', added[0]!.row.id])
  })

  it('changes all rows with its columns, in one edit', async () => {
    const { edits } = show()
    await userEvent.click(screen.getByRole('button', { name: 'Column' }))
    await userEvent.click(screen.getByRole('button', { name: 'Delete column finish' }))
    expect(edits).toMatchObject([
      [
        { do: 'add', collection: 'columns', afterId: 'c2' },
        { rowId: 'r1', value: ['white', '900', ''] },
        { rowId: 'r2', value: ['grey', '', ''] },
      ],
      [
        { do: 'remove', rowId: 'c1' },
        { rowId: 'r1', value: ['900'] },
        { rowId: 'r2', value: [''] },
      ],
    ])
  })

  it('repairs a faulty cell with what was meant, leaving the rest of the cell', async () => {
    const { edits } = show({
      findings: [finding('spans', 'rows/0/cells/0', 'There is no “whit”. Did you mean “white”?', { start: 0, length: 5, suggestion: 'grey' })],
    })
    await userEvent.click(screen.getByRole('button', { name: 'Write grey' }))
    expect(edits).toMatchObject([[{ rowId: 'r1', field: 'cells', value: ['grey', '900'] }]])
  })

  it('tells the first faults and counts the others', () => {
    const many = { ...grid, rows: Array.from({ length: 20 }, (_, i) => ({ id: `r${i}`, cells: ['x', '1'] })) }
    inWorkshop(() => <GridEditor grid={many} assemblyId="door" />, {
      findings: many.rows.map((_, i) => finding('spans', `rows/${i}/cells/0`, 'There is no “x”.')),
    })
    expect(screen.getAllByRole('alert')).toHaveLength(8)
    expect(screen.getByText(/and 12 more cells/)).toBeTruthy()
  })
})

describe('rows of one kind as a table', () => {
  const other = { ...rows.hang, id: 'test', sequence: 20, name: 'test', label: { en: 'Test' } } as Row
  const show = (more = {}) =>
    inWorkshop((_, door) => <KindTable assembly={door} kind="operation" />, { document: documentOf(rows.width, rows.hang, other), ...more })

  it('shows only that kind, and says where there is none', () => {
    show()
    expect(
      within(screen.getByRole('grid', { name: 'Operations' }))
        .getAllByRole('rowheader')
        .map((h) => h.textContent),
    ).toEqual(['1', '2', '+'])
    inWorkshop((_, door) => <KindTable assembly={door} kind="limit" />)
    expect(screen.getByText(/This assembly has no rows of this kind: limits./)).toBeTruthy()
  })

  it('stores texts, whole numbers, choices and expressions, and nothing where nothing changed', async () => {
    const { edits } = show()
    await typeInto('Run', 2, '3 min{Enter}')
    await typeInto('Label', 1, '{F2} {Enter}')
    await typeInto('Number', 2, '30{Enter}')
    await typeInto('Work centre', 1, 'door{Enter}')
    expect(edits).toEqual([
      [{ do: 'set', rowId: 'test', field: 'run', value: '3 min', before: '2 min' }],
      [{ do: 'set', rowId: 'hang', field: 'label/en', value: 'Hang the leaf ', before: 'Hang the leaf' }],
      [{ do: 'set', rowId: 'test', field: 'sequence', value: 30, before: 20 }],
    ])
  })

  it('keeps what a field cannot be, marked and with what can stand there, until something else is typed', async () => {
    const { edits } = show()
    await typeInto('Number', 1, 'ten{Enter}')
    expect(cell('Number', 1).textContent).toBe('ten')
    expect(screen.getByRole('alert').textContent).toContain('“ten” is not stored; here stands: a whole number.')
    expect(edits).toEqual([])
    await typeInto('Number', 1, '15{Enter}')
    expect(screen.queryByRole('alert')).toBeNull()
    expect(edits).toMatchObject([[{ field: 'sequence', value: 15 }]])
  })

  it('takes a pasted block as one edit, and makes rows of what goes beyond the end', () => {
    const { edits } = show()
    pasteInto('Set-up', 1, '7 min\n8 min\n9 min')
    expect(edits).toHaveLength(1)
    expect(edits[0]).toMatchObject([
      { do: 'set', rowId: 'hang', field: 'setup', value: '7 min' },
      { do: 'set', rowId: 'test', field: 'setup', value: '8 min' },
      { do: 'add', parentId: 'leaf', collection: 'rows', afterId: 'test', row: { kind: 'operation', setup: '9 min' } },
    ])
  })

  it('takes a block larger than one edit in several, and takes all of it back together', async () => {
    const sizes: number[] = []
    const undo = vi.fn((id: string) => `u${id}`)
    const model = { edit: (...steps: unknown[]) => `e${sizes.push(steps.length)}`, undo }
    inWorkshop((_, door) => <KindTable assembly={door} kind="statement" />, { model })
    pasteInto('Must hold', 2, Array.from({ length: 4_100 }, (_, i) => `width > ${i} mm`).join('\n'))
    expect(sizes).toEqual([2_000, 2_000, 100])
    await userEvent.keyboard('{Control>}z{/Control}')
    expect(undo.mock.calls.flat()).toEqual(['e3', 'e2', 'e1'])
  })

  it('numbers new rules beyond those there are', () => {
    const { edits } = inWorkshop((_, door) => <KindTable assembly={door} kind="statement" />)
    pasteInto('Must hold', 2, 'width > 5 mm\nwidth > 6 mm')
    expect(edits[0]).toMatchObject([
      { row: { kind: 'statement', number: 6, expression: 'width > 5 mm' } },
      { row: { number: 7, expression: 'width > 6 mm' } },
    ])
  })

  it('leads from a line to its row', async () => {
    const { goToRow } = show()
    await userEvent.pointer({ keys: '[MouseRight]', target: cell('Number', 2) })
    await userEvent.click(screen.getByRole('menuitem', { name: 'Open row' }))
    expect(goToRow).toHaveBeenCalledWith('door', 'test')
  })
})
