import { fireEvent, screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, it, vi } from 'vitest'
import { json, server } from '../../testing/server'
import { documentOf, finding, inWorkshop, rows } from '../../testing/workshop'
import type { Answer } from '../../api/answer'
import type { Bench } from '../bench/useBench'
import { presentValue } from './Field'
import type { Document } from './model'
import { Outline } from './Outline'
import { Refusals } from './Refusals'
import type { Refusal } from './useModel'
import { Worksheet } from './Worksheet'

const document = documentOf(...Object.values(rows))
const show = (openRow: string | null = null, more: Parameters<typeof inWorkshop>[1] = {}) => {
  server.answer = () => json({ findings: [], type: 'yes or no', example: null, final: false })
  return inWorkshop((_, door) => <Worksheet assembly={door} openRow={openRow} kind={null} />, { document, ...more })
}
const line = (text: RegExp) => screen.getByRole('button', { name: text, expanded: false })

describe('the rows of a worksheet', () => {
  it('each say in one line what they are', () => {
    show()
    for (const text of [
      /width\s*quantity 600 … 1200 mm, steps of 50/,
      /finish\s*choice of finishes/,
      /area\s*width \* 2 m/,
      /§4.*width >= 700 mm.*Doors are at least/,
      /§5.*2 rows over finish, longest/,
      /HNG-L × 2/,
      /10 Hang the leaf\s*DOOR, set-up 5 min, run 2 min/,
    ])
      expect(line(text)).toBeTruthy()
  })

  it('open and close by a click, and are walked with the arrow keys', async () => {
    const { goToRow } = show('area')
    await userEvent.click(line(/^attribute width/))
    await userEvent.click(screen.getByRole('button', { expanded: true, name: /area/ }))
    expect(goToRow.mock.calls).toEqual([
      ['door', 'width'],
      ['door', null],
    ])
    line(/^attribute finish/).focus()
    await userEvent.keyboard('{ArrowUp}')
    expect(window.document.activeElement).toBe(line(/^attribute width/))
    await userEvent.keyboard('{ArrowUp}')
    expect(window.document.activeElement).toBe(line(/^attribute width/))
  })

  it('say what they come to on the bench', () => {
    const answer = {
      sections: [
        {
          asked: [
            { rowId: 'width', path: 'width', valueLabel: '900 mm', missing: false, state: 'picked', clash: 0 },
            { rowId: 'finish', path: 'finish', valueLabel: null, missing: true, state: 'open', clash: 0 },
          ],
        },
      ],
      figures: [{ rowId: 'area', text: '1.20 – 2.40 m²', suggested: '1.80 m²' }],
      lines: [
        { rowId: 'hinge', state: 'open', quantity: '1 – 2 pcs', suggested: 'in', suggestedQuantity: '2 pcs' },
        { rowId: 'hang', state: 'open', quantity: '', suggested: 'out', suggestedQuantity: '' },
      ],
      clashes: [{ number: 2, reason: { causes: [{ rowId: 'wide' }] } }],
    } as unknown as Answer
    show(null, { bench: { question: { picks: [], site: null, date: null }, answer } as unknown as Bench })
    expect(within(line(/^attribute width/)).getByRole('img', { name: 'picked' })).toBeTruthy()
    expect(within(line(/^attribute finish/)).getByRole('img', { name: 'still needed' })).toBeTruthy()
    expect(line(/area/).textContent).toContain('1.80 m²')
    expect(line(/HNG-L/).textContent).toContain('2 pcs')
    expect(line(/Hang the leaf/).textContent).toContain('not now')
    expect(within(line(/§4/)).getByRole('img', { name: 'in clash' }).textContent).toBe('2')
    expect(presentValue(answer, document, 'door', 'WIDTH')).toBe('900 mm')
    expect(presentValue(answer, document, 'door', 'area')).toBe('1.80 m²')
    expect(presentValue(answer, document, 'door', 'nothing')).toBeUndefined()
    // An assembly that stands in two places has no one value.
    expect(presentValue({ ...answer, figures: [...answer.figures, ...answer.figures] }, document, 'door', 'area')).toBeUndefined()
  })

  it('count their faults, and show each where it is', () => {
    show('width', {
      findings: [
        finding('width', 'step', 'The step must be more than zero.'),
        finding('width', 'unit', '“mn” is not a unit code.'),
        finding('width', 'somewhere', 'Something of the whole row.'),
      ],
    })
    expect(screen.getByLabelText('3 faults')).toBeTruthy()
    const step = screen.getByRole('textbox', { name: 'Step' })
    expect(step.getAttribute('aria-invalid')).toBe('true')
    expect(within(step.parentElement!).getByRole('alert').textContent).toBe('The step must be more than zero.')
    expect(screen.getByText('Something of the whole row.')).toBeTruthy()
  })

  it('are changed field by field, each edit with what stood there', async () => {
    const { edits, goToList } = show('finish')
    await userEvent.selectOptions(screen.getByRole('combobox', { name: 'Suggested' }), 'Grey')
    await userEvent.selectOptions(screen.getByRole('combobox', { name: 'Kind' }), 'yes or no')
    await userEvent.click(screen.getByRole('checkbox', { name: 'Must be answered' }))
    await userEvent.click(screen.getByText('Note, dates and sites'))
    await userEvent.click(screen.getByRole('checkbox', { name: 'Tarn Bridge' }))
    await userEvent.type(screen.getByRole('textbox', { name: 'Note' }), 'from the catalogue{Enter}')
    await userEvent.click(screen.getByRole('button', { name: 'Open' }))
    expect(edits.flat()).toEqual([
      { do: 'set', rowId: 'finish', field: 'suggestion', value: 'v.grey', before: null },
      { do: 'set', rowId: 'finish', field: 'attributeKind', value: 'yesNo', before: 'choice' },
      { do: 'set', rowId: 'finish', field: 'required', value: false, before: true },
      { do: 'set', rowId: 'finish', field: 'sites', value: ['TRN'], before: [] },
      { do: 'set', rowId: 'finish', field: 'note', value: 'from the catalogue', before: null },
    ])
    expect(goToList).toHaveBeenCalledWith('finishes')
  })

  it('move, are copied under a name and number of their own, and are deleted', async () => {
    const { edits, goToRow } = show('wide')
    const buttons = (name: string) => screen.getByRole('button', { name })
    await userEvent.click(buttons('Up'))
    await userEvent.click(buttons('Down'))
    await userEvent.selectOptions(screen.getByRole('combobox', { name: 'to topic' }), 'Rest')
    await userEvent.click(buttons('Copy'))
    await userEvent.click(buttons('Delete'))
    expect(edits.map(([s]) => s)).toMatchObject([
      { do: 'move', rowId: 'wide', parentId: 'leaf', collection: 'rows', afterId: 'finish' },
      { do: 'move', rowId: 'wide', parentId: 'leaf', collection: 'rows', afterId: 'spans' },
      { do: 'move', rowId: 'wide', parentId: 'rest', collection: 'rows', afterId: null },
      { do: 'add', parentId: 'leaf', afterId: 'wide', row: { kind: 'statement', number: 6 } },
      { do: 'remove', rowId: 'wide' },
    ])
    const copied = edits[3]![0]!
    expect(goToRow).toHaveBeenCalledWith('door', copied.do === 'add' ? copied.row.id : '')
  })

  it('move with Alt and the arrows, as far as their topic goes', async () => {
    const { edits } = show('width')
    screen.getByRole('textbox', { name: 'Lowest' }).focus()
    await userEvent.keyboard('{Alt>}{ArrowUp}{ArrowDown}{/Alt}')
    expect(edits).toMatchObject([[{ do: 'move', rowId: 'width', afterId: 'finish' }]])
  })

  it('a copy of a grid has columns and rows of its own', async () => {
    const { edits } = show('spans')
    await userEvent.click(screen.getByRole('button', { name: 'Copy' }))
    const { row: copy } = edits[0]![0] as unknown as { row: { name: string; columns: { id: string }[]; rows: { id: string }[] } }
    expect(copy.name).toBe('spans_2')
    const ids = [...copy.columns, ...copy.rows].map((x) => x.id)
    expect(new Set([...ids, 'c1', 'c2', 'r1', 'r2']).size).toBe(8)
  })

  it('cannot be changed by those who only read', () => {
    show('width', { mayEdit: false })
    expect(screen.getByRole<HTMLInputElement>('textbox', { name: 'Step' }).disabled).toBe(true)
    for (const name of ['Delete', 'Copy', 'Topic']) expect(screen.queryByRole('button', { name })).toBeNull()
    expect(screen.queryByRole('combobox', { name: /New row/ })).toBeNull()
  })
})

describe('an expression with a fault', () => {
  it('is mended by a click on what was meant, and stored when it is left', async () => {
    const { edits } = show('wide')
    const fault = {
      rowId: 'wide',
      field: 'expression',
      id: 'JF041',
      start: 9,
      length: 3,
      message: 'A length cannot be compared with a plain number.',
      suggestion: null,
      blocks: true,
      fixes: [{ label: '700 mm', text: 'width >= 700 mm now' }],
    }
    server.answer = ({ path, body }) =>
      json(
        path.endsWith('/expression') && (body as { field: string }).field === 'expression' && !(body as { text: string }).text.includes('now')
          ? { findings: [fault], type: null, example: null, final: false }
          : { findings: [], type: 'yes or no', example: null, final: false },
      )
    const mend = await screen.findByRole('button', { name: 'write 700 mm' }, { timeout: 3_000 })
    expect(mend.title).toContain('Alt+Enter')
    await userEvent.click(mend)
    const editor = screen.getByRole('textbox', { name: 'Must hold' })
    expect(editor.textContent).toBe('width >= 700 mm now')
    expect(edits).toEqual([])
    fireEvent.blur(editor)
    await waitFor(() =>
      expect(edits.flat()).toEqual([{ do: 'set', rowId: 'wide', field: 'expression', value: 'width >= 700 mm now', before: 'width >= 700 mm' }]),
    )
    await waitFor(() => expect(screen.queryByRole('button', { name: 'write 700 mm' })).toBeNull(), { timeout: 3_000 })
  })
})

describe('a new row', () => {
  const field = (topic = 'Leaf') => screen.getByRole<HTMLInputElement>('combobox', { name: `New row in ${topic}` })
  const made = (name: string) => ({
    word: 'yes/no',
    shape: 'name',
    example: 'yes/no window',
    findings: [],
    rowId: name,
    steps: [{ do: 'add', parentId: 'leaf', collection: 'rows', afterId: 'hang', row: { id: name, kind: 'attribute', name } }],
  })
  const marked = (start: number, length: number, fixes: { label: string; line: string }[] = []) => ({
    word: null,
    shape: null,
    example: null,
    findings: [{ start, length, message: 'This is not understood.', fixes }],
    rowId: null,
    steps: [],
  })
  const nothing = { start: 0, length: 0, items: [] }
  type Body = { lines: string[]; position: number | null; afterId: string | null }

  /** Reads lines as the server does: “yes/no NAME” is a row, anything else is marked from its second word on. */
  function reads(body: Body) {
    const lines = body.lines.map((l) =>
      /^yes\/no (\w+)$/.test(l)
        ? made(l.slice(7))
        : marked(l.indexOf(' ') + 1, l.length - l.indexOf(' ') - 1, [{ label: 'make it yes/no', line: 'yes/no mended' }]),
    )
    const offered = body.position !== null && 'yes/no'.startsWith(body.lines[0]!)
    return json({
      lines,
      completion: offered ? { start: 0, length: body.lines[0]!.length, items: [{ text: 'yes/no', kind: 'row', detail: 'yes/no window' }] } : nothing,
    })
  }
  const typing = (answer = reads) => {
    const page = show()
    server.answer = ({ path, body }) => (path.endsWith('/entry') ? answer(body as Body) : json({}))
    return page
  }
  const soon = (what: () => void) => waitFor(what, { timeout: 3_000 })

  it('is typed: what can stand there is offered, Tab takes it, and Enter adds the row', async () => {
    const { edits } = typing()
    await userEvent.type(field(), 'y')
    await soon(() => expect(screen.getByRole('option', { name: /yes\/no/ })).toBeTruthy())
    await userEvent.keyboard('{Tab}')
    expect(field().value).toBe('yes/no ')
    await userEvent.type(field(), 'lamp')
    await soon(() => expect(screen.getByText(/such as/).textContent).toContain('yes/no window'))
    await userEvent.keyboard('{Enter}')
    expect(field().value).toBe('')
    await soon(() => expect(edits).toMatchObject([[{ do: 'add', row: { name: 'lamp' } }]]))
  })

  it('keeps what stands where Enter comes before anything was chosen', async () => {
    const { edits } = typing()
    await userEvent.type(field(), 'y')
    await soon(() => expect(screen.getByRole('option', { name: /yes\/no/ })).toBeTruthy())
    await userEvent.keyboard('{Enter}')
    await soon(() => expect(screen.getByRole('alert').textContent).toContain('not understood'))
    expect(field().value).toBe('y')
    expect(edits).toEqual([])
  })

  it('that is not understood comes back marked, and is mended by a click or a key', async () => {
    const { edits } = typing()
    await userEvent.type(field(), 'nonsense of mine{Enter}')
    await soon(() => expect(screen.getByRole('alert').textContent).toContain('This is not understood.'))
    expect(field().value).toBe('nonsense of mine')
    expect(field().getAttribute('aria-invalid')).toBe('true')
    expect(field().parentElement!.querySelector('.underline')!.textContent).toBe('of mine')
    await userEvent.click(screen.getByRole('button', { name: 'make it yes/no' }))
    expect(field().value).toBe('yes/no mended')
    await userEvent.type(field(), '{Enter}')
    await soon(() => expect(edits).toMatchObject([[{ row: { name: 'mended' } }]]))
    await userEvent.type(field(), 'again wrong{Enter}')
    await soon(() => expect(screen.getByRole('alert')).toBeTruthy())
    await userEvent.keyboard('{Alt>}{Enter}{/Alt}')
    expect(field().value).toBe('yes/no mended')
  })

  it('that is typed while the one before is still read is not mixed up with it', async () => {
    let answer: (() => void) | null = null
    const { edits } = typing((body) =>
      body.position === null ? (new Promise<Response>((done) => (answer = () => done(reads(body)))) as never) : reads(body),
    )
    await userEvent.type(field(), 'first wrong{Enter}yes/no sec')
    expect(field().value).toBe('yes/no sec')
    answer!()
    await soon(() => expect(screen.getByRole('button', { name: 'first wrong' })).toBeTruthy())
    await userEvent.type(field(), 'ond{Enter}')
    await soon(() => expect(answer).not.toBeNull())
    answer!()
    await soon(() => expect(edits).toMatchObject([[{ row: { name: 'second' } }]]))
    // What made no row is one click away.
    await userEvent.click(screen.getByRole('button', { name: 'first wrong' }))
    expect(field().value).toBe('first wrong')
  })

  it('of several lines becomes several rows', async () => {
    const { edits } = typing()
    await userEvent.click(field())
    await userEvent.paste('yes/no one\nwhat is this\n\nyes/no two\n')
    await soon(() => expect(edits).toMatchObject([[{ row: { name: 'one' } }], [{ row: { name: 'two' } }]]))
    expect(field().value).toBe('what is this')
    expect(screen.getByRole('alert').textContent).toContain('This is not understood.')
  })

  it('outlasts a reload, and what Esc took away comes back', async () => {
    const page = typing()
    await userEvent.type(field(), 'yes/no half')
    page.unmount()
    typing()
    expect(field().value).toBe('yes/no half')
    await userEvent.type(field(), '{Escape}')
    expect(field().value).toBe('')
    await userEvent.keyboard('{Control>}z{/Control}')
    expect(field().value).toBe('yes/no half')
    await userEvent.keyboard('{Escape}')
  })

  it('waits while the server cannot be reached', async () => {
    let reached = false
    const { edits, hold } = typing((body) =>
      reached || body.position !== null ? reads(body) : (Promise.reject(new TypeError('no network')) as never),
    )
    await userEvent.type(field(), 'yes/no later{Enter}')
    await soon(() => expect(screen.getByRole('status').textContent).toContain('“yes/no later” is added once the server can be reached'))
    // Until then not all is stored.
    expect(hold).toHaveBeenLastCalledWith('leaf', 1)
    reached = true
    await soon(() => expect(edits).toMatchObject([[{ row: { name: 'later' } }]]))
    await soon(() => expect(hold).toHaveBeenLastCalledWith('leaf', 0))
  })
})

describe('topics', () => {
  it('are named, moved, added and deleted', async () => {
    const { edits } = show()
    const names = screen.getAllByRole('textbox', { name: 'Name of the topic' })
    await userEvent.clear(names[1]!)
    await userEvent.type(names[1]!, 'Frame{Enter}')
    await userEvent.click(screen.getAllByRole('button', { name: 'Move topic up' })[1]!)
    await userEvent.click(screen.getByRole('button', { name: 'Topic' }))
    await userEvent.click(screen.getAllByRole('button', { name: 'Delete topic' })[0]!)
    expect(edits.flat()).toMatchObject([
      { do: 'set', rowId: 'rest', field: 'label/en', value: 'Frame', before: 'Rest' },
      { do: 'move', rowId: 'rest', parentId: 'door', collection: 'topics', afterId: null },
      { do: 'add', parentId: 'door', collection: 'topics', afterId: 'rest' },
      { do: 'remove', rowId: 'leaf' },
    ])
  })
})

describe('the outline', () => {
  const room = {
    id: 'room',
    name: 'room',
    label: { en: 'Cold room' },
    topics: [
      {
        id: 't',
        label: { en: 'Doors' },
        rows: [
          {
            kind: 'subassembly',
            id: 'place',
            name: 'door',
            label: {},
            assemblyId: 'door',
            make: 'phantom',
            item: '',
            quantity: '',
            instanceCount: '',
            instances: [{ id: '1' }],
            inputs: [],
            appliesWhen: '',
            sites: [],
          },
        ],
      },
    ],
  }
  const nested = { ...document, root: 'room', assemblies: [room, ...document.assemblies] } as unknown as Document

  it('is a tree of assemblies with the faults in each, then the value lists', async () => {
    const { goToAssembly, goToList, edits } = inWorkshop(() => <Outline shown={{ assemblyId: 'room' }} />, {
      document: nested,
      findings: [finding('width', 'step', 'x'), finding('area', 'expression', 'y'), finding('finishes', 'name', 'z')],
    })
    const door = screen.getByRole('button', { name: /Door set.*2/ })
    await userEvent.click(door)
    expect(goToAssembly).toHaveBeenCalledWith('door')
    await userEvent.click(screen.getByRole('button', { name: /finishes.*2/ }))
    await userEvent.click(screen.getByRole('button', { name: 'New value list' }))
    expect(edits).toMatchObject([[{ do: 'add', parentId: 'm', collection: 'lists', afterId: 'finishes', row: { name: 'list_2' } }]])
    expect(goToList).toHaveBeenCalledTimes(2)
  })

  it('searches all rows by name, text and number', async () => {
    const { goToRow } = inWorkshop(() => <Outline shown={{}} />, { document: nested })
    const search = screen.getByRole('searchbox', { name: 'Search the model' })
    await userEvent.type(search, '§4')
    await userEvent.click(await screen.findByRole('button', { name: /width >= 700 mm/ }))
    expect(goToRow).toHaveBeenCalledWith('door', 'wide')
    await userEvent.clear(search)
    await userEvent.type(search, 'CLEAR w')
    await waitFor(() => expect(screen.getAllByRole('button').map((b) => b.textContent)).toEqual([expect.stringContaining('width')]))
    await userEvent.type(search, 'zz')
    expect(await screen.findByText(/No row has/)).toBeTruthy()
  })
})

describe('an edit that was not stored', () => {
  const refusal = (problem: object, steps: unknown[] = []) =>
    ({
      task: { id: 'e', do: 'edit', steps },
      problem: { status: 409, detail: 'Someone has changed this since you saw it.', ...problem },
    }) as unknown as Refusal
  const tell = (r: Refusal) => {
    const dismiss = vi.fn()
    return { dismiss, ...inWorkshop(() => <Refusals />, { model: { refusals: [r], dismiss } }) }
  }

  it('shows both values by their names, and puts the own one over what was seen', async () => {
    const r = refusal({ fault: 'changed', rowId: 'finish', field: 'suggestion', current: 'v.grey' }, [
      { do: 'set', rowId: 'finish', field: 'suggestion', value: 'v.white', before: null },
    ])
    const { edits, dismiss } = tell(r)
    expect(screen.getByRole('alert').textContent).toContain('finish Suggested: it is now Grey; yours is White')
    await userEvent.click(screen.getByRole('button', { name: 'Put mine' }))
    expect(edits).toEqual([[{ do: 'set', rowId: 'finish', field: 'suggestion', value: 'v.white', before: 'v.grey' }]])
    expect(dismiss).toHaveBeenCalledWith(r)
  })

  it('shows lists, texts and emptiness as a person reads them', async () => {
    const { dismiss } = tell(
      refusal({ fault: 'changed', rowId: 'finish', field: 'sites', current: ['HAL', 'TRN'] }, [
        { do: 'set', rowId: 'finish', field: 'sites', value: [], before: null },
      ]),
    )
    expect(screen.getByRole('alert').textContent).toContain('Only at sites: it is now HAL, TRN; yours is nothing')
    await userEvent.click(screen.getByRole('button', { name: 'Keep what is there' }))
    expect(dismiss).toHaveBeenCalled()
  })

  it('leads to where a thing is in use', async () => {
    const { goToRow } = tell(
      refusal({
        fault: 'inUse',
        detail: '“width” is in use.',
        places: [
          { rowId: 'area', field: 'expression', name: 'area' },
          { rowId: 'gone', field: 'x', name: 'elsewhere' },
        ],
      }),
    )
    expect(screen.getByRole('alert').textContent).toContain('In use by area, elsewhere')
    await userEvent.click(screen.getByRole('button', { name: 'area' }))
    expect(goToRow).toHaveBeenCalledWith('door', 'area')
  })
})
