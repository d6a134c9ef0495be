import type { Schemas } from '../../api/client'
import { assemblyOf, listOf, reusedModelOf, rowsOf, type Document, type Row } from './model'
import { choiceLabel, type FieldSpec } from './fields'
import { t } from '../../texts'

/** What can be chosen in a field, each with the value that is stored and its text. */
export type Choices = [string, string][]

type Of = { document: Document; library: Schemas['LibraryView'] | undefined; assemblyId: string }

/** The choices of a field that is chosen, in the row and model as they are now. */
export function choicesOf(spec: FieldSpec, row: Row, { document, library, assemblyId }: Of): Choices {
  if (spec.choices) return spec.choices.map((c): [string, string] => [c, choiceLabel(spec.field, c)])
  const assembly = assemblyOf(document, assemblyId)
  const list = row.kind === 'attribute' ? listOf(document, row.listId) : undefined
  switch (spec.from!) {
    case 'lists':
      return [['', '–'], ...(reusedModelOf(document, assemblyId)?.lists ?? document.lists).map((l): [string, string] => [l.id, l.name])]
    case 'values':
      if (row.kind === 'attribute' && row.attributeKind === 'yesNo')
        return [
          ['', t('workshop.nothing')],
          ['yes', t('workshop.yes')],
          ['no', t('workshop.no')],
        ]
      return [['', t('workshop.nothing')], ...(list?.values ?? []).map((v): [string, string] => [v.id, v.label?.en ?? v.code])]
    case 'moneyColumns': {
      const held = row.kind === 'attribute' ? row.surchargeColumn : null
      return [
        ['', t('workshop.nothing')],
        ...(list?.properties ?? [])
          .filter((p) => p.type === 'number' && (p.unit === 'EUR' || p.id === held))
          .map((p): [string, string] => [p.id, t('workshop.byItsName', { name: p.name })]),
      ]
    }
    case 'operations':
      return [
        ['', t('workshop.theFirstOperation')],
        ...(assembly ? rowsOf(assembly) : []).flatMap((r): Choices =>
          r.kind === 'operation' ? [[r.id, `${r.sequence} ${r.label.en ?? r.name}`]] : [],
        ),
      ]
    case 'workCentres':
      return [['', '–'], ...(library?.workCentres ?? []).map((w): [string, string] => [w.code, `${w.code}  ${w.label}`])]
  }
}
