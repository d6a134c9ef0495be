import { inEnglish } from '../../../ui/format'
import { listOf, nameOf, type Document, type Row } from '../model'

/** A name or value as a line says it: in quotes unless it is one plain word. */
const word = (text: string) => (/^[\p{L}_][\p{L}\p{N}_]*$/u.test(text) ? text : `'${text.replaceAll("'", "''")}'`)

const range = (low: string | null | undefined, high: string | null | undefined) => (low || high ? ` ${low ?? ''}..${high ?? ''}` : '')

const boundsOf = (lower: string, upper: string) =>
  lower && upper ? `between ${lower} and ${upper}` : lower ? `at least ${lower}` : `at most ${upper}`

const effectOf = (row: Extract<Row, { kind: 'price' }>) =>
  ({
    adds: `${word(inEnglish(row.label))} = `,
    times: '× ',
    atLeast: 'at least ',
    rounds: `round ${row.rounding === 'nearest' ? '' : `${row.rounding} `}to `,
  })[row.effect]

function attributeLine(row: Extract<Row, { kind: 'attribute' }>, document: Document): string {
  const list = listOf(document, row.listId)
  const values = list?.values.map((v) => word(v.code)).join(', ') ?? ''
  const suggested = row.suggestion ? ` = ${word(list?.values.find((v) => v.id === row.suggestion)?.code ?? row.suggestion)}` : ''
  const bounds = `${range(row.min, row.max)}${row.step ? ` step ${row.step}` : ''}${row.suggestion ? ` = ${row.suggestion}` : ''}`
  switch (row.attributeKind) {
    case 'choice':
      return `choice ${word(row.name)}: ${values}${suggested}`
    case 'several':
      return `several ${word(row.name)}: ${values}`
    case 'yesNo':
      return `yes/no ${word(row.name)}${row.suggestion ? ` = ${row.suggestion}` : ''}`
    case 'whole':
      return `whole ${word(row.name)}${bounds}`
    case 'quantity':
      return `quantity ${word(row.name)} ${row.unit}${bounds}`
    case 'text':
      return `text ${word(row.name)}`
  }
}

function kindLine(row: Row, document: Document): string {
  switch (row.kind) {
    case 'attribute':
      return attributeLine(row, document)
    case 'computed':
      return `compute ${word(row.name)} = ${row.expression}`
    case 'statement':
      return `rule ${row.expression}`
    case 'requires':
      return `requires ${row.when} then ${row.then}`
    case 'excludes':
      return `excludes ${row.when} with ${row.then}`
    case 'limit':
      return `limit ${row.of} ${boundsOf(row.lower, row.upper)}`
    case 'grid':
      return `grid ${word(row.name)}: ${row.columns.map((c) => c.reference || word(c.name)).join(', ')}`
    case 'subassembly':
      return `${row.make === 'phantom' ? 'phantom' : 'subassembly'} ${word(row.name)}`
    case 'part':
      return `part ${row.item || row.itemFrom} × ${row.quantity || '1'}`
    case 'operation':
      return [
        `operation ${row.sequence} ${word(nameOf(row))}`,
        row.workCentre && `at ${row.workCentre}`,
        [row.setup, row.run].filter(Boolean).join(' + '),
      ]
        .filter(Boolean)
        .join(' ')
    case 'price':
      return `price ${effectOf(row)}${row.amount}`
  }
}

/** A row as it could be typed: what stands on the clipboard as text. What a line cannot say, such as a note, is not in it. */
export const lineOf = (row: Row, document: Document): string => kindLine(row, document) + (row.appliesWhen ? ` when ${row.appliesWhen}` : '')

/** The line that would make an attribute of a name, by what it is compared with: a number with a unit, a plain one, a word, or nothing. */
export function lineFor(text: string, start: number, length: number): string {
  const name = text.slice(start, start + length)
  const after = text.slice(start + length).trimStart()
  const [, number, unit] = /^(?:<>|<=|>=|=|<|>|\*|\/|\+|-)\s*(?:(-?[\d.]+)\s*([\p{L}%][\p{L}\d%/]*)?)?/u.exec(after) ?? []
  if (number !== undefined) return unit && !/^(and|or|then|when|else|in)$/i.test(unit) ? `quantity ${name} ${unit} ` : `whole ${name} `
  const word = /^(?:<>|=)\s*('[^']*'|[\p{L}_][\p{L}\p{N}_]*)/u.exec(after)?.[1]
  if (word && !/^(yes|no|none)$/i.test(word)) return `choice ${name}: ${word}, `
  return /^[*/+-]/.test(after) ? `quantity ${name} ` : `yes/no ${name}`
}
