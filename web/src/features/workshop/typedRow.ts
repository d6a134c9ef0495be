import type { Schemas } from '../../api/client'
import { newId } from '../../api/ids'
import { add, freeName, mostInstances, nextNumber, resized, type Assembly, type Document, type Step } from './model'

/** The first words that decide a row's kind, each with how the rest is written. */
export const kindWords: { word: string; shape: string; example: string }[] = [
  { word: 'choice', shape: 'name: value, value, …', example: 'choice finish: white, grey' },
  { word: 'several', shape: 'name: value, value, …', example: 'several accessories: rail, lamp, alarm' },
  { word: 'yes/no', shape: 'name', example: 'yes/no window' },
  { word: 'whole', shape: 'name low..high', example: 'whole shelves 1..12' },
  { word: 'quantity', shape: 'name unit low..high step size', example: 'quantity width mm 600..1200 step 50' },
  { word: 'text', shape: 'name', example: 'text label' },
  { word: 'compute', shape: 'name = expression', example: 'compute area = width * height' },
  { word: 'rule', shape: 'statement', example: 'rule width <= height' },
  { word: 'requires', shape: 'condition then condition', example: 'requires heated then voltage = 230' },
  { word: 'excludes', shape: 'condition with condition', example: 'excludes window with sliding' },
  { word: 'limit', shape: 'quantity between low and high', example: 'limit weight between 0 kg and 60 kg' },
  { word: 'grid', shape: 'name: attribute, attribute, …', example: 'grid spans: core, load' },
  { word: 'subassembly', shape: 'name, or name low..high', example: 'subassembly door 1..4' },
  { word: 'phantom', shape: 'name', example: 'phantom services' },
  { word: 'part', shape: 'item × quantity when condition', example: 'part GSK-D × 2 when window' },
  { word: 'operation', shape: 'number name at centre set-up + run when condition', example: 'operation 10 cut at SAW 5 min + 2 min' },
  { word: 'price', shape: 'label = amount when condition, × factor, at least amount, round up to amount', example: 'price base = 240 EUR' },
]

export type StandardOperation = Schemas['StandardOperationView']

export type TypedRow = { steps: Step[]; rowId: string } | { fault: string }

/** Splits at the first of a word that stands by itself. */
function splitAt(text: string, word: RegExp): [string, string] {
  const match = word.exec(text)
  return match ? [text.slice(0, match.index).trim(), text.slice(match.index + match[0].length).trim()] : [text.trim(), '']
}

const namePattern = /^('[^']+'|[^\s:=,]+)\s*/

function takeName(text: string): [string, string] {
  const match = namePattern.exec(text)
  return match ? [match[1]!.replaceAll("'", ''), text.slice(match[0].length).trim()] : ['', text]
}

/** The values of a list as they are typed, with commas between; one in quotes may hold a comma, and a quote written twice. */
function valuesOf(text: string): string[] {
  return (text.match(/\s*'(?:[^']|'')*'\s*(?=,|$)|[^,]+/g) ?? []).map((v) => v.trim()).map((v) => (/^'.*'$/.test(v) ? v.slice(1, -1).replaceAll("''", "'") : v)).filter(Boolean)
}

const label = (name: string) => {
  const words = name.replaceAll('_', ' ')
  return { en: words.charAt(0).toUpperCase() + words.slice(1) }
}

/** Turns a typed line into the edit that adds its row; a line that is not one says what is missing. */
export function typedRow(text: string, document: Document, assembly: Assembly, topicId: string, afterId: string | null, numbered = 0, standard: StandardOperation[] = []): TypedRow {
  const number = Math.max(nextNumber(document), numbered + 1)
  const typed = text.trim()
  const word = /^\S*/.exec(typed)![0].toLowerCase()
  const rest = typed.slice(word.length).trim()
  const kind = kindWords.find((k) => k.word === word || (k.word === 'yes/no' && word === 'yesno'))?.word
  const id = newId()
  const done = (row: object, ...before: Step[]): TypedRow => ({ rowId: id, steps: [...before, add(topicId, 'rows', afterId, { id, ...row })] })
  const named = (): [string, string] => {
    const [name, more] = takeName(rest)
    return [name === '' ? '' : freeName(assembly, name), more]
  }

  switch (kind) {
    case 'choice':
    case 'several': {
      const [name, more] = named()
      if (!name) return { fault: kind === 'choice' ? 'A choice needs a name: choice finish: white, grey' : 'Several choices need a name: several accessories: rail, lamp' }
      const [, of] = splitAt(more, /^of\s+/i)
      const codes = more.startsWith(':') ? valuesOf(more.slice(1)) : []
      const wanted = (of || name).toUpperCase()
      const known = codes.length === 0 ? document.lists.find((l) => l.name.toUpperCase() === wanted) : undefined
      if (of && !known) return { fault: `There is no value list “${of}”.` }
      const row = { kind: 'attribute', type: kind, name, label: label(name) }
      if (known) return done({ ...row, listId: known.id })
      const listId = newId()
      const last = document.lists.at(-1)?.id ?? null
      const names = new Set(document.lists.map((l) => l.name.toUpperCase()))
      let listName = name
      for (let n = 2; names.has(listName.toUpperCase()); n++) listName = `${name}_${n}`
      const values = codes.map((code) => ({ id: newId(), code, label: label(code) }))
      return done({ ...row, listId }, add(document.id, 'lists', last, { id: listId, name: listName, label: label(name), values }))
    }
    case 'yes/no':
    case 'text': {
      const [name] = named()
      return name ? done({ kind: 'attribute', type: kind === 'text' ? 'text' : 'yesNo', name, label: label(name), required: kind !== 'text' }) : { fault: `It needs a name: ${kind} ${kind === 'text' ? 'label' : 'window'}` }
    }
    case 'whole': {
      const [name, more] = named()
      const range = /^(-?[\d.]+)\s*\.\.\s*(-?[\d.]+)/.exec(more)
      if (!name || !range) return { fault: 'A whole number needs a name and its bounds: whole shelves 1..12' }
      return done({ kind: 'attribute', type: 'whole', name, label: label(name), min: range[1], max: range[2], step: '1' })
    }
    case 'quantity': {
      const [name, more] = named()
      const shape = /^(\S+)\s+(-?\d+(?:\.\d+)?)\s*\.\.\s*(-?\d+(?:\.\d+)?)(?:\s+step\s+(\d+(?:\.\d+)?))?/i.exec(more)
      if (!name || !shape) return { fault: 'A quantity needs a name, a unit and its bounds: quantity width mm 600..1200 step 50' }
      return done({ kind: 'attribute', type: 'quantity', name, label: label(name), unit: shape[1], min: shape[2], max: shape[3], step: shape[4] ?? '1' })
    }
    case 'compute': {
      const [name, more] = named()
      if (!name) return { fault: 'A computed attribute needs a name: compute area = width * height' }
      return done({ kind: 'computed', name, label: label(name), expression: more.replace(/^=\s*/, '') })
    }
    case 'rule':
      return rest ? done({ kind: 'statement', number, expression: rest }) : { fault: 'A rule says something: rule width <= height' }
    case 'requires':
    case 'excludes': {
      const [when, then] = splitAt(rest, kind === 'requires' ? /\s+then\s+/i : /\s+with\s+/i)
      if (!when || !then) return { fault: kind === 'requires' ? 'Both sides are needed: requires heated then voltage = 230' : 'Both sides are needed: excludes window with sliding' }
      return done({ kind, number, when, then })
    }
    case 'limit': {
      const between = /^(.+?)\s+between\s+(.+?)\s+and\s+(.+)$/i.exec(rest)
      const most = /^(.+?)\s*<=\s*(.+)$/.exec(rest)
      const least = /^(.+?)\s*>=\s*(.+)$/.exec(rest)
      if (between) return done({ kind: 'limit', number, of: between[1], lower: between[2], upper: between[3] })
      if (most) return done({ kind: 'limit', number, of: most[1], lower: '', upper: most[2] })
      if (least) return done({ kind: 'limit', number, of: least[1], lower: least[2], upper: '' })
      return { fault: 'A limit needs a quantity and a bound: limit weight between 0 kg and 60 kg, or limit weight <= 60 kg' }
    }
    case 'grid': {
      const [name, more] = named()
      const columns = more.replace(/^:/, '').split(',').map((c) => c.trim()).filter(Boolean)
      if (!name || columns.length === 0) return { fault: 'A grid needs a name and what its columns compare: grid spans: core, load' }
      return done({ kind: 'grid', number, name, label: label(name), columns: columns.map((c) => ({ id: newId(), name: c, reference: c })), rows: [] })
    }
    case 'subassembly':
    case 'phantom': {
      const [name, more] = named()
      if (!name) return { fault: `It needs a name: ${kind} ${kind === 'phantom' ? 'services' : 'door'}` }
      const range = /^(\d+)\s*\.\.\s*(\d+)$/.exec(more)
      const most = range ? Number(range[2]) : 1
      if ((more !== '' && !range) || most < 1 || most > mostInstances || Number(range?.[1] ?? 0) > most) return { fault: `How many there can be is written as low..high, at most ${mostInstances}: ${kind} ${name} 1..4` }
      // How many there are is asked by an attribute of its own, in front.
      const count = freeName(assembly, `number_of_${name}`)
      const asked = { id: newId(), kind: 'attribute', type: 'whole', name: count, label: { en: `Number of ${name.replaceAll('_', ' ')}` }, min: range?.[1] ?? '1', max: String(most), step: '1', suggestion: range?.[1] ?? '1' }
      const first: Step[] = range ? [add(topicId, 'rows', afterId, asked)] : []
      const place = { kind: 'subassembly', name, label: label(name), make: kind === 'phantom' ? 'phantom' : 'ownItem', instances: resized([], most), instanceCount: range ? count : '' }
      const placed = (assemblyId: string, ...before: Step[]): TypedRow => ({ rowId: id, steps: [...before, ...first, add(topicId, 'rows', range ? asked.id : afterId, { id, ...place, assemblyId })] })
      const known = document.assemblies.find((a) => a.name.toUpperCase() === name.toUpperCase() && a.id !== assembly.id)
      if (known) return placed(known.id)
      const assemblyId = newId()
      const made = { id: assemblyId, name, label: label(name), topics: [{ id: newId(), label: { en: 'General' }, rows: [] }] }
      return placed(assemblyId, add(document.id, 'assemblies', document.assemblies.at(-1)?.id ?? null, made))
    }
    case 'part': {
      const [what, appliesWhen] = splitAt(rest, /\s+when\s+/i)
      const [item, quantity] = splitAt(what, /\s+(?:×|x|\*)\s+/i)
      return item ? done({ kind: 'part', item, quantity: quantity || '1', appliesWhen }) : { fault: 'A part line needs an item: part GSK-D × 2 when window' }
    }
    case 'operation': {
      const [what, appliesWhen] = splitAt(rest, /\s+when\s+/i)
      const shape = /^(\d+)?\s*(.+?)(?:\s+at\s+(\S+)\s*(.*))?$/i.exec(what)
      if (!shape?.[2]) return { fault: 'An operation needs a name: operation 10 cut at SAW 5 min + 2 min' }
      const [setup, run] = shape[4]?.includes('+') ? splitAt(shape[4], /\s*\+\s*/) : ['', shape[4] ?? '']
      const known = shape[3] === undefined ? standard.find((s) => s.code.toUpperCase() === shape[2]!.toUpperCase()) : undefined
      const used = assembly.topics.flatMap((t) => t.rows).flatMap((r) => (r.kind === 'operation' ? [r.sequence] : []))
      const sequence = shape[1] ? Number(shape[1]) : Math.max(0, ...used) + 10
      if (known) return done({ kind: 'operation', name: known.code.toLowerCase(), label: { en: known.label }, sequence, workCentre: known.workCentre, setup: known.setup, run: known.run, instructions: known.instructions ? { en: known.instructions } : {}, appliesWhen })
      return done({ kind: 'operation', name: shape[2], label: label(shape[2]), sequence, workCentre: shape[3] ?? '', setup, run, appliesWhen })
    }
    case 'price': {
      const [what, appliesWhen] = splitAt(rest, /\s+when\s+/i)
      const line = (effect: string, amount: string, text = '', rounding = 'nearest') => done({ kind: 'price', effect, amount, appliesWhen, rounding, label: text === '' ? {} : label(text) })
      const round = /^round(?:ed)?\s+(?:(up|down)\s+)?(?:to\s+)?(.+)$/i.exec(what)
      if (round) return line('rounds', round[2]!, '', round[1]?.toLowerCase())
      const least = /^at\s+least\s+(.+)$/i.exec(what)
      if (least) return line('atLeast', least[1]!)
      const factor = /^(?:([^=]+?)\s+)?(?:×|times\s)\s*(.+)$/i.exec(what)
      if (factor) return line('times', factor[2]!, factor[1])
      const adds = /^([^=]+?)\s*=\s*(.+)$/.exec(what)
      if (adds) return line('adds', adds[2]!, adds[1])
      return what ? line('adds', what) : { fault: 'A price line says what it does: price base = 240 EUR, price × 1.08 when express, price at least 95 EUR, price round up to 5 EUR' }
    }
    default:
      return { fault: `The first word says what the row is: ${kindWords.map((k) => k.word).join(', ')}.` }
  }
}
