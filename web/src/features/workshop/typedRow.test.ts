import { describe, expect, it } from 'vitest'
import type { Document } from './model'
import { kindWords, typedRow } from './typedRow'

const document: Document = {
  format: 'juniperfall-model/1',
  language: '1',
  id: 'm',
  code: 'SC',
  label: {},
  sumLines: false, root: 'a',
  lists: [{ id: 'l', name: 'finishes', label: {}, properties: [], values: [] }],
  reused: [],
  assemblies: [
    {
      id: 'a',
      name: 'curtain',
      label: {},
      topics: [{ id: 't', label: { en: 'General' }, rows: [{ kind: 'statement', id: 's', number: 4, expression: '', message: {}, strength: 'must', appliesWhen: '', sites: [] }] }],
    },
  ],
}

const steps = (text: string) => {
  const typed = typedRow(text, document, document.assemblies[0]!, 't', 's')
  if ('fault' in typed) throw new Error(typed.fault)
  return typed.steps
}
const added = (text: string) => {
  const last = steps(text).at(-1)!
  if (last.do !== 'add') throw new Error('not an addition')
  return last.row as unknown as Record<string, unknown>
}
const faultOf = (text: string) => {
  const typed = typedRow(text, document, document.assemblies[0]!, 't', null)
  return 'fault' in typed ? typed.fault : ''
}

describe('a typed row', () => {
  it('of every kind is understood as its own example shows', () => {
    for (const kind of kindWords) expect(added(kind.example).id, kind.example).toBeTruthy()
  })

  it('takes values by any name, in quotes where they hold a comma or a blank at an end', () => {
    const [list] = steps("choice lid: none, 'a, b', yes, 3, 'it''s', two words")
    expect((list as unknown as { row: { values: { code: string }[] } }).row.values.map((v) => v.code)).toEqual(['none', 'a, b', 'yes', '3', "it's", 'two words'])
  })

  it('makes the value list of a new choice in the same edit', () => {
    const [list, row] = steps('choice finish: white, grey')
    expect(list).toMatchObject({ do: 'add', parentId: 'm', collection: 'lists', row: { name: 'finish', values: [{ code: 'white' }, { code: 'grey' }] } })
    expect(row).toMatchObject({ parentId: 't', afterId: 's', row: { kind: 'attribute', type: 'choice', listId: (list as unknown as { row: { id: string } }).row.id } })
  })

  it('asks how many there are where a subassembly can be there several times', () => {
    const [made, count, place] = steps('subassembly door 1..4')
    expect(made).toMatchObject({ collection: 'assemblies', row: { name: 'door' } })
    expect(count).toMatchObject({ afterId: 's', row: { kind: 'attribute', type: 'whole', name: 'number_of_door', min: '1', max: '4' } })
    expect(place).toMatchObject({ row: { kind: 'subassembly', instanceCount: 'number_of_door', instances: [{ id: '1' }, { id: '2' }, { id: '3' }, { id: '4' }] } })
    expect(faultOf('subassembly door 4..1')).toContain('low..high')
    expect(faultOf('subassembly door of iron')).toContain('low..high')
    expect(added('several extras: rail, lamp')).toMatchObject({ type: 'several', name: 'extras' })
  })

  it('takes a list that is there by its name, in any case', () => {
    expect(steps('choice outside of FINISHES')).toHaveLength(1)
    expect(added('choice Finishes')).toMatchObject({ listId: 'l' })
    expect(faultOf('choice outside of colours')).toContain('colours')
  })

  it('reads bounds, units, conditions and times', () => {
    expect(added('quantity height mm -20..3000.5 step 0.5')).toMatchObject({ unit: 'mm', min: '-20', max: '3000.5', step: '0.5' })
    expect(added("part CURT-1 x width * 2 when strip = 'clear 2'")).toMatchObject({ item: 'CURT-1', quantity: 'width * 2', appliesWhen: "strip = 'clear 2'" })
    expect(added('operation cut at SAW 2 min')).toMatchObject({ sequence: 10, workCentre: 'SAW', setup: '', run: '2 min' })
    expect(added('limit weight <= 60 kg')).toMatchObject({ of: 'weight', lower: '', upper: '60 kg' })
    expect(added('rule a = b')).toMatchObject({ number: 5, expression: 'a = b' })
  })

  it('that is not one says what is missing', () => {
    expect(faultOf('quantity width')).toContain('quantity width mm 600..1200 step 50')
    expect(faultOf('requires a')).toContain('Both sides')
    expect(faultOf('banana')).toContain('The first word says what the row is')
  })
})
