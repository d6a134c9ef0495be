import type { Kind, Row } from './model'

/** How a field of a row is edited. */
export type FieldSpec = {
  field: string
  label: string
  as:
    | 'assembly'
    | 'members'
    | 'instances'
    | 'figures'
    | 'place'
    | 'text'
    | 'local'
    | 'expression'
    | 'flag'
    | 'whole'
    | 'select'
    | 'item'
    | 'unit'
    | 'date'
    | 'sites'
  /** Where the choices of a select come from. */
  from?:
    'types' | 'lists' | 'values' | 'strengths' | 'makes' | 'moneyColumns' | 'priceEffects' | 'roundings' | 'issues' | 'operations' | 'workCentres'
  when?: (row: Row) => boolean
  wide?: boolean
}

const isType =
  (...types: string[]) =>
  (row: Row) =>
    row.kind === 'attribute' && types.includes(row.attributeKind)
const isNumber = isType('whole', 'quantity')
const isSeveral = isType('several')
const hasEffect = (effect: string) => (row: Row) => row.kind === 'price' && row.effect === effect

const name: FieldSpec = { field: 'name', label: 'Name', as: 'text' }
const label: FieldSpec = { field: 'label', label: 'Label', as: 'local' }
const appliesWhen: FieldSpec = { field: 'appliesWhen', label: 'Applies when', as: 'expression', wide: true }
const message: FieldSpec = { field: 'message', label: 'Message', as: 'local', wide: true }
const strength: FieldSpec = { field: 'strength', label: 'Strength', as: 'select', from: 'strengths' }
const expression = (field: string, text: string): FieldSpec => ({ field, label: text, as: 'expression', wide: true })

/** The fields of each kind of row, in the order they are filled in. */
export const fieldsOf: Record<Kind, FieldSpec[]> = {
  attribute: [
    name,
    label,
    { field: 'attributeKind', label: 'Kind', as: 'select', from: 'types' },
    { field: 'listId', label: 'Value list', as: 'select', from: 'lists', when: isType('choice', 'several') },
    { field: 'unit', label: 'Unit', as: 'unit', when: isType('quantity') },
    { field: 'min', label: 'Lowest', as: 'text', when: isNumber },
    { field: 'max', label: 'Highest', as: 'text', when: isNumber },
    { field: 'step', label: 'Step', as: 'text', when: isNumber },
    { field: 'min', label: 'At least', as: 'text', when: isSeveral },
    { field: 'max', label: 'At most', as: 'text', when: isSeveral },
    { field: 'suggestion', label: 'Suggested', as: 'members', when: isSeveral, wide: true },
    { field: 'suggestion', label: 'Suggested', as: 'select', from: 'values', when: isType('choice', 'yesNo') },
    { field: 'suggestion', label: 'Suggested', as: 'text', when: isType('whole', 'quantity', 'text') },
    { field: 'surchargeColumn', label: 'Adds to the price', as: 'select', from: 'moneyColumns', when: isType('choice', 'several') },
    { field: 'required', label: 'Must be answered', as: 'flag', when: (row) => !isSeveral(row) },
    { field: 'input', label: 'Input from above', as: 'flag', when: (row) => !isSeveral(row) },
    { ...expression('lower', 'At least'), when: isNumber },
    { ...expression('upper', 'At most'), when: isNumber },
    { ...expression('lower', 'At least, worked out'), when: isSeveral },
    { ...expression('upper', 'At most, worked out'), when: isSeveral },
    appliesWhen,
  ],
  computed: [
    name,
    label,
    { field: 'unit', label: 'Shown in', as: 'unit' },
    { field: 'decimals', label: 'Decimals', as: 'whole' },
    expression('expression', 'Expression'),
    appliesWhen,
  ],
  statement: [expression('expression', 'Must hold'), message, strength, appliesWhen],
  requires: [expression('when', 'Where'), expression('then', 'it requires'), message, strength, appliesWhen],
  excludes: [expression('when', 'This'), expression('then', 'never with'), message, strength, appliesWhen],
  limit: [expression('of', 'Quantity'), expression('lower', 'At least'), expression('upper', 'At most'), message, strength, appliesWhen],
  grid: [name, label, message, strength, appliesWhen],
  subassembly: [
    name,
    label,
    { field: 'assemblyId', label: 'Filled by', as: 'assembly', wide: true },
    { field: 'make', label: 'Made as', as: 'select', from: 'makes' },
    { field: 'item', label: 'Item', as: 'item', when: (row) => row.kind === 'subassembly' && row.make === 'ownItem' },
    { field: 'madeAt', label: 'Made at', as: 'place', when: (row) => row.kind === 'subassembly' && row.make === 'ownItem' },
    { field: 'instances', label: 'At most so many', as: 'instances' },
    expression('instanceCount', 'How many there are, each configured by itself'),
    expression('quantity', 'Pieces of each'),
    appliesWhen,
  ],
  part: [
    { field: 'item', label: 'Item', as: 'item' },
    { field: 'operationId', label: 'Consumed at', as: 'select', from: 'operations' },
    { field: 'step', label: 'Rounded up to', as: 'text' },
    { field: 'scrap', label: 'Scrap %', as: 'text' },
    { field: 'issue', label: 'Issue', as: 'select', from: 'issues' },
    { field: 'store', label: 'Store', as: 'text' },
    { field: 'position', label: 'Position', as: 'whole' },
    { field: 'substitutes', label: 'Substitutes, in order', as: 'text' },
    { field: 'oneOf', label: 'Answers the question', as: 'text' },
    { field: 'perOrder', label: 'Once per order', as: 'flag' },
    expression('quantity', 'Quantity'),
    expression('itemFrom', 'or item from'),
    appliesWhen,
    expression('surcharge', 'Adds to the price'),
    { field: 'figures', label: 'Cut sizes and other figures', as: 'figures', wide: true },
  ],
  operation: [
    { field: 'sequence', label: 'Number', as: 'whole' },
    name,
    label,
    { field: 'workCentre', label: 'Work centre', as: 'select', from: 'workCentres' },
    expression('setup', 'Set-up'),
    expression('run', 'Run'),
    expression('queue', 'Queue'),
    expression('batch', 'Pieces in one run'),
    expression('workCentreFrom', 'or work centre from'),
    { field: 'crew', label: 'Crew', as: 'whole' },
    { field: 'parallel', label: 'At the same time as', as: 'text' },
    { field: 'oneOf', label: 'Answers the question', as: 'text' },
    { field: 'instructions', label: 'Instructions, with values in {braces}', as: 'local', wide: true },
    appliesWhen,
    expression('surcharge', 'Adds to the price'),
  ],
  price: [
    label,
    { field: 'effect', label: 'What it does', as: 'select', from: 'priceEffects' },
    { field: 'rounding', label: 'Which way', as: 'select', from: 'roundings', when: hasEffect('rounds') },
    { ...expression('amount', 'Amount'), when: hasEffect('adds') },
    { ...expression('amount', 'Factor'), when: hasEffect('times') },
    { ...expression('amount', 'Least price'), when: hasEffect('atLeast') },
    { ...expression('amount', 'Whole number of'), when: hasEffect('rounds') },
    appliesWhen,
  ],
}

/** What every row can carry, shown on request. */
export const moreFields: FieldSpec[] = [
  { field: 'note', label: 'Note', as: 'text', wide: true },
  { field: 'from', label: 'Holds from', as: 'date' },
  { field: 'to', label: 'until', as: 'date' },
  { field: 'sites', label: 'Only at sites', as: 'sites' },
]

export const kindLabels: Record<Kind, string> = {
  attribute: 'Attributes',
  computed: 'Computed',
  statement: 'Statements',
  requires: 'Requires',
  excludes: 'Excludes',
  limit: 'Limits',
  grid: 'Grids',
  subassembly: 'Subassemblies',
  part: 'Parts',
  operation: 'Operations',
  price: 'Prices',
}
