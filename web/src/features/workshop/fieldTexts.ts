import type { Schemas } from '../../api/client'
import { newId } from '../../api/ids'
import { choicesOf } from './choices'
import { fieldsOf, isNumbered, type FieldSpec } from './fields'
import { valueAt, type Document, type Kind, type Row } from './model'
import { t } from '../../texts'

const asText: FieldSpec['form'][] = ['text', 'local', 'template', 'expression', 'item', 'items', 'unit', 'whole', 'choice', 'date', 'flag']

const rank = (kind: Kind, spec: FieldSpec) =>
  ['sequence', 'name', 'item', ...(kind === 'price' ? ['label'] : [])].includes(spec.field)
    ? 0
    : spec.field === 'appliesWhen'
      ? 2
      : spec.form === 'expression'
        ? 1
        : 3

/** Whether a field holds a text in each language. */
export const isLocal = (spec: FieldSpec) => spec.form === 'local' || spec.form === 'template'

/** The fields of a kind that can be written as texts in cells; what a row is about stands first, then what it says. */
export const cellFields = (kind: Kind): FieldSpec[] =>
  fieldsOf[kind]
    .filter((s, i, all) => asText.includes(s.form) && all.findIndex((o) => o.field === s.field) === i)
    .sort((a, b) => rank(kind, a) - rank(kind, b))

/** A row of a kind before anything is written into it. */
export function emptyRow(kind: Kind, number: number): Row {
  const more =
    kind === 'attribute'
      ? { attributeKind: 'yesNo', required: true }
      : kind === 'part'
        ? { quantity: '1' }
        : isNumbered(kind)
          ? { strength: 'must', number }
          : {}
  return { ...more, kind, id: newId() } as unknown as Row
}

type Of = { document: Document; library: Schemas['LibraryView'] | undefined; assemblyId: string; language: string }

/** Fields of rows as texts, and texts as values of fields. */
export function fieldTexts({ document, library, assemblyId, language }: Of) {
  /** A field can be chosen in one row and typed in another, such as what is suggested. */
  const specOf = (spec: FieldSpec, row: Row): FieldSpec =>
    fieldsOf[row.kind].find((s) => s.field === spec.field && asText.includes(s.form) && s.isOf(row)) ?? spec
  const pathOf = (spec: FieldSpec) => (isLocal(spec) ? `${spec.field}/${language}` : spec.field)
  const choices = (spec: FieldSpec, row: Row) => choicesOf(specOf(spec, row), row, { document, library, assemblyId })

  function textOf(row: Row, spec: FieldSpec): string {
    const value = valueAt(row, pathOf(spec))
    const of = specOf(spec, row)
    if (of.form === 'flag') return value === true ? 'yes' : 'no'
    if (of.form === 'choice' && value !== null && value !== undefined && value !== '')
      return choices(spec, row).find(([stored]) => stored === value)?.[1] ?? String(value)
    return String(value ?? '')
  }

  /** What a text stands for in a field; undefined where it stands for nothing there. */
  function valueOf(row: Row, spec: FieldSpec, text: string): unknown {
    const value = text.trim()
    const of = specOf(spec, row)
    if (of.form === 'whole') return /^\d{1,6}$/.test(value) ? Number(value) : undefined
    if (of.form === 'flag') return /^(yes|true|x|1)$/i.test(value) ? true : /^(no|false|0)?$/i.test(value) ? false : undefined
    if (of.form === 'choice') {
      if (value === '') return of.nullable ? null : ''
      const all = choices(spec, row).filter(([stored]) => stored !== '')
      const lower = value.toLowerCase()
      // A code or the beginning of a text is enough where it is the only one. A work centre can be made after it was named.
      const near = all.filter(([, shown]) => shown.toLowerCase().startsWith(lower))
      return (
        (all.find(([stored, shown]) => stored.toLowerCase() === lower || shown.toLowerCase() === lower) ??
          (near.length === 1 ? near[0] : undefined))?.[0] ?? (of.from === 'workCentres' ? value : undefined)
      )
    }
    if (value === '' && of.nullable) return null
    return isLocal(of) ? text : value
  }

  /** Why a text stands for nothing in a field: what can stand there. */
  function refusal(row: Row, spec: FieldSpec, text: string): string {
    const of = specOf(spec, row)
    const known =
      of.form === 'choice'
        ? choices(spec, row)
            .flatMap(([stored, shown]) => (stored === '' ? [] : [shown]))
            .slice(0, 8)
            .join(', ')
        : of.form === 'whole'
          ? t('workshop.aWholeNumber')
          : t('workshop.yesOrNo')
    return t('workshop.textIsNotStoredHereStands', { text, known })
  }

  /** Writes a text into a row that is being made; false where it stands for nothing there. */
  function write(row: Row, spec: FieldSpec, text: string): boolean {
    const value = valueOf(row, spec, text)
    if (value === undefined) return false
    const made = row as unknown as Record<string, unknown>
    made[spec.field] = isLocal(spec) ? { ...(made[spec.field] as object), [language]: value } : value
    return true
  }

  return { textOf, valueOf, refusal, write, pathOf }
}
