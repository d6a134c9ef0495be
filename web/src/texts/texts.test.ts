import i18next from 'i18next'
import { expect, test } from 'vitest'
import { languages, t } from '.'

const files = import.meta.glob<Record<string, unknown>>('./en/*.json', { eager: true, import: 'default' })
const sources = import.meta.glob<string>(['../**/*.{ts,tsx}', '!../**/*.test.*', '!../testing/**', '!../api/schema.d.ts'], {
  eager: true,
  query: '?raw',
  import: 'default',
})

const keysOf = (texts: object, above: string): [string, string][] =>
  Object.entries(texts).flatMap(([k, v]) => (typeof v === 'string' ? [[above + k, v] as [string, string]] : keysOf(v as object, `${above}${k}.`)))
const english = new Map(Object.entries(files).flatMap(([path, texts]) => keysOf(texts, `${/(\w+)\.json$/.exec(path)![1]}.`)))
const singular = (key: string) => key.replace(/_(one|other)$/, '')

/** Keys that are put together, by what they begin with. */
const puttogether = ['rows.captions.', 'rows.kinds.', 'rows.choices.', 'things.']

test('Every text that is asked for is there, with what is filled into it, and none is there in vain', () => {
  const keys = new Set([...english.keys()].map(singular))
  const used = new Set<string>()
  for (const [path, source] of Object.entries(sources)) {
    for (const [, key] of source.matchAll(/\bt\(\s*'([\w.]+)'/g)) used.add(key!)
    for (const [, key, filled] of source.matchAll(/\bt\(\s*'([\w.]+)'(?:,\s*\{((?:[^{}]|\{[^{}]*\})*)\})?/g)) {
      expect(keys, `${path} asks for ${key}`).toContain(key)
      const text = english.get(key!) ?? english.get(`${key}_other`)!
      for (const [, name] of text.matchAll(/\{\{(\w+)\}\}/g))
        expect(filled ?? '', `${path}: ${key} needs ${name}`).toMatch(new RegExp(`\\b${name}\\b`))
    }
  }
  expect([...keys].filter((k) => !used.has(k) && !puttogether.some((p) => k.startsWith(p)))).toEqual([])
})

test('Counted texts have both forms', () => {
  for (const key of english.keys()) if (key.endsWith('_one')) expect([...english.keys()]).toContain(`${singular(key)}_other`)
  expect(t('things.counted.row', { count: 1, n: '1' })).toBe('1 row')
  expect(t('things.counted.customerClass', { count: 2, n: '2' })).toBe('2 customer classes')
})

test('Another language is a file; what it lacks is in English', () => {
  expect(languages).toEqual(['en'])
  i18next.addResourceBundle('de', 'translation', { rows: { kinds: { part: 'Teile' } }, things: { counted: { row_one: '{{n}} Zeile' } } }, true)
  const german = i18next.getFixedT('de')
  expect([german('rows.kinds.part'), german('rows.kinds.price'), german('things.counted.row', { count: 1, n: '1' })]).toEqual([
    'Teile',
    'Prices',
    '1 Zeile',
  ])
})
