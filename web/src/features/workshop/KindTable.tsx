import { useState } from 'react'
import { newId } from '../../api/ids'
import { Grid } from '../../ui/grid/Grid'
import type { CellChange, GridRow } from '../../ui/grid/types'
import { choicesOf, isEmptyText } from './choices'
import { fieldsOf, kindLabels, type FieldSpec } from './fields'
import { add, nextNumber, remove, rowsOf, set, valueAt, type Assembly, type Kind, type Row, type Step } from './model'
import { useEditsHere } from './useEditsHere'
import { highestOnItsWay } from './useModel'
import { useWorkshop } from './Workshop'

const typed: FieldSpec['as'][] = ['text', 'local', 'expression', 'item', 'unit', 'whole', 'select', 'date', 'flag']

const rank = (kind: Kind, spec: FieldSpec) => (['sequence', 'name', 'item', ...(kind === 'price' ? ['label'] : [])].includes(spec.field) ? 0 : spec.field === 'appliesWhen' ? 2 : spec.as === 'expression' ? 1 : 3)

const optional = ['min', 'max', 'step', 'suggestion', 'note', 'operationId', 'listId']

/** What a row of a kind is before anything is typed into it. */
function empty(kind: Kind): Record<string, unknown> {
  switch (kind) {
    case 'attribute':
      return { type: 'yesNo', required: true }
    case 'part':
      return { quantity: '1' }
    case 'statement':
    case 'requires':
    case 'excludes':
    case 'limit':
      return { strength: 'must' }
    default:
      return {}
  }
}

/** Kinds that a table of their fields says whole: a grid has rows of its own, a subassembly an assembly. */
const isWhole = (kind: Kind) => kind !== 'grid' && kind !== 'subassembly'

const isNumbered = (kind: Kind) => kind === 'statement' || kind === 'requires' || kind === 'excludes' || kind === 'limit'

const cellKey = (row: Row, spec: FieldSpec) => `${row.id} ${spec.field}`

/** All rows of one kind of an assembly as a table that is edited like a spreadsheet. */
export function KindTable({ assembly, kind }: { assembly: Assembly; kind: Kind }) {
  const { model, mayEdit, findings, language, goToRow, document, library, revisionId } = useWorkshop()
  const here = useEditsHere(model)
  /** What was typed where it can stand for nothing; it stays there until something else is typed. */
  const [wrong, setWrong] = useState<ReadonlyMap<string, string>>(new Map())
  const rows = rowsOf(assembly).filter((r) => r.kind === kind)
  const specs = fieldsOf[kind].filter((s, i, all) => typed.includes(s.as) && all.findIndex((o) => o.field === s.field) === i)
  const topic = assembly.topics.find((t) => t.rows.some((r) => r.id === rows.at(-1)?.id)) ?? assembly.topics.at(-1)
  const takesNew = mayEdit && isWhole(kind) && topic !== undefined
  // What a row is about stands first, then what it says.
  specs.sort((a, b) => rank(kind, a) - rank(kind, b))
  const fieldOf = (spec: FieldSpec) => (spec.as === 'local' ? `${spec.field}/${language}` : spec.field)
  const choices = (spec: FieldSpec, row: Row) => choicesOf(specOf(spec, row).from ?? spec.from!, row, { document, library, assemblyId: assembly.id })

  /** A field can be chosen in one row and typed in another, such as what is suggested. */
  function specOf(spec: FieldSpec, row: Row): FieldSpec {
    return fieldsOf[kind].find((s) => s.field === spec.field && typed.includes(s.as) && (s.when?.(row) ?? true)) ?? spec
  }

  function textOf(row: Row, spec: FieldSpec): string {
    const value = valueAt(row, fieldOf(spec))
    const of = specOf(spec, row)
    if (of.as === 'flag') return value === true ? 'yes' : 'no'
    if (of.as === 'select' && value !== null && value !== undefined && value !== '') return choices(spec, row).find(([stored]) => stored === value)?.[1] ?? String(value)
    return String(value ?? '')
  }

  /** What a text stands for in a field; undefined where it stands for nothing there. */
  function valueOf(row: Row, spec: FieldSpec, text: string): unknown {
    const value = text.trim()
    const of = specOf(spec, row)
    if (of.as === 'whole') return /^\d{1,6}$/.test(value) ? Number(value) : undefined
    if (of.as === 'flag') return /^(yes|true|x|1)$/i.test(value) ? true : /^(no|false|0)?$/i.test(value) ? false : undefined
    if (of.as === 'select') {
      if (value === '') return isEmptyText(of.from) ? '' : null
      const all = choices(spec, row).filter(([stored]) => stored !== '')
      const lower = value.toLowerCase()
      // A code or the beginning of a text is enough where it is the only one.
      const near = all.filter(([, shown]) => shown.toLowerCase().startsWith(lower))
      return (all.find(([stored, shown]) => stored.toLowerCase() === lower || shown.toLowerCase() === lower) ?? (near.length === 1 ? near[0] : undefined))?.[0] ?? (of.from === 'values' ? value : undefined)
    }
    if (value === '' && (optional.includes(spec.field) || of.as === 'date')) return null
    return of.as === 'local' ? text : value
  }

  function change(changes: CellChange[]) {
    const steps: Step[] = []
    const made = new Map<number, Record<string, unknown>>()
    let number = Math.max(nextNumber(document), highestOnItsWay(revisionId) + 1)
    const untold = new Map(wrong)
    for (const { row: at, column, text } of changes) {
      const [there, spec] = [rows[at], specs[column]!]
      const row = there ?? ((made.get(at) ?? { ...empty(kind), kind, id: newId(), ...(isNumbered(kind) && { number: number++ }) }) as unknown as Row)
      if (!there) made.set(at, row as unknown as Record<string, unknown>)
      const value = valueOf(row, spec, text)
      untold.delete(cellKey(row, spec))
      if (value === undefined) untold.set(cellKey(row, spec), text)
      else if (!there) {
        const fresh = row as unknown as Record<string, unknown>
        fresh[spec.field] = spec.as === 'local' ? { ...(fresh[spec.field] as object), [language]: value } : value
      } else {
        const before = valueAt(row, fieldOf(spec)) ?? null
        if (String(before ?? '') !== String(value ?? '')) steps.push(set(row.id, fieldOf(spec), value, before))
      }
    }
    let last = rows.at(-1)?.id ?? topic?.rows.at(-1)?.id ?? null
    for (const row of made.values()) {
      steps.push(add(topic!.id, 'rows', last, row))
      last = row.id as string
    }
    setWrong(untold)
    here.edit(...steps)
  }

  function cellsOf(row: Row): GridRow {
    return {
      key: row.id,
      cells: specs.map((s) => wrong.get(cellKey(row, s)) ?? textOf(row, s)),
      faults: specs.map((s) => {
        const text = wrong.get(cellKey(row, s))
        if (text === undefined) return findings.find((f) => f.rowId === row.id && f.field === s.field)
        const known = specOf(s, row).as === 'select' ? `: ${choices(s, row).flatMap(([stored, shown]) => (stored === '' ? [] : [shown])).slice(0, 8).join(', ')}` : specOf(s, row).as === 'whole' ? ': a whole number' : ': yes or no'
        return { message: `“${text}” is not stored; here stands${known}.`, start: 0, length: text.length, suggestion: null }
      }),
    }
  }

  return (
    <>
      {rows.length === 0 && <p className="quiet">This assembly has no rows of this kind: {kindLabels[kind].toLowerCase()}.{takesNew && ' Type the first one, or paste a block from a spreadsheet.'}</p>}
      {(rows.length > 0 || takesNew) && (
        <Grid
          name={`kind.${kind}`}
          label={kindLabels[kind]}
          one="row"
          columns={specs.map((s) => ({ key: s.field, name: s.label, width: s.as === 'expression' ? 240 : s.as === 'local' ? 210 : s.as === 'flag' || s.as === 'whole' ? 90 : 140, look: s.as === 'expression' ? 'font-mono text-[0.8125rem]' : s.as === 'whole' ? 'text-right' : '' }))}
          count={rows.length}
          rowAt={(i) => rows[i] && cellsOf(rows[i])}
          disabled={!mayEdit}
          takesNew={takesNew}
          onChange={change}
          onRemove={(marked) => here.edit(...marked.map((i) => remove(rows[i]!.id)))}
          onOpen={(i) => goToRow(assembly.id, rows[i]!.id)}
          onUndo={here.undo}
          onRedo={here.redo}
        />
      )}
    </>
  )
}
