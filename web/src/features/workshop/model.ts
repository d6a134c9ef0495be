import type { Schemas } from '../../api/client'
import { newId } from '../../api/ids'
import { t } from '../../texts'

export type Document = Schemas['ModelDocument']
export type Row = Schemas['Row']
export type Kind = Row['kind']
export type Assembly = Schemas['AssemblyDefinition']
export type Topic = Schemas['Topic']
export type ValueList = Schemas['ValueList']
export type ReusedModel = Schemas['ReusedModel']
export type Step = Schemas['EditStep']
export type Finding = Schemas['FindingView']

/** Texts have their own members by language; numbers, yes/no and texts are as in the file. */
export type FieldValue = string | number | boolean | string[] | null

const json = (value: unknown) => value as Schemas['JsonObject']

/** What a field of a thing holds; deeper ones with slashes. */
export function valueAt(thing: unknown, field: string): unknown {
  return field
    .split('/')
    .reduce<unknown>((at, member) => (typeof at === 'object' && at !== null ? (at as Record<string, unknown>)[member] : undefined), thing)
}

export const set = (rowId: string, field: string, value: unknown, before: unknown): Step => ({
  do: 'set',
  rowId,
  field,
  value: value ?? null,
  before: before ?? null,
})
export const add = (parentId: string, collection: string, afterId: string | null, row: object): Step => ({
  do: 'add',
  parentId,
  collection,
  afterId,
  row: json(row),
})
export const remove = (rowId: string): Step => ({ do: 'remove', rowId })
export const move = (rowId: string, parentId: string, collection: string, afterId: string | null): Step => ({
  do: 'move',
  rowId,
  parentId,
  collection,
  afterId,
})

/** As many steps as the server takes in one edit. */
const mostSteps = 2_000

/** Steps in as few edits as the server takes them: a large block that is pasted has more of them than one edit may have. */
export const inEdits = (steps: Step[]): Step[][] =>
  Array.from({ length: Math.ceil(steps.length / mostSteps) }, (_, i) => steps.slice(i * mostSteps, (i + 1) * mostSteps))

/** Takes a released revision of another product in, another one of it instead, or none any more. */
export const reuse = (entryId: string, productId: string, revision: number | null, before: number | null): Step => ({
  do: 'reuse',
  entryId,
  productId,
  revision,
  before,
  content: null,
})

export const rowsOf = (assembly: Assembly): Row[] => assembly.topics.flatMap((t) => t.rows)
/** The rows of the model itself, without those of what it reuses. */
export const allRows = (document: Document): Row[] => document.assemblies.flatMap(rowsOf)

/** The assemblies of the model itself, then those of what it reuses. */
export const everyAssembly = (document: Document): Assembly[] => [...document.assemblies, ...document.reused.flatMap((r) => r.assemblies)]
export const everyList = (document: Document): ValueList[] => [...document.lists, ...document.reused.flatMap((r) => r.lists)]

/** An assembly by its id; a reused model stands for the assembly at its head. */
export function assemblyOf(document: Document, id: string | null | undefined): Assembly | undefined {
  const wanted = document.reused.find((r) => r.id === id)?.root ?? id
  return everyAssembly(document).find((a) => a.id === wanted)
}

export const listOf = (document: Document, id: string | null | undefined): ValueList | undefined => everyList(document).find((l) => l.id === id)

/** The reused model that an assembly or a list belongs to, or that an id stands for; nothing for what is the model's own. */
export const reusedModelOf = (document: Document, id: string | null | undefined): ReusedModel | undefined =>
  document.reused.find((r) => r.id === id || r.assemblies.some((a) => a.id === id) || r.lists.some((l) => l.id === id))

/** Where a row stands. */
export function placeOf(document: Document, rowId: string): { assembly: Assembly; topic: Topic; row: Row; index: number } | undefined {
  for (const assembly of everyAssembly(document))
    for (const topic of assembly.topics) {
      const index = topic.rows.findIndex((r) => r.id === rowId)
      if (index >= 0) return { assembly, topic, row: topic.rows[index]!, index }
    }
  return undefined
}

export const nameOf = (row: Row | undefined): string => (row && 'name' in row ? row.name : '')
export const isRule = (row: Row) =>
  row.kind === 'statement' || row.kind === 'requires' || row.kind === 'excludes' || row.kind === 'limit' || row.kind === 'grid'

/** The next free number of a rule: numbers are quoted, so that they are not used twice. */
export const nextNumber = (document: Document): number => Math.max(0, ...allRows(document).map((r) => ('number' in r ? r.number : 0))) + 1

/** A name that nothing else in the assembly has; case makes no difference. */
export function freeName(assembly: Assembly, wanted: string): string {
  const taken = new Set(rowsOf(assembly).map((r) => nameOf(r).toUpperCase()))
  for (let n = 2, name = wanted; ; n++) {
    if (!taken.has(name.toUpperCase())) return name
    name = `${wanted}_${n}`
  }
}

export const mostInstances = 50

/** So many instances, with ids that last: the first ones stay as they are. */
export const resized = (instances: { id: string }[], count: number): { id: string }[] =>
  Array.from({ length: count }, (_, i) => instances[i] ?? { id: String(i + 1) }).map((instance, i, all) =>
    all.findIndex((other) => other.id === instance.id) === i ? instance : { id: newId() },
  )

/** What fills a subassembly, in a word. */
export function filledBy(document: Document, assemblyId: string): string {
  const reused = reusedModelOf(document, assemblyId)
  return reused
    ? t('workshop.codeRevisionRevision', { code: reused.code, revision: reused.revision })
    : (assemblyOf(document, assemblyId)?.name ?? '?')
}

/** Texts that are there, as one. */
const joined = (...texts: (string | false | null | undefined)[]) => texts.filter(Boolean).join(', ')

/** What a part or operation says beside its quantity, its times and its item. */
const named = (name: string, text: string | null | undefined) => text !== null && text !== undefined && text !== '' && `${name} ${text}`

function summaryOfAttribute(row: Extract<Row, { kind: 'attribute' }>, document: Document): string {
  const list = listOf(document, row.listId)
  const range =
    [row.min ?? '…', row.max ?? '…'].join(' … ') + (row.unit ? ` ${row.unit}` : '') + (row.step ? t('workshop.stepsOfStep', { step: row.step }) : '')
  const type = {
    choice: t('workshop.choiceOfName', { name: list?.name ?? t('workshop.noListYet') }),
    yesNo: t('workshop.yesOrNo'),
    whole: t('workshop.wholeNumberRange', { range }),
    quantity: t('workshop.quantityRange', { range }),
    text: t('workshop.text'),
    several: t('workshop.joinedOfName', {
      joined:
        joined(row.min && t('workshop.atLeastMin', { min: row.min }), row.max && t('workshop.atMostMax', { max: row.max })) ||
        t('workshop.anyNumber'),
      name: list?.name ?? t('workshop.noListYet'),
    }),
  }[row.attributeKind]
  return joined(
    type,
    named(t('workshop.atLeast'), row.lower),
    named(t('workshop.atMost'), row.upper),
    !row.required && row.attributeKind !== 'several' && t('workshop.optional'),
    row.input && t('workshop.input'),
  )
}

/** How a row reads in one line: all that decides it, its condition aside. What is suggested decides nothing, and the bench shows it. */
export function summaryOf(row: Row, document: Document): string {
  switch (row.kind) {
    case 'attribute':
      return summaryOfAttribute(row, document)
    case 'computed':
      return row.expression
    case 'statement':
      return row.expression
    case 'requires':
      return t('workshop.whenRequiresThen', { when: row.when, then: row.then })
    case 'excludes':
      return t('workshop.whenExcludesThen', { when: row.when, then: row.then })
    case 'limit':
      return row.lower && row.upper
        ? t('workshop.ofBetweenLowerAndUpper', { of: row.of, lower: row.lower, upper: row.upper })
        : row.lower
          ? t('workshop.ofAtLeastLower', { of: row.of, lower: row.lower })
          : t('workshop.ofAtMostUpper', { of: row.of, upper: row.upper })
    case 'grid':
      return t('workshop.gridOver', {
        rows: row.rows.length > 0 || row.drawnFrom === '' ? t('workshop.manyRows', { n: row.rows.length }) : '',
        and: row.rows.length > 0 && row.drawnFrom ? ` ${t('workshop.and')} ` : '',
        drawnFrom: row.drawnFrom ? t('workshop.itemsWhereDrawnFrom', { drawnFrom: row.drawnFrom }) : '',
        columns: row.columns.map((c) => c.name).join(', '),
      })
    case 'subassembly':
      return joined(
        row.make === 'phantom' ? t('workshop.phantom') : t('workshop.ownItemItem', { item: row.item }),
        t('workshop.filledByFilledBy', { filledBy: filledBy(document, row.assemblyId) }),
        row.instances.length > 1 &&
          (row.instanceCount
            ? t('workshop.instancesOfAtMost', { expression: row.instanceCount, most: row.instances.length })
            : String(row.instances.length)),
        row.quantity !== '' && row.quantity !== '1' && t('workshop.quantityPiecesOfEach', { quantity: row.quantity }),
      )
    case 'part':
      return joined(
        `${row.item || row.itemFrom} × ${row.quantity || '…'}`,
        named(t('workshop.roundedUpTo'), row.step),
        row.scrap !== '' && t('workshop.scrapScrap', { scrap: row.scrap }),
        row.perOrder && t('workshop.oncePerOrder'),
        named('or', row.substitutes),
        named('adds', row.surcharge),
      )
    case 'price':
      return (
        {
          adds: '',
          times: '× ',
          atLeast: t('workshop.atLeast2'),
          rounds: t('workshop.roundedRoundingTo', { rounding: row.rounding === 'nearest' ? '' : `${row.rounding} ` }),
        }[row.effect] + (row.amount || '…')
      )
    case 'operation':
      return joined(
        row.workCentreFrom || row.workCentre || t('workshop.noWorkCentre'),
        named('set-up', row.setup),
        named('run', row.run),
        named('queue', row.queue),
        named('batch', row.batch),
        named(t('workshop.atTheSameTimeAs'), row.parallel),
        named('adds', row.surcharge),
      )
  }
}

/** When and where a row holds; empty where always and everywhere. */
export const holdsOf = (row: Row): string =>
  joined(
    named(t('workshop.from'), row.from),
    named(t('workshop.until'), row.to),
    row.sites.length > 0 && t('workshop.onlyAt', { sites: row.sites.join(', ') }),
    'strength' in row && row.strength === 'advice' && t('workshop.advice'),
  )
