import { screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, it } from 'vitest'
import { cell, cellsOf, pasteInto, typeInto } from '../../testing/grid'
import { showPage } from '../../testing/page'
import { problem } from '../../testing/server'
import { ItemPage } from './ItemPage'
import { LibraryPage } from './LibraryPage'

const table = {
  columns: ['number', 'description', 'cost'],
  numberColumns: ['cost'],
  rows: [
    ['BOLT', 'Bolt M8', '0.25'],
    ['SEAL', 'Door seal', '3.6'],
  ],
  found: 2,
}
const done = { rows: 1, added: 0, changed: 1, same: 0, faultyRows: 0, faultCount: 0, faults: [], stored: true }

function show(answers: object = {}, path = '/library/items', rights?: string[]) {
  const asked: { columns: string[]; rows: string[][] }[] = []
  showPage(<LibraryPage />, {
    route: '/library/:table',
    path,
    ...(rights && { rights }),
    answers: {
      'GET /api/library/items': () => table,
      'POST /api/library/items/rows': (request) => {
        asked.push(request.body as never)
        return done
      },
      ...answers,
    },
  })
  return asked
}

describe('the library', () => {
  it('is edited cell by cell, with undo and redo of its own', async () => {
    const asked = show()
    await screen.findByRole('grid')
    await typeInto('cost', 2, '4.1{Enter}')
    const [done, back] = [
      { columns: ['number', 'cost'], rows: [['SEAL', '4.1']], before: [['SEAL', '3.6']] },
      { columns: ['number', 'cost'], rows: [['SEAL', '3.6']], before: [['SEAL', '4.1']] },
    ]
    await waitFor(() => expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Undo' }).disabled).toBe(false))
    await userEvent.keyboard('{Control>}z{/Control}')
    await waitFor(() => expect(asked).toEqual([done, back]))
    await waitFor(() => expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Undo' }).disabled).toBe(true))
    await userEvent.keyboard('{Control>}y{/Control}')
    await waitFor(() => expect(asked).toEqual([done, back, done]))
  })

  it('shows the last thing wished for while the things before it are still under way', async () => {
    const texts = { BOLT: '0.25' }
    const waiting: (() => void)[] = []
    show({
      'GET /api/library/items': () => ({ ...table, rows: [['BOLT', 'Bolt M8', texts.BOLT], table.rows[1]] }),
      'POST /api/library/items/rows': async (request: { body: unknown }) => {
        await new Promise<void>((go) => waiting.push(go))
        texts.BOLT = (request.body as { rows: string[][] }).rows[0]![1]!
        return done
      },
    })
    await screen.findByRole('grid')
    await typeInto('cost', 1, '0.3{Enter}')
    await userEvent.click(cell('cost', 1))
    await userEvent.keyboard('{Delete}')
    expect(cellsOf()[0]![2]).toBe('')
    await userEvent.keyboard('{Control>}z{/Control}')
    expect(cellsOf()[0]![2]).toBe('0.3')
    await userEvent.keyboard('{Control>}z{/Control}')
    for (const stored of ['0.3', '', '0.3', '0.25']) {
      // Whatever comes back in between, the cell says what was asked for last.
      expect(cellsOf()[0]![2]).toBe('0.25')
      await waitFor(() => expect(waiting.length).toBe(1))
      waiting.shift()!()
      await waitFor(() => expect(texts.BOLT).toBe(stored))
    }
    await waitFor(() => expect(cellsOf()[0]![2]).toBe('0.25'))
    // Taken back, done again and taken back: the same wishes again, of which only the last is shown.
    await typeInto('cost', 1, '0.3{Enter}')
    for (const keys of ['z', 'y', 'z']) await userEvent.keyboard(`{Control>}${keys}{/Control}`)
    for (const stored of ['0.3', '0.25', '0.3', '0.25']) {
      await waitFor(() => expect(waiting.length).toBe(1))
      expect(cellsOf()[0]![2]).toBe('0.25')
      waiting.shift()!()
      await waitFor(() => expect(texts.BOLT).toBe(stored))
    }
  })

  it('takes a block of cells from a spreadsheet, never over the column that says which row it is', async () => {
    const asked = show()
    await screen.findByRole('grid')
    pasteInto('number', 1, 'SCREW\tBolt M10\t0.3\nNUT\tSeal\t3.9')
    await waitFor(() =>
      expect(asked).toEqual([
        {
          columns: ['number', 'description', 'cost'],
          rows: [
            ['BOLT', 'Bolt M10', '0.3'],
            ['SEAL', 'Seal', '3.9'],
          ],
          before: [
            ['BOLT', 'Bolt M8', '0.25'],
            ['SEAL', 'Door seal', '3.6'],
          ],
        },
      ]),
    )
  })

  it('makes items of what is typed in the last line once it has a number, and of rows pasted there', async () => {
    const asked = show()
    await screen.findByRole('grid')
    await typeInto('description', 3, 'Cam lock{Enter}')
    expect(cellsOf()[2]).toEqual(['', 'Cam lock', ''])
    expect(asked).toEqual([])
    await typeInto('number', 3, 'CAM{Enter}')
    await waitFor(() => expect(asked).toEqual([{ columns: ['number', 'description'], rows: [['CAM', 'Cam lock']], before: null }]))
    await waitFor(() => expect(cellsOf()[2]).toEqual(['', '', '']))
    pasteInto('number', 3, 'A1\tFirst\nA2\tSecond\t5')
    await waitFor(() =>
      expect(asked[1]).toEqual({
        columns: ['number', 'description', 'cost'],
        rows: [
          ['A1', 'First', ''],
          ['A2', 'Second', '5'],
        ],
        before: null,
      }),
    )
  })

  it('says at the cell what is wrong with it', async () => {
    show({
      'POST /api/library/items/rows': () => ({
        ...done,
        changed: 0,
        faultyRows: 1,
        faultCount: 1,
        stored: false,
        faults: [{ row: 1, column: 'cost', text: 'x', sentence: '“x” is not a number.' }],
      }),
    })
    await screen.findByRole('grid')
    await typeInto('cost', 1, 'x{Enter}')
    expect((await screen.findByRole('alert')).textContent).toContain('cost, row 1“x” is not a number.')
  })

  it('loses a row that nothing uses, and has it back by undo; one that is in use says by what', async () => {
    const removed: unknown[] = []
    const asked = show({
      'POST /api/library/items/removed': (request: { body: { key: string } }) => {
        removed.push(request.body)
        return request.body.key === 'BOLT' ? problem(409, '“BOLT” is in use: revision 1 of CR.') : new Response(null, { status: 204 })
      },
    })
    await screen.findByRole('grid')
    await typeInto('cost', 2, '{Control>}{Delete}{/Control}')
    await waitFor(() => expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Undo' }).disabled).toBe(false))
    await userEvent.click(screen.getByRole('button', { name: 'Undo' }))
    await waitFor(() => expect(asked).toEqual([{ columns: ['number', 'description', 'cost'], rows: [['SEAL', 'Door seal', '3.6']], before: null }]))
    await typeInto('cost', 1, '{Control>}{Delete}{/Control}')
    await waitFor(() => expect(removed).toEqual([{ key: 'SEAL' }, { key: 'BOLT' }]))
    await waitFor(() => expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Undo' }).disabled).toBe(true))
  })

  it('lets the server sort and filter, which holds more than is shown', async () => {
    const searches: string[] = []
    show({ 'GET /api/library/items': ({ search }: { search: string }) => (searches.push(decodeURIComponent(search)), table) })
    await screen.findByRole('grid')
    await userEvent.click(screen.getByRole('button', { name: 'cost' }))
    await waitFor(() => expect(searches.at(-1)).toContain('sort=cost&descending=false'))
    await userEvent.click(screen.getByRole('button', { name: 'Filter' }))
    await userEvent.type(screen.getByRole('textbox', { name: 'Only rows whose cost has' }), '>3')
    await waitFor(() => expect(searches.at(-1)).toContain('where=cost:>3'))
    expect(cell('cost', 1).textContent).toBe('0.25')
    // The table stands while what was asked for is on its way.
    expect(screen.getByRole<HTMLInputElement>('textbox', { name: 'Only rows whose cost has' }).value).toBe('>3')
  })

  it('is only looked at by those who may not change it', async () => {
    show({}, '/library/items', ['read'])
    expect((await screen.findByRole('grid')).getAttribute('aria-readonly')).toBe('true')
    expect(screen.queryByRole('button', { name: 'Load a file' })).toBeNull()
  })

  it('looks through a file first, lists its faults by cell, and loads the sound rows when told to', async () => {
    const modes: string[] = []
    const changes = [
      { row: 1, key: 'SEAL', column: 'cost', before: '3.6', after: '4.1', isNew: false },
      { row: 2, key: 'NEW', column: 'unit', before: '', after: 'm', isNew: true },
    ]
    const faulty = {
      ...done,
      cells: changes,
      cellCount: 9,
      readAs: { sheets: [], sheet: null, separator: ';', decimalComma: true },
      rows: 3,
      added: 1,
      changed: 1,
      faultyRows: 1,
      faultCount: 1,
      stored: false,
      faults: [{ row: 3, column: 'unit', text: 'parsec', sentence: '“parsec” is not a unit code.' }],
    }
    show({
      'POST /api/library/items/load': ({ search }: { search?: string }) => {
        modes.push(search ?? '')
        return search?.includes('mode=check') ? faulty : { ...faulty, stored: true }
      },
    })
    await userEvent.click(await screen.findByRole('button', { name: 'Load a file' }))
    await userEvent.upload(screen.getByLabelText('File to load'), new File(['number,unit'], 'items.csv', { type: 'text/csv' }))
    const sheet = within(await screen.findByRole('dialog'))
    expect(await sheet.findByText('“parsec” is not a unit code.')).toBeTruthy()
    // What would change stands cell by cell, what is new after it; how the file was read can be said otherwise.
    expect(
      within(sheet.getByRole('table', { name: 'What would change' }))
        .getAllByRole('row')
        .slice(1)
        .map((r) =>
          within(r)
            .getAllByRole('cell')
            .map((c) => c.textContent),
        ),
    ).toEqual([
      ['1', 'SEAL', 'cost', '3.6', '4.1'],
      ['2', 'NEW', 'unit', 'new', 'm'],
    ])
    expect(sheet.getByText('and 7 more cells')).toBeTruthy()
    expect(sheet.getByRole<HTMLSelectElement>('combobox', { name: 'Decimals' }).value).toBe('true')
    await userEvent.selectOptions(sheet.getByRole('combobox', { name: 'Between the cells' }), 'a tab')
    await waitFor(() => expect(modes).toEqual(['?mode=check', '?mode=check&separator=tab']))
    expect(sheet.getByRole('button', { name: 'Load all of it' }).hasAttribute('disabled')).toBe(true)
    await userEvent.click(sheet.getByRole('button', { name: 'Load the 2 sound rows only' }))
    await waitFor(() => expect(screen.queryByRole('dialog')).toBeNull())
    expect(modes.at(-1)).toBe('?mode=good&separator=tab')
  })
})

describe('an item', () => {
  const item = {
    item: { number: 'SEAL', description: 'Door seal', unit: 'm', kind: 'bought', active: true, cost: '3.6', weight: '0.3' },
    descriptions: { en: 'Door seal' },
    sites: [{ site: 'HAL', label: 'Haldwyn', store: 'Raw', cost: '3.6' }],
    conversions: { kg: '0.3' },
    orderMultiple: '25',
    leadTimeDays: '5',
    properties: {},
    substitutes: ['GSK-2 in CR'],
    models: [
      {
        revisionId: 7,
        productCode: 'CR',
        productLabel: 'Cold room',
        revision: 2,
        state: 'draft',
        assemblyId: 'door',
        rowId: 'p1',
        rowName: 'Door: SEAL',
        how: 'fixed',
        condition: 'kind = hinged',
        quantity: '2 m',
      },
    ],
    structures: [{ structureId: 's1', name: 'Harbour', productCode: 'CR', revision: 1, madeAt: '2026-11-24T09:00:00Z' }],
  }

  it('has what the register knows and where it is used, each a link', async () => {
    showPage(<ItemPage />, { route: '/items/:number', path: '/items/SEAL', answers: { 'GET /api/items/SEAL': () => item } })
    expect((await screen.findByRole('link', { name: 'Door: SEAL' })).getAttribute('href')).toBe('/workshop/7?assembly=door&row=p1')
    expect(screen.getByRole('link', { name: 'Harbour' }).getAttribute('href')).toBe('/structures/s1')
    expect(screen.getByRole('link', { name: 'GSK-2 in CR' }).getAttribute('href')).toBe('/items/GSK-2')
    expect(screen.getByText('Raw · 3.60 EUR')).toBeTruthy()
  })

  it('that is not there says so', async () => {
    showPage(<ItemPage />, {
      route: '/items/:number',
      path: '/items/X',
      answers: { 'GET /api/items/X': () => problem(404, 'There is no such item.') },
    })
    expect(await screen.findByText('There is no such item.')).toBeTruthy()
  })
})
