import { fireEvent, screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, it } from 'vitest'
import { json, server } from '../../testing/server'
import { documentOf, finding, inWorkshop, rows } from '../../testing/workshop'
import { SessionGate } from '../../app/SessionGate'
import { lineFor } from './rows/lineOf'
import type { Document, Row } from './model'
import { namedRow } from './namedRow'
import { MakeMissing, missingOf } from './rows/MakeMissing'
import { UsesSheet } from './rows/UsesSheet'
import { SubassemblyInputs } from './SubassemblyInputs'
import { Worksheet } from './Worksheet'

// Ways on from where one is: what is missing is made, what is named is found, what was pasted is looked at first.

const session = { name: 'ines', display: 'Ines', role: 'engineer', rights: ['read', 'edit', 'editLibrary'] }

describe('what the register does not have', () => {
  const unknown = finding('hinge', 'item', 'There is no item “HNG-L” in the register.', { id: 'JF085' })

  it('is told of a row that names it, and of no other fault', () => {
    expect(missingOf(rows.hinge, [unknown])).toEqual([{ table: 'items', code: 'HNG-L' }])
    expect(missingOf(rows.hinge, [{ ...unknown, message: 'The item “HNG-L” is no longer active.' }])).toEqual([])
    expect(missingOf(rows.hang, [finding('hang', 'workCentre', 'There is no work centre “DOOR”.', { id: 'JF086' })])).toEqual([
      { table: 'work-centres', code: 'DOOR' },
    ])
  })

  it('is made in its place, with what is known of it; a refusal stands there and nothing is lost', async () => {
    const sent: unknown[] = []
    let stored = false
    server.answer = ({ path, body }) => {
      if (path === '/api/session') return json(session)
      sent.push(body)
      return json({ stored, faults: stored ? [] : [{ column: 'unit', sentence: '“parsec” is not a unit code.', row: 1, text: '', isStale: false }] })
    }
    inWorkshop(() => (
      <SessionGate>
        <MakeMissing table="items" code="FT-FRAME" />
      </SessionGate>
    ))
    await userEvent.click(await screen.findByRole('button', { name: 'make item FT-FRAME' }))
    await userEvent.keyboard('Foot frame{Tab}parsec')
    await userEvent.click(screen.getByRole('button', { name: 'Make it' }))
    expect((await screen.findByRole('alert')).textContent).toBe('unit: “parsec” is not a unit code.')
    stored = true
    await userEvent.clear(screen.getByRole('textbox', { name: 'Unit (empty: pieces)' }))
    await userEvent.click(screen.getByRole('button', { name: 'Make it' }))
    await waitFor(() => expect(sent).toHaveLength(2))
    expect(sent).toEqual([
      { columns: ['number', 'description', 'unit', 'kind'], rows: [['FT-FRAME', 'Foot frame', 'parsec', 'bought']], before: null },
      { columns: ['number', 'description', 'kind'], rows: [['FT-FRAME', 'Foot frame', 'bought']], before: null },
    ])
  })
})

describe('names in expressions', () => {
  const lid = { id: 'lid', name: 'lid', label: {}, topics: [{ id: 'lt', label: {}, rows: [{ ...rows.width, id: 'lid.width' }] }] }
  const place = { kind: 'subassembly', id: 'place', name: 'lid unit', label: {}, assemblyId: 'lid' } as unknown as Row
  const document = {
    ...documentOf(...Object.values(rows), place),
    assemblies: [...documentOf(...Object.values(rows), place).assemblies, lid],
  } as unknown as Document
  const found = (text: string, end = text.length) => namedRow(document, 'door', text, end)?.row.id

  it('lead to the row they stand for, through assemblies and properties', () => {
    expect(found('width * 2', 5)).toBe('width')
    expect(found("sum 'lid unit'.width")).toBe('lid.width')
    expect(found("'lid unit'[1].WIDTH")).toBe('lid.width')
    expect(found('finish.cost')).toBe('finish')
    expect([found('white'), found('nothing.width'), found('')]).toEqual([undefined, undefined, undefined])
  })

  it('that are missing become a line for an attribute by what they are compared with', () => {
    const line = (text: string, name: string) => lineFor(text, text.indexOf(name), name.length)
    expect(line('height > 900 mm', 'height')).toBe('quantity height mm ')
    expect(line('shelves > 3 and window', 'shelves')).toBe('whole shelves ')
    expect(line("core = 'PUR 80'", 'core')).toBe("choice core: 'PUR 80', ")
    expect(line('not window', 'window')).toBe('yes/no window')
    expect(line('height * 2', 'height')).toBe('whole height ')
  })

  it('are listed where they are used, each place a link', async () => {
    server.answer = () =>
      json([
        { rowId: 'wide', name: '§4', field: 'expression' },
        { rowId: 'finishes', name: 'finishes', field: 'values/0' },
      ])
    const { goToRow } = inWorkshop(() => <UsesSheet id="width" name="width" onClose={() => undefined} />)
    const sheet = within(screen.getByRole('dialog', { name: 'Where width is used' }))
    await userEvent.click(await sheet.findByRole('button', { name: /§4.*Must hold/ }))
    expect(goToRow).toHaveBeenCalledWith('door', 'wide')
  })
})

describe('a block pasted from a spreadsheet', () => {
  const show = () => inWorkshop((_, door) => <Worksheet assembly={door} openRow={null} kind={null} />)
  const paste = (text: string) =>
    fireEvent.paste(screen.getByRole('combobox', { name: 'New row in Leaf' }), {
      clipboardData: { getData: (type: string) => (type.startsWith('text') ? text : '') },
    })

  it('is looked at before it becomes rows of a kind, its columns recognised by their heads', async () => {
    server.answer = () => json([])
    const { edits } = show()
    paste('Item\tQuantity\tRemark\nGSK-D\t2\tnew\nCAM\tshelves * 2\t\n')
    const sheet = within(screen.getByRole('dialog', { name: 'Rows from a spreadsheet' }))
    expect(sheet.getByRole<HTMLSelectElement>('combobox', { name: 'They become' }).value).toBe('part')
    expect(sheet.getByRole<HTMLSelectElement>('combobox', { name: 'Column 3 is' }).value).toBe('')
    expect(edits).toEqual([])
    await userEvent.click(sheet.getByRole('button', { name: 'Make 2 rows' }))
    expect(edits).toMatchObject([
      [
        { do: 'add', parentId: 'leaf', afterId: 'hang', row: { kind: 'part', item: 'GSK-D', quantity: '2' } },
        { do: 'add', row: { item: 'CAM', quantity: 'shelves * 2' } },
      ],
    ])
  })

  it('says which cells can stand for nothing, and makes no row before they are mended or left out', async () => {
    show()
    paste('Name\tKind\tUnit\nheight\tquantity\tmm\ndepth\tlength\tmm\n')
    const sheet = within(screen.getByRole('dialog', { name: 'Rows from a spreadsheet' }))
    expect(sheet.getByRole('alert').textContent).toMatch(/^Row 2: “length” is not stored; here stands: choice, yes or no/)
    expect(sheet.getByRole<HTMLButtonElement>('button', { name: 'Make 2 rows' }).disabled).toBe(true)
    await userEvent.selectOptions(sheet.getByRole('combobox', { name: 'Column 2 is' }), 'left out')
    expect(sheet.queryByRole('alert')).toBeNull()
  })
})

it('inputs of an assembly that stand above under the same name are connected in one go', async () => {
  const inner = { ...rows.width, id: 'lid.width', input: true }
  const core = { ...rows.finish, id: 'lid.core', name: 'core', label: { en: 'Core' }, input: true }
  const lid = { id: 'lid', name: 'lid', label: {}, topics: [{ id: 'lt', label: {}, rows: [inner, core] }] }
  const place = { kind: 'subassembly', id: 'place', name: 'lid', label: {}, assemblyId: 'lid', inputs: [] } as unknown as Extract<
    Row,
    { kind: 'subassembly' }
  >
  const base = documentOf(rows.width, place)
  const document = { ...base, assemblies: [...base.assemblies, lid] } as unknown as Document
  const { edits } = inWorkshop(() => <SubassemblyInputs place={place} render={() => null} />, { document })
  await userEvent.click(screen.getByRole('button', { name: 'connect width with the same here' }))
  await userEvent.click(screen.getByRole('button', { name: 'Give Core from here' }))
  expect(edits).toMatchObject([
    [{ do: 'add', parentId: 'place', collection: 'inputs', row: { attributeId: 'lid.width', expression: 'width' } }],
    [{ do: 'add', row: { attributeId: 'lid.core', expression: '' } }],
  ])
})
