import { createEvent, fireEvent, screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import { documentOf, finishes, inWorkshop, rows } from '../../../testing/workshop'
import type { Document, Row, Step } from '../model'
import { Worksheet } from '../Worksheet'
import { copyRows, pasteSteps, readCopied, rowsType } from './copiedRows'
import { lineOf } from './lineOf'

const show = (more = {}) => inWorkshop((_, door) => <Worksheet assembly={door} openRow={null} kind={null} />, more)
const head = (id: string) => document.querySelector<HTMLElement>(`[data-row="${id}"]`)!
const marked = () =>
  [...document.querySelectorAll('[data-row]')].filter((h) => h.textContent?.endsWith('marked')).map((h) => h.getAttribute('data-row'))

/** The clipboard as a browser keeps it, for several kinds of the same. */
function clipboard() {
  const kept = new Map<string, string>()
  return {
    kept,
    data: {
      setData: (type: string, text: string) => kept.set(type, text),
      getData: (type: string) => kept.get(type) ?? '',
      types: [rowsType],
      effectAllowed: '',
      dropEffect: '',
    },
  }
}
const press = (kind: 'copy' | 'cut' | 'paste', at: HTMLElement, data: unknown) => {
  at.focus()
  fireEvent(at, createEvent[kind](at, { clipboardData: data }))
}

describe('rows of a worksheet', () => {
  it('are marked with Ctrl, with Shift and by keys, and forgotten with Esc', async () => {
    show()
    const user = userEvent.setup()
    await user.keyboard('{Control>}')
    await user.click(head('width'))
    await user.click(head('area'))
    await user.keyboard('{/Control}')
    expect(marked()).toEqual(['width', 'area'])
    await user.keyboard('{Shift>}')
    await user.click(head('spans'))
    await user.keyboard('{/Shift}')
    expect(marked()).toEqual(['area', 'wide', 'spans'])
    await user.keyboard('{Escape}')
    expect(marked()).toEqual([])
    head('width').focus()
    await user.keyboard('{Shift>}{ArrowDown}{ArrowDown}{/Shift}')
    expect(marked()).toEqual(['width', 'finish', 'area'])
  })

  it('are deleted, doubled and moved together', async () => {
    const { edits } = show()
    const user = userEvent.setup()
    head('area').focus()
    await user.keyboard('{Shift>}{ArrowDown}{/Shift}{Alt>}{ArrowUp}{/Alt}{Control>}d{/Control}')
    expect(edits[0]).toEqual([
      { do: 'move', rowId: 'area', parentId: 'leaf', collection: 'rows', afterId: 'width' },
      { do: 'move', rowId: 'wide', parentId: 'leaf', collection: 'rows', afterId: 'area' },
    ])
    expect(edits[1]).toMatchObject([
      { do: 'add', parentId: 'leaf', afterId: 'wide', row: { kind: 'computed', name: 'area_2' } },
      { do: 'add', row: { kind: 'statement', number: 6 } },
    ])
    await user.keyboard('{Escape}')
    head('hinge').focus()
    await user.keyboard('{Shift>}{ArrowDown}{/Shift}{Delete}')
    expect(edits[2]).toEqual([
      { do: 'remove', rowId: 'hinge' },
      { do: 'remove', rowId: 'hang' },
    ])
  })

  it('go over the border of a topic by keys', async () => {
    const { edits } = show()
    head('hang').focus()
    await userEvent.keyboard('{Alt>}{ArrowDown}{/Alt}')
    expect(edits).toEqual([[{ do: 'move', rowId: 'hang', parentId: 'rest', collection: 'rows', afterId: null }]])
  })

  it('are copied as text that can be read, and pasted as copies of their own', () => {
    const { edits } = show()
    const { kept, data } = clipboard()
    press('copy', head('area'), data)
    expect(kept.get('text/plain')).toBe('compute area = width * 2 m')
    press('paste', head('finish'), data)
    press('paste', head('finish'), data)
    expect(edits).toHaveLength(2)
    expect(edits[0]).toMatchObject([
      { do: 'add', parentId: 'leaf', afterId: 'finish', row: { kind: 'computed', name: 'area_2', expression: 'width * 2 m' } },
    ])
  })

  it('that were cut are moved once, and keep their ids', () => {
    const { edits } = show()
    const { data } = clipboard()
    press('cut', head('area'), data)
    expect(edits).toEqual([])
    press('paste', head('hang'), data)
    press('paste', head('width'), data)
    expect(edits[0]).toEqual([{ do: 'move', rowId: 'area', parentId: 'leaf', collection: 'rows', afterId: 'hang' }])
    expect(edits[1]).toMatchObject([{ do: 'add', row: { name: 'area_2' } }])
  })

  it('are dragged to their place, as copies with Ctrl, and not by those who only read', () => {
    const drag = (id: string, to: HTMLElement, more = {}) => {
      const { data } = clipboard()
      fireEvent.dragStart(head(id).parentElement!, { dataTransfer: data })
      for (const kind of ['dragOver', 'drop'] as const) fireEvent(to, Object.assign(createEvent[kind](to, { dataTransfer: data }), more))
    }
    const { edits, unmount } = show()
    // Boxes have no size here: below the middle of a row is after it.
    drag('area', head('hinge').parentElement!)
    drag('area', screen.getByRole('region', { name: 'Rest' }).firstElementChild as HTMLElement)
    drag('width', head('hinge').parentElement!, { ctrlKey: true })
    expect(edits).toMatchObject([
      [{ do: 'move', rowId: 'area', afterId: 'hinge' }],
      [{ do: 'move', rowId: 'area', parentId: 'rest', afterId: null }],
      [{ do: 'add', afterId: 'hinge', row: { name: 'width_2' } }],
    ])
    unmount()
    const reader = show({ mayEdit: false })
    drag('area', head('hinge').parentElement!)
    expect(reader.edits).toEqual([])
  })

  it('say in a menu what their keys do', async () => {
    const { edits, goToRow } = show()
    fireEvent.contextMenu(head('hang'))
    await userEvent.click(screen.getByRole('menuitem', { name: 'To topic Rest' }))
    fireEvent.contextMenu(head('hang'))
    await userEvent.click(screen.getByRole('menuitem', { name: /^Delete row/ }))
    fireEvent.contextMenu(head('hang'))
    await userEvent.click(screen.getByRole('menuitem', { name: /^Rename/ }))
    expect(edits).toMatchObject([[{ do: 'move', parentId: 'rest' }], [{ do: 'remove', rowId: 'hang' }]])
    expect(goToRow).toHaveBeenCalledWith('door', 'hang', true)
  })
})

describe('rows in another model', () => {
  const here = documentOf(...Object.values(rows))
  const lid = { id: 'lid', name: 'lid', label: {}, topics: [{ id: 'lt', label: {}, rows: [{ ...rows.finish, id: 'lid.finish', input: true }] }] }
  const place = {
    kind: 'subassembly',
    id: 'place',
    name: 'lid',
    label: {},
    assemblyId: 'lid',
    make: 'phantom',
    item: '',
    instances: [{ id: '1' }],
    inputs: [{ id: 'i', attributeId: 'lid.finish', expression: 'finish' }],
    appliesWhen: '',
    sites: [],
  } as unknown as Row
  const whole = {
    ...here,
    assemblies: [{ ...here.assemblies[0]!, topics: [{ ...here.assemblies[0]!.topics[0]!, rows: [rows.finish, place] }] }, lid],
  } as unknown as Document
  const other = (more: Partial<Document> = {}) => ({ ...documentOf(), id: 'other', lists: [], ...more }) as Document
  const paste = (into: Document, from = whole, of: Row[] = [rows.finish, place]) =>
    pasteSteps(JSON.parse(JSON.stringify(copyRows(from, 1, from.assemblies[0]!, of))) as never, {
      document: into,
      revisionId: 2,
      assembly: into.assemblies[0]!,
      topicId: 'leaf',
      afterId: null,
      numbered: 0,
    })
  const added = (steps: Step[], collection: string) =>
    steps.flatMap((s) => (s.do === 'add' && s.collection === collection ? [s.row as unknown as Record<string, never>] : []))

  it('bring their lists and assemblies, with ids of their own that fit together', () => {
    const { steps, left } = paste(other())
    const [list, assembly, [finish, sub]] = [
      added(steps, 'lists')[0] as never as typeof finishes,
      added(steps, 'assemblies')[0] as never as typeof lid,
      added(steps, 'rows') as never as [Record<string, unknown>, Record<string, unknown>],
    ]
    expect([list.name, list.values.map((v) => v.code)]).toEqual(['finishes', ['white', 'grey']])
    expect(Object.keys(list.values[0]!.properties)).toEqual([list.properties[0]!.id])
    expect(finish.listId).toBe(list.id)
    const inner = assembly.topics[0]!.rows[0] as unknown as Record<string, unknown>
    expect(inner.listId).toBe(list.id)
    expect([sub.assemblyId, (sub.inputs as { attributeId: string }[])[0]!.attributeId]).toEqual([assembly.id, inner.id])
    expect(JSON.stringify(steps)).not.toMatch(/"(finishes|lid|lid\.finish|v\.white|p\.cost)"(?=[,}])(?<!"name":"(finishes|lid)")/)
    expect(left).toEqual([])
  })

  it('take a list that stands there with the same name and codes, and rename one that differs', () => {
    const same = paste(other({ lists: [{ ...finishes, id: 'theirs', values: finishes.values.map((v) => ({ ...v, id: `t.${v.code}` })) }] }))
    expect(added(same.steps, 'lists')).toEqual([])
    expect(added(same.steps, 'rows')[0]).toMatchObject({ listId: 'theirs' })
    const differs = paste(other({ lists: [{ ...finishes, id: 'theirs', values: [] }] }))
    expect(added(differs.steps, 'lists')[0]).toMatchObject({ name: 'finishes_2' })
  })

  it('tell what cannot come along: what is filled by a product that is not reused there', () => {
    const reuser = {
      ...whole,
      assemblies: [whole.assemblies[0]],
      reused: [{ id: 'r', productId: 'p', code: 'CS', root: 'lid', assemblies: [lid], lists: [] }],
    } as unknown as Document
    const { made, left } = paste(other(), reuser)
    expect(made).toHaveLength(1)
    expect(left).toEqual(['“lid” is filled by a product that this model does not reuse; take that in first.'])
  })

  it('are read only where they are ours', () => {
    expect([readCopied(''), readCopied('{"rows":1}'), readCopied('null'), readCopied('[')]).toEqual([null, null, null, null])
  })
})

it('writes rows as lines that the entry line reads as the same rows', () => {
  // The other half of this is in the tests of the Core, on the same file.
  const pairs = JSON.parse(readFileSync('../tests/models/typed-rows.json', 'utf8')) as { line: string; row: Row }[]
  expect(pairs.map(({ row }) => lineOf({ ...row, sites: [] } as Row, documentOf()))).toEqual(pairs.map(({ line }) => line))
  expect(lineOf(rows.finish, documentOf())).toBe('choice finish: white, grey')
})
