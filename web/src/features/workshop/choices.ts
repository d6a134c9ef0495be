import type { Schemas } from '../../api/client'
import { assemblyOf, listOf, reusedModelOf, rowsOf, type Document, type Row } from './model'
import type { FieldSpec } from './fields'

/** What can be chosen in a field, each with the value that is stored and its text. */
export type Choices = [string, string][]

const types: Choices = [
  ['choice', 'choice'],
  ['yesNo', 'yes or no'],
  ['whole', 'whole number'],
  ['quantity', 'quantity'],
  ['several', 'several choices'],
  ['text', 'text'],
]

type Of = { document: Document; library: Schemas['LibraryView'] | undefined; assemblyId: string }

/** The choices of a field that is chosen, in the row and model as they are now. */
export function choicesOf(from: NonNullable<FieldSpec['from']>, row: Row, { document, library, assemblyId }: Of): Choices {
  const assembly = assemblyOf(document, assemblyId)
  const list = row.kind === 'attribute' ? listOf(document, row.listId) : undefined
  switch (from) {
    case 'types':
      return types
    case 'lists':
      return [['', '–'], ...(reusedModelOf(document, assemblyId)?.lists ?? document.lists).map((l): [string, string] => [l.id, l.name])]
    case 'values':
      if (row.kind === 'attribute' && row.attributeKind === 'yesNo')
        return [
          ['', 'nothing'],
          ['yes', 'yes'],
          ['no', 'no'],
        ]
      return [['', 'nothing'], ...(list?.values ?? []).map((v): [string, string] => [v.id, v.label?.en ?? v.code])]
    case 'strengths':
      return [
        ['must', 'must'],
        ['advice', 'advice'],
      ]
    case 'moneyColumns': {
      const held = row.kind === 'attribute' ? row.surchargeColumn : null
      return [
        ['', 'nothing'],
        ...(list?.properties ?? [])
          .filter((p) => p.type === 'number' && (p.unit === 'EUR' || p.id === held))
          .map((p): [string, string] => [p.id, `by its ${p.name}`]),
      ]
    }
    case 'priceEffects':
      return [
        ['adds', 'adds an amount'],
        ['times', 'multiplies the sum'],
        ['atLeast', 'sets a least price'],
        ['rounds', 'rounds the price'],
      ]
    case 'roundings':
      return [
        ['nearest', 'to the nearest'],
        ['up', 'up'],
        ['down', 'down'],
      ]
    case 'makes':
      return [
        ['ownItem', 'own item'],
        ['phantom', 'phantom'],
      ]
    case 'issues':
      return [
        ['hand', 'by hand'],
        ['backflush', 'backflush'],
      ]
    case 'operations':
      return [
        ['', 'the first operation'],
        ...(assembly ? rowsOf(assembly) : []).flatMap((r): Choices =>
          r.kind === 'operation' ? [[r.id, `${r.sequence} ${r.label.en ?? r.name}`]] : [],
        ),
      ]
    case 'workCentres':
      return [['', '–'], ...(library?.workCentres ?? []).map((w): [string, string] => [w.code, `${w.code}  ${w.label}`])]
  }
}

/** Whether nothing chosen is stored as an empty text in place of nothing. */
export const isEmptyText = (from: FieldSpec['from']) => from === 'workCentres' || from === 'moneyColumns'
