import { QueryClient } from '@tanstack/react-query'
import { describe, expect, it } from 'vitest'
import { asked } from '../testing/page'
import { json, server } from '../testing/server'
import { answerOf, askAnswer, withPart, type Part } from './answer'

const form = {
  key: '5',
  sections: [
    {
      id: 's',
      topicId: 's',
      assemblyId: 'room',
      title: 'Duty',
      place: null,
      prefix: '',
      asked: [
        {
          path: 'duty',
          rowId: 'duty',
          name: 'duty',
          label: 'Duty',
          kind: 'choice',
          required: true,
          unit: '',
          unitLabel: '',
          min: null,
          max: null,
          step: null,
          choices: [
            { value: 'chill', label: 'Chill', color: null },
            { value: 'freezer', label: 'Freezer', color: null },
          ],
          several: null,
        },
      ],
    },
    {
      id: 'd1',
      topicId: 'd',
      assemblyId: 'door',
      title: 'Leaf',
      place: 'Door 1',
      prefix: 'door:1/',
      asked: [
        {
          path: 'door:1/extras',
          rowId: 'extras',
          name: 'extras',
          label: 'Extras',
          kind: 'several',
          required: true,
          unit: '',
          unitLabel: '',
          min: null,
          max: null,
          step: null,
          choices: [],
          several: [{ path: 'door:1/extras=lamp', label: 'Lamp', color: null, suggested: false }],
        },
      ],
    },
  ],
  places: [{ path: 'door', name: 'Doors', countPath: 'doors', prefixes: ['door:1/'] }],
  figures: [
    { path: 'load', rowId: 'load', assemblyId: 'room', label: 'Load', place: null, unit: 'W', formula: 'duty.load', reads: ['duty'] },
    { path: 'gone', rowId: 'gone', assemblyId: 'room', label: 'Gone', place: null, unit: '', formula: '1', reads: [] },
  ],
  lines: [{ kind: 'part', rowId: 'p', assemblyId: 'room', prefix: '', name: '', description: '', condition: 'duty = freezer' }],
  rows: { p: { assemblyId: 'room', quantity: 'load / 100 W', reads: ['load', 'hidden'], scrap: '2', step: '1' } },
  labels: { duty: 'Duty', load: 'Load' },
  leftOut: 2,
  priced: true,
} as never

const state = {
  head: 5,
  formKey: '5',
  valid: true,
  exact: true,
  asked: [
    { state: 'picked', value: 'chill', cannot: [1], clash: 1 },
    { state: 'suggested', valueLabel: 'none', several: [{ state: 'suggested', chosen: false, cannotBeIn: true }] },
  ],
  places: [{ count: 1, canAdd: true, canRemove: false }],
  clashes: [],
  missing: [],
  advice: [],
  figures: [{ suggested: '450 W', text: '400 – 500 W', open: true }, null],
  lines: [{ state: 'open', suggested: 'in', quantity: ['4 – 5', '4.5'], name: 'FAN' }],
  faults: [],
  items: { FAN: 'Fan' },
  structure: {
    item: 'CR',
    description: 'Cold room',
    site: null,
    quantity: '1',
    totals: {},
    bom: [{ position: 10, rowId: 'p', item: 'FAN', net: '4.5', operation: 10, reads: ['duty'], condition: 'duty = chill', cost: '9', weight: '1' }],
    routing: [
      { sequence: 10, rowId: 'o', name: 'Fit', workCentre: 'A', workCentreLabel: 'A', setup: '1', run: '2', queue: '0', crew: '1', cost: '3' },
    ],
  },
  values: [{ path: 'hidden', label: 'Hidden', value: '7' }],
  structureFaults: [],
  suggestions: 1,
  listPrice: null,
} as never

describe('an answer in two pieces', () => {
  const answer = answerOf(form, state)

  it('is put together with each thing in its place, and what was left out filled in', () => {
    const [duty, extras] = answer.sections.flatMap((s) => s.asked)
    expect(duty).toMatchObject({
      label: 'Duty',
      value: 'chill',
      valueLabel: 'Chill',
      applies: 'always',
      missing: false,
      clash: 1,
      lowest: null,
      choices: [{ can: true }, { can: false }],
    })
    expect(extras).toMatchObject({ valueLabel: 'none', several: [{ label: 'Lamp', chosen: false, canBeIn: false, canBeOut: true }] })
    expect(answer.places).toEqual([
      { path: 'door', name: 'Doors', countPath: 'doors', prefixes: ['door:1/'], count: 1, canAdd: true, canRemove: false },
    ])
    expect(answer.figures).toEqual([
      expect.objectContaining({
        path: 'load',
        text: '400 – 500 W',
        suggested: '450 W',
        final: false,
        because: [{ path: 'duty', label: 'Duty', value: 'Chill' }],
      }),
    ])
    expect(answer.lines).toEqual([
      expect.objectContaining({
        name: 'FAN',
        description: 'Fan',
        state: 'open',
        suggested: 'in',
        quantity: '4 – 5',
        suggestedQuantity: '4.5',
        condition: 'duty = freezer',
      }),
    ])
    expect([answer.leftOut, answer.priced]).toEqual([2, true])
  })

  it('tells of what is built why it is there and where its quantity comes from', () => {
    const line = answer.structure!.bom[0]!
    expect(line).toMatchObject({
      item: 'FAN',
      description: 'Fan',
      net: '4.5',
      gross: '4.5',
      unitLabel: 'pcs',
      issue: 'by hand',
      quantity: 'load / 100 W',
      scrap: '2',
      orderCost: '9',
      assemblyId: 'room',
      below: null,
    })
    expect(line.because).toEqual([{ path: 'duty', label: 'Duty', value: 'Chill' }])
    expect(line.quantityBecause).toEqual([
      { path: 'load', label: 'Load', value: '450 W' },
      { path: 'hidden', label: 'Hidden', value: '7' },
    ])
    expect(answer.structure!.routing[0]).toMatchObject({ orderSetup: '1', orderRun: '2', instructions: '', runFormula: '' })
  })
})

describe('asking', () => {
  it('says which form is known, and takes another one along where the model has changed', async () => {
    let key = '5'
    server.answer = ({ body }) =>
      json({ ...(state as object), formKey: key, ...((body as { form: string | null }).form === key ? {} : { form: { ...(form as object), key } }) })
    const queries = new QueryClient()
    const ask = () => askAnswer(queries, 9, { picks: [], site: null, date: null })
    await ask()
    await ask()
    key = '6'
    expect((await ask()).sections).toHaveLength(2)
    await ask()
    expect(asked('POST', '/api/revisions/9/answer').map((r) => (r.body as { form: string | null }).form)).toEqual([null, '5', '5', '6'])
  })
})

describe('an answer that takes longer', () => {
  const question = { picks: [], site: null, date: null }
  const events = (...of: [string, unknown][]) =>
    new Response(of.map(([name, data]) => `event: ${name}\ndata: ${JSON.stringify(data)}\n\n`).join(''), {
      headers: { 'Content-Type': 'text/event-stream' },
    })
  const first = {
    formKey: '5',
    valid: true,
    asked: [
      { path: 'duty', state: { state: 'picked', value: 'chill', unknown: true, unknownChoices: [1] } },
      { path: 'door:1/extras', state: { state: 'open', unknown: true, several: [{ state: 'open', chosen: null, unknown: true }] } },
    ],
  }
  const second = { formKey: '5', valid: true, asked: [{ path: 'duty', state: { state: 'picked', value: 'chill', cannot: [1] } }] }

  it('hands on what is known until then, each part with all that came before it', async () => {
    server.answer = () => events(['part', first], ['part', second], ['whole', state])
    const queries = new QueryClient()
    queries.setQueryData(['form', 9], form)
    const parts: Part[] = []
    const whole = await askAnswer(queries, 9, question, undefined, (p) => parts.push(p))
    expect(parts).toHaveLength(2)
    const [early, late] = parts.map((p) => withPart(whole, p).sections.flatMap((s) => s.asked))
    expect(early![0]!.choices).toMatchObject([{ can: true, unknown: false }, { unknown: true }])
    expect(early![1]).toMatchObject({ unknown: true, several: [{ unknown: true }] })
    expect(late![0]).toMatchObject({
      unknown: false,
      choices: [
        { can: true, unknown: false },
        { can: false, unknown: false },
      ],
    })
    expect(late![1]).toMatchObject({ unknown: true })
    expect(whole).toEqual(answerOf(form, state))
  })

  it('that breaks off is told as a lost connection, not as an answer', async () => {
    server.answer = () => events(['part', first])
    const queries = new QueryClient()
    queries.setQueryData(['form', 9], form)
    await expect(askAnswer(queries, 9, question, undefined, () => {})).rejects.toThrow('connection was lost')
  })
})
