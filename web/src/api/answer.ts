import type { QueryClient } from '@tanstack/react-query'
import { ask, client, ProblemError, type Schemas } from './client'
import { eventsOf } from './steps'
import { t } from '../texts'

// An answer comes in two pieces: the form, which no pick changes and which is told once, and how all of it stands. Pages
// see both put together.

export type Choice = Schemas['ChoiceForm'] & {
  can: boolean
  /** Whether it can be had is not known yet. */
  unknown: boolean
}
export type Member = Schemas['MemberForm'] & {
  state: Schemas['AttributeState']
  chosen: boolean | null
  canBeIn: boolean
  canBeOut: boolean
  missing: boolean
  clash: number
  unknown: boolean
}
export type Asked = Omit<Schemas['AskedForm'], 'choices' | 'several'> & {
  state: Schemas['AttributeState']
  applies: Schemas['Applicability']
  missing: boolean
  value: string | null
  valueLabel: string | null
  /** The number shared by the members of a clash; zero where it is in none. */
  clash: number
  lowest: string | null
  highest: string | null
  members: string[] | null
  choices: Choice[]
  several: Member[] | null
  /** Something of it is not known yet; of a number, how far it goes. */
  unknown: boolean
}
export type Section = Omit<Schemas['SectionForm'], 'asked'> & { asked: Asked[] }
export type Place = Schemas['PlaceForm'] & Schemas['PlaceState']
export type Figure = Omit<Schemas['FigureForm'], 'reads'> & { text: string; suggested: string; final: boolean; because: Schemas['BecauseView'][] }
export type Line = Schemas['LineForm'] & { state: Schemas['LineState']; quantity: string; suggested: Schemas['LineState']; suggestedQuantity: string }

type Form = Schemas['AnswerForm']
type State = Schemas['AnswerState']

/** Everything the bench shows for a set of picks on one state of a revision. */
export type Answer = Omit<State, 'formKey' | 'asked' | 'places' | 'figures' | 'lines' | 'structure' | 'values' | 'items' | 'form'> & {
  sections: Section[]
  places: Place[]
  figures: Figure[]
  lines: Line[]
  structure: Schemas['StructureView'] | null
  leftOut: number
  priced: boolean
}

export function answerOf(form: Form, state: State): Answer {
  const { asked, places, figures, lines, structure, values, items } = state
  let at = 0
  const sections = form.sections.map((s) => ({ ...s, asked: s.asked.map((a) => askedOf(a, asked[at++]!)) }))
  const known = new Map<string, string>()
  for (const a of sections.flatMap((s) => s.asked)) if (a.valueLabel !== null) known.set(a.path, a.valueLabel)
  form.figures.forEach((f, i) => figures[i] && known.set(f.path, figures[i].suggested))
  const because = (paths: string[]) => paths.map((path) => ({ path, label: form.labels[path] ?? path, value: known.get(path) ?? 'open' }))
  const elsewhere = new Map(values.map((v) => [v.path, v]))
  return {
    head: state.head,
    valid: state.valid,
    exact: state.exact,
    clashes: state.clashes,
    missing: state.missing,
    advice: state.advice,
    faults: state.faults,
    structureFaults: state.structureFaults,
    suggestions: state.suggestions,
    price: state.price,
    sections,
    places: form.places.map((p, i) => ({ ...p, ...places[i]! })),
    figures: form.figures.flatMap(({ reads, ...f }, i) => (figures[i] ? [figureOf(f, figures[i], because(reads))] : [])),
    lines: form.lines.map((l, i) => lineOf(l, lines[i]!, items)),
    structure: structure && structureOf(structure, { form, items, because: (paths) => because(paths).map((b) => elsewhere.get(b.path) ?? b) }),
    leftOut: form.leftOut,
    priced: form.priced,
  }
}

function askedOf(form: Schemas['AskedForm'], s: Schemas['AskedState']): Asked {
  return {
    ...form,
    state: s.state,
    applies: s.applies ?? 'always',
    missing: s.missing ?? false,
    value: s.value ?? null,
    valueLabel: s.valueLabel ?? form.choices.find((c) => c.value === s.value)?.label ?? null,
    clash: s.clash ?? 0,
    lowest: s.lowest ?? null,
    highest: s.highest ?? null,
    members: s.members ?? null,
    choices: form.choices.map((c, i) => ({ ...c, can: !s.cannot?.includes(i), unknown: s.unknownChoices?.includes(i) ?? false })),
    unknown: s.unknown ?? false,
    several: form.several && form.several.map((m, i) => memberOf(m, s.several![i]!)),
  }
}

const memberOf = (form: Schemas['MemberForm'], s: Schemas['MemberState']): Member => ({
  ...form,
  state: s.state,
  chosen: s.chosen ?? null,
  canBeIn: !s.cannotBeIn,
  canBeOut: !s.cannotBeOut,
  missing: s.missing ?? false,
  clash: s.clash ?? 0,
  unknown: s.unknown ?? false,
})

const figureOf = (form: Omit<Schemas['FigureForm'], 'reads'>, s: Schemas['FigureState'], because: Schemas['BecauseView'][]): Figure => ({
  ...form,
  text: s.text ?? s.suggested,
  suggested: s.suggested,
  final: !s.open,
  because,
})

function lineOf(form: Schemas['LineForm'], s: Schemas['LineStateView'], items: Record<string, string>): Line {
  const [quantity = '', suggestedQuantity = quantity] = s.quantity ?? []
  const item = s.name == null ? {} : { name: s.name, description: s.description ?? items[s.name] ?? '' }
  return { ...form, ...item, state: s.state, quantity, suggested: s.suggested ?? s.state, suggestedQuantity }
}

type With = { form: Form; items: Record<string, string>; because: (paths: string[]) => Schemas['BecauseView'][] }

const structureOf = (s: Schemas['StructureState'], w: With): Schemas['StructureView'] => ({
  ...s,
  bom: s.bom.map((l) => bomLineOf(l, w)),
  routing: s.routing.map((o) => operationOf(o, w)),
})

/** What a row has alike in every line, with its paths from the place of this one. */
function rowOf(rowId: string, prefix: string, { form, because }: With) {
  const row = form.rows[rowId]
  return {
    assemblyId: row?.assemblyId ?? '',
    formula: row?.quantity ?? '',
    because: because((row?.reads ?? []).map((path) => prefix + path)),
    scrap: row?.scrap ?? '0',
    step: row?.step ?? '',
  }
}

function bomLineOf(l: Schemas['BomLineState'], w: With): Schemas['BomLineView'] {
  const prefix = l.prefix ?? ''
  const row = rowOf(l.rowId, prefix, w)
  const gross = l.gross ?? l.net
  return {
    position: l.position,
    item: l.item,
    description: l.description ?? w.items[l.item] ?? '',
    net: l.net,
    gross,
    unit: l.unit ?? '',
    unitLabel: l.unitLabel ?? (l.unit || t('api.pcs')),
    perOrder: l.perOrder ?? false,
    issue: l.backflush ? t('api.backflush') : t('api.byHand'),
    store: l.store ?? '',
    operation: l.operation ?? null,
    condition: l.condition ?? '',
    because: w.because(l.reads ?? []),
    quantity: row.formula,
    scrap: row.scrap,
    step: row.step,
    quantityBecause: row.because,
    cost: l.cost,
    weight: l.weight,
    orderNet: l.net,
    orderGross: gross,
    orderCost: l.cost,
    orderWeight: l.weight,
    rowId: l.rowId,
    assemblyId: row.assemblyId,
    prefix,
    below: l.below ? structureOf(l.below, w) : null,
    figures: l.figures ?? [],
    substitutes: l.substitutes ?? [],
    instances: l.instances ?? [],
    steps: null,
  }
}

function operationOf(o: Schemas['OperationState'], w: With): Schemas['OperationView'] {
  const prefix = o.prefix ?? ''
  const row = rowOf(o.rowId, prefix, w)
  return {
    sequence: o.sequence,
    name: o.name,
    workCentre: o.workCentre,
    workCentreLabel: o.workCentreLabel,
    setup: o.setup,
    run: o.run,
    queue: o.queue,
    instructions: o.instructions ?? '',
    condition: o.condition ?? '',
    because: w.because(o.reads ?? []),
    crew: o.crew,
    parallel: o.parallel ?? '',
    batch: o.batch ?? '',
    runSteps: null,
    runFormula: row.formula,
    runBecause: row.because,
    orderSetup: o.orderSetup ?? o.setup,
    orderRun: o.orderRun ?? o.run,
    cost: o.cost,
    orderCost: o.cost,
    rowId: o.rowId,
    assemblyId: row.assemblyId,
    prefix,
  }
}

type Question = { picks: Schemas['PickRequest'][]; site: string | null; date: string | null; setAside?: string[] }

/** What is known of an answer while it is worked out: how some questions stand, by path. */
export type Part = { valid: boolean; asked: ReadonlyMap<string, Schemas['AskedState']> }

/**
 * The answer to picks at a site and day. The form is asked for only where it is not known yet. Where it takes longer than a frame, what is known
 * until then is handed on.
 */
export async function askAnswer(
  queries: QueryClient,
  revisionId: number,
  question: Question,
  signal?: AbortSignal,
  onPart?: (part: Part) => void,
): Promise<Answer> {
  const key = ['form', revisionId]
  const known = queries.getQueryData<Form>(key)
  const body = { ...question, form: known?.key ?? null, parts: onPart !== undefined }
  const stream = await ask(
    client
      .POST('/api/revisions/{id}/answer', { params: { path: { id: revisionId } }, body, parseAs: 'stream', ...(signal && { signal }) })
      .then(({ data, ...r }) => ({ ...r, data: { body: data, isWhole: !r.response.headers.get('Content-Type')?.startsWith('text/event-stream') } })),
  )
  const state = stream.isWhole ? ((await new Response(stream.body).json()) as State) : await wholeOf(stream.body!, signal, onPart)
  const form = state.form ?? known!
  if (state.form) queries.setQueryData(key, state.form)
  return answerOf(form, state)
}

/** Hands on parts until the whole is there. */
async function wholeOf(body: ReadableStream<Uint8Array<ArrayBuffer>>, signal?: AbortSignal, onPart?: (part: Part) => void): Promise<State> {
  const asked = new Map<string, Schemas['AskedState']>()
  for await (const { name, data } of eventsOf(body, signal)) {
    if (name === 'whole') return data as State
    const part = data as Schemas['AnswerPart']
    for (const { path, state } of part.asked) asked.set(path, state)
    if (!signal?.aborted) onPart?.({ valid: part.valid, asked: new Map(asked) })
  }
  signal?.throwIfAborted()
  throw new ProblemError({ status: 0, detail: t('api.theConnectionWasLostBeforeIt') })
}

/** An answer of before, with what is known of the one that is worked out. What is not known of that yet is marked. */
export const withPart = (before: Answer, part: Part): Answer => ({
  ...before,
  valid: part.valid,
  clashes: part.valid ? [] : before.clashes,
  sections: before.sections.map((s) => ({ ...s, asked: s.asked.map((a) => (part.asked.has(a.path) ? askedOf(a, part.asked.get(a.path)!) : a)) })),
})
