import { newId } from '../../../api/ids'
import {
  add,
  allRows,
  assemblyOf,
  everyAssembly,
  freeName,
  listOf,
  move,
  nextNumber,
  reusedModelOf,
  rowsOf,
  type Assembly,
  type Document,
  type Row,
  type Step,
  type Topic,
  type ValueList,
} from '../model'
import { highestOnItsWay } from '../useModel'
import { t } from '../../../texts'

/** Under which rows stand on the clipboard and in what is dragged, beside a text that can be read. */
export const rowsType = 'application/x-juniperfall-rows'

/** Rows with what they need to stand in another model: the value lists of their choices, the assemblies that fill them. */
export type CopiedRows = { revisionId: number; assemblyId: string; rows: Row[]; lists: ValueList[]; assemblies: Assembly[] }

/** The assemblies of the model's own that fill rows, those within them too. */
function below(document: Document, rows: Row[], found: Assembly[] = []): Assembly[] {
  for (const row of rows) {
    const assembly = row.kind === 'subassembly' && !reusedModelOf(document, row.assemblyId) ? assemblyOf(document, row.assemblyId) : undefined
    if (!assembly || found.includes(assembly)) continue
    found.push(assembly)
    below(document, rowsOf(assembly), found)
  }
  return found
}

export function copyRows(document: Document, revisionId: number, assembly: Assembly, rows: Row[]): CopiedRows {
  const assemblies = below(document, rows)
  const lists = [...rows, ...assemblies.flatMap(rowsOf)].flatMap((r) => (r.kind === 'attribute' ? (listOf(document, r.listId) ?? []) : []))
  return { revisionId, assemblyId: assembly.id, rows, lists: [...new Set(lists)], assemblies }
}

/** What was copied, from what another tab or model put there; null where it is none of ours. */
export function readCopied(json: string): CopiedRows | null {
  try {
    const read = JSON.parse(json) as Partial<CopiedRows> | null
    return Array.isArray(read?.rows) && Array.isArray(read.lists) && Array.isArray(read.assemblies) ? (read as CopiedRows) : null
  } catch {
    return null
  }
}

const same = (a: string, b: string) => a.toUpperCase() === b.toUpperCase()

type Into = { document: Document; revisionId: number; assembly: Assembly; topicId: string; afterId: string | null; numbered: number }

/**
 * The steps that put copied rows after a row of a topic, with ids, names and numbers of their own. In another model their lists and assemblies
 * come along; a list of the same name with the same codes is taken as it stands there. A row that cannot come along is told.
 */
export function pasteSteps(
  copied: CopiedRows,
  { document, revisionId, assembly, topicId, afterId, numbered }: Into,
): { steps: Step[]; made: string[]; left: string[] } {
  const isHere = copied.revisionId === revisionId
  const steps: Step[] = []
  /** Ids of the copied things → those of their copies. */
  const ids = new Map<string, string>()
  const left: string[] = []
  const fresh = (id: string) => ids.get(id) ?? (ids.set(id, newId()), ids.get(id)!)
  let number = Math.max(nextNumber(document), numbered + 1)

  let lastList = document.lists.at(-1)?.id ?? null
  const listNames = document.lists.map((l) => l.name)
  for (const list of copied.lists) {
    if (isHere && listOf(document, list.id)) continue
    const there = document.lists.find((l) => same(l.name, list.name) && list.values.every((v) => l.values.some((o) => same(o.code, v.code))))
    if (there) {
      ids.set(list.id, there.id)
      for (const v of list.values) ids.set(v.id, there.values.find((o) => same(o.code, v.code))!.id)
      for (const p of list.properties) ids.set(p.id, there.properties.find((o) => same(o.name, p.name))?.id ?? '')
      continue
    }
    let name = list.name
    for (let n = 2; listNames.some((l) => same(l, name)); n++) name = `${list.name}_${n}`
    listNames.push(name)
    const properties = list.properties.map((p) => ({ ...p, id: fresh(p.id) }))
    const values = list.values.map((v) => ({
      ...v,
      id: fresh(v.id),
      properties: Object.fromEntries(Object.entries(v.properties).map(([p, text]) => [ids.get(p) ?? p, text])),
    }))
    steps.push(add(document.id, 'lists', lastList, { ...list, id: fresh(list.id), name, properties, values }))
    lastList = fresh(list.id)
  }

  // All ids first: rows name one another.
  const newAssemblies = copied.assemblies.filter((a) => !isHere || !assemblyOf(document, a.id))
  for (const a of newAssemblies) {
    fresh(a.id)
    for (const t of a.topics) fresh(t.id)
    for (const r of rowsOf(a)) fresh(r.id)
  }
  for (const r of copied.rows) fresh(r.id)

  const known = (id: string | null | undefined) => (id ? (ids.get(id) ?? (isHere ? id : null)) : null)
  const taken = rowsOf(assembly)
  function copyOf(row: Row, isNested: boolean): Row | null {
    const copy = structuredClone(row)
    copy.id = fresh(row.id)
    if ('number' in copy) copy.number = number++
    if (!isNested && 'name' in copy && copy.kind !== 'operation') {
      copy.name = freeName({ ...assembly, topics: [{ id: '', label: {}, rows: taken }] }, copy.name)
      taken.push(copy)
    }
    if (copy.kind === 'attribute') {
      copy.listId = known(copy.listId)
      copy.surchargeColumn = known(copy.surchargeColumn) ?? ''
      if (copy.attributeKind === 'choice' || copy.attributeKind === 'several')
        copy.suggestion = copy.suggestion
          ? copy.suggestion
              .split(' ')
              .map((v) => known(v) ?? v)
              .join(' ')
          : null
    }
    if (copy.kind === 'grid') {
      copy.columns.forEach((c) => (c.id = newId()))
      copy.rows.forEach((r) => (r.id = newId()))
    }
    if (copy.kind === 'part' || copy.kind === 'subassembly')
      copy.operationId = ids.get(copy.operationId ?? '') ?? (isHere && copied.assemblyId === assembly.id ? copy.operationId : null)
    if (copy.kind === 'part') {
      copy.figures.forEach((f) => (f.id = newId()))
    }
    if (copy.kind === 'subassembly') {
      const filled = known(copy.assemblyId)
      if (filled === null) return (left.push(t('workshop.nameIsFilledByAProduct', { name: copy.name })), null)
      copy.assemblyId = filled
      copy.inputs = copy.inputs.map((i) => ({ ...i, id: newId(), attributeId: known(i.attributeId) ?? i.attributeId }))
    }
    return copy
  }

  let lastAssembly = document.assemblies.at(-1)?.id ?? null
  const assemblyNames = document.assemblies.map((a) => a.name)
  for (const a of newAssemblies) {
    let name = a.name
    for (let n = 2; assemblyNames.some((o) => same(o, name)); n++) name = `${a.name}_${n}`
    assemblyNames.push(name)
    const topics = a.topics.map((t) => ({ ...t, id: fresh(t.id), rows: t.rows.flatMap((r) => copyOf(r, true) ?? []) }))
    steps.push(add(document.id, 'assemblies', lastAssembly, { ...a, id: fresh(a.id), name, topics }))
    lastAssembly = fresh(a.id)
  }

  let last = afterId
  const made: string[] = []
  for (const row of copied.rows) {
    const copy = copyOf(row, false)
    if (!copy) continue
    steps.push(add(topicId, 'rows', last, copy))
    last = copy.id
    made.push(copy.id)
  }
  return { steps: made.length === 0 ? [] : steps, made, left }
}

/** Steps that put rows into a topic before another row, or at its end. */
export function moveSteps(rows: string[], topic: Topic, before: string | null): Step[] {
  const at = before === null ? topic.rows.length : topic.rows.findIndex((r) => r.id === before)
  let last = topic.rows.slice(0, at).findLast((r) => !rows.includes(r.id))?.id ?? null
  return rows.map((id) => {
    const step = move(id, topic.id, 'rows', last)
    last = id
    return step
  })
}

type Place = { document: Document; revisionId: number; topic: Topic; before: string | null; isMove: boolean }

/** Puts copied rows before a row of a topic, or at its end: moved where they still stand in this model and are to be, as copies otherwise. */
export function putSteps(
  copied: CopiedRows,
  { document, revisionId, topic, before, isMove }: Place,
): { steps: Step[]; made: string[]; left: string[] } {
  const ids = copied.rows.map((r) => r.id)
  const areHere = copied.revisionId === revisionId && ids.every((id) => allRows(document).some((o) => o.id === id))
  if (isMove && areHere) return { steps: before !== null && ids.includes(before) ? [] : moveSteps(ids, topic, before), made: ids, left: [] }
  const assembly = everyAssembly(document).find((a) => a.topics.includes(topic))!
  const afterId = (before === null ? topic.rows.at(-1) : topic.rows[topic.rows.findIndex((r) => r.id === before) - 1])?.id ?? null
  return pasteSteps(copied, { document, revisionId, assembly, topicId: topic.id, afterId, numbered: highestOnItsWay(revisionId) })
}
