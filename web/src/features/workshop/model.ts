import type { Schemas } from '../../api/client'
import { newId } from '../../api/ids'

export type Document = Schemas['ModelDocument']
export type Row = Schemas['Row']
export type Kind = Row['kind']
export type Assembly = Schemas['AssemblyDefinition']
export type Topic = Schemas['Topic']
export type ValueList = Schemas['ValueList']
export type Step = Schemas['EditStep']
export type Finding = Schemas['FindingView']

/** Texts have their own members by language; numbers, yes/no and texts are as in the file. */
export type FieldValue = string | number | boolean | string[] | null

const json = (value: unknown) => value as Schemas['JsonObject']

/** What a field of a thing holds; deeper ones with slashes. */
export function valueAt(thing: unknown, field: string): unknown {
  return field.split('/').reduce<unknown>((at, member) => (typeof at === 'object' && at !== null ? (at as Record<string, unknown>)[member] : undefined), thing)
}

export const set = (rowId: string, field: string, value: unknown, before: unknown): Step => ({ do: 'set', rowId, field, value: value ?? null, before: before ?? null })
export const add = (parentId: string, collection: string, afterId: string | null, row: object): Step => ({ do: 'add', parentId, collection, afterId, row: json(row) })
export const remove = (rowId: string): Step => ({ do: 'remove', rowId })
export const move = (rowId: string, parentId: string, collection: string, afterId: string | null): Step => ({ do: 'move', rowId, parentId, collection, afterId })

export const rowsOf = (assembly: Assembly): Row[] => assembly.topics.flatMap((t) => t.rows)
export const allRows = (document: Document): Row[] => document.assemblies.flatMap(rowsOf)

/** Where a row stands. */
export function placeOf(document: Document, rowId: string): { assembly: Assembly; topic: Topic; row: Row; index: number } | undefined {
  for (const assembly of document.assemblies)
    for (const topic of assembly.topics) {
      const index = topic.rows.findIndex((r) => r.id === rowId)
      if (index >= 0) return { assembly, topic, row: topic.rows[index]!, index }
    }
  return undefined
}

export const nameOf = (row: Row): string => ('name' in row ? row.name : '')
export const isRule = (row: Row) => row.kind === 'statement' || row.kind === 'requires' || row.kind === 'excludes' || row.kind === 'limit' || row.kind === 'grid'

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

/** A copy of a row with ids, name and number of its own. */
export function copyOf(document: Document, assembly: Assembly, row: Row): Row {
  const copy = structuredClone(row)
  copy.id = newId()
  if ('name' in copy && copy.kind !== 'operation') copy.name = freeName(assembly, copy.name)
  if ('number' in copy) copy.number = nextNumber(document)
  if (copy.kind === 'grid') {
    copy.columns.forEach((c) => (c.id = newId()))
    copy.rows.forEach((r) => (r.id = newId()))
  }
  if (copy.kind === 'subassembly') copy.inputs.forEach((i) => (i.id = newId()))
  return copy
}

export const mostInstances = 50

/** So many instances, with ids that last: the first ones stay as they are. */
export const resized = (instances: { id: string }[], count: number): { id: string }[] =>
  Array.from({ length: count }, (_, i) => instances[i] ?? { id: String(i + 1) }).map((instance, i, all) => (all.findIndex((other) => other.id === instance.id) === i ? instance : { id: newId() }))

/** How a row reads in one line. */
export function summaryOf(row: Row, document: Document): string {
  switch (row.kind) {
    case 'attribute': {
      const list = document.lists.find((l) => l.id === row.listId)
      const range = [row.min ?? '…', row.max ?? '…'].join(' … ') + (row.unit ? ` ${row.unit}` : '') + (row.step ? `, steps of ${row.step}` : '')
      const type = { choice: `choice of ${list?.name ?? 'no list yet'}`, yesNo: 'yes or no', whole: `whole number ${range}`, quantity: `quantity ${range}`, text: 'text', several: `${[row.min ? `at least ${row.min}` : '', row.max ? `at most ${row.max}` : ''].filter(Boolean).join(', ') || 'any number'} of ${list?.name ?? 'no list yet'}` }[row.type]
      return type + (row.required || row.type === 'several' ? '' : ', optional') + (row.input ? ', input' : '')
    }
    case 'computed':
      return row.expression
    case 'statement':
      return row.expression
    case 'requires':
      return `${row.when} requires ${row.then}`
    case 'excludes':
      return `${row.when} excludes ${row.then}`
    case 'limit':
      return row.lower && row.upper ? `${row.of} between ${row.lower} and ${row.upper}` : row.lower ? `${row.of} at least ${row.lower}` : `${row.of} at most ${row.upper}`
    case 'grid':
      return `${row.rows.length > 0 || row.drawnFrom === '' ? `${row.rows.length} rows` : ''}${row.rows.length > 0 && row.drawnFrom ? ' and ' : ''}${row.drawnFrom ? `items where ${row.drawnFrom}` : ''} over ${row.columns.map((c) => c.name).join(', ')}`
    case 'subassembly':
      return `${row.make === 'phantom' ? 'phantom' : `own item ${row.item}`}, filled by ${document.assemblies.find((a) => a.id === row.assemblyId)?.name ?? '?'}${row.instances.length > 1 ? `, ${row.instanceCount ? `${row.instanceCount} of at most ${row.instances.length}` : row.instances.length}` : ''}`
    case 'part':
      return `${row.item || row.itemFrom} × ${row.quantity || '…'}`
    case 'price':
      return { adds: '', times: '× ', atLeast: 'at least ', rounds: `rounded ${row.rounding === 'nearest' ? '' : `${row.rounding} `}to ` }[row.effect] + (row.amount || '…')
    case 'operation':
      return `${row.workCentre || 'no work centre'}  ${[row.setup, row.run].filter(Boolean).join(' + ')}`
  }
}
