import described from '../../api/rowKinds.json'
import { t } from '../../texts'
import { valueAt, type Kind, type Row } from './model'

/** A field of a row as the server describes it. */
type Described = {
  name: string
  form:
    | 'text'
    | 'local'
    | 'template'
    | 'expression'
    | 'flag'
    | 'whole'
    | 'choice'
    | 'members'
    | 'item'
    | 'items'
    | 'unit'
    | 'site'
    | 'sites'
    | 'date'
    | 'assembly'
    | 'instances'
    | 'figures'
  caption: string
  choices?: string[]
  from?: 'lists' | 'values' | 'moneyColumns' | 'operations' | 'workCentres'
  nullable?: boolean
  wide?: boolean
  only?: { field: string; values: string[] }
}

/** How a field of a row is edited. */
export type FieldSpec = Omit<Described, 'name' | 'only'> & {
  field: string
  /** Its caption in the language of the interface. */
  readonly label: string
  /** Whether a row as it is now has it. */
  isOf: (row: Row) => boolean
}

const specOf = ({ name, only, ...more }: Described): FieldSpec => ({
  ...more,
  field: name,
  get label() {
    return t(`rows.captions.${more.caption}`)
  },
  isOf: (row) => only === undefined || only.values.includes(String(valueAt(row, only.field))),
})

const kinds = described.kinds as { name: Kind; numbered?: boolean; whole?: boolean; fields: Described[] }[]

/** Every kind of row, in the order in which they are offered. */
export const allKinds: Kind[] = kinds.map((k) => k.name)

/** The fields of each kind of row, in the order they are filled in. */
export const fieldsOf = Object.fromEntries(kinds.map((k) => [k.name, k.fields.map(specOf)])) as Record<Kind, FieldSpec[]>

/** What every row can carry, shown on request. */
export const moreFields: FieldSpec[] = (described.common as Described[]).map(specOf)

/** Kinds that their fields say whole: a grid has rows of its own, a subassembly an assembly. */
export const isWhole = (kind: Kind): boolean => kinds.some((k) => k.name === kind && k.whole)

/** Kinds whose rows have a number that people quote. */
export const isNumbered = (kind: Kind): boolean => kinds.some((k) => k.name === kind && k.numbered)

export const kindLabel = (kind: Kind): string => t(`rows.kinds.${kind}`)

/** What a choice that is the same in every model is called. */
export const choiceLabel = (field: string, choice: string): string => t(`rows.choices.${field}.${choice}`)
