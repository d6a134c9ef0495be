import { expect, test } from 'vitest'
import described from '../../api/rowKinds.json'
import rows from '../../texts/en/rows.json'
import { allKinds, choiceLabel, fieldsOf, isNumbered, isWhole, kindLabel, moreFields } from './fields'
import type { Row } from './model'

const all = [...described.kinds.flatMap((k) => k.fields), ...described.common]

test('Every kind, field and choice that the server describes has a caption, and no caption is left over', () => {
  expect(Object.keys(rows.kinds).sort()).toEqual(described.kinds.map((k) => k.name).sort())
  expect(Object.keys(rows.captions).sort()).toEqual([...new Set(all.map((f) => f.caption))].sort())
  const choices = Object.fromEntries(all.flatMap((f) => ('choices' in f && f.choices ? [[f.name, [...f.choices].sort()]] : [])))
  expect(Object.fromEntries(Object.entries(rows.choices).map(([field, texts]) => [field, Object.keys(texts).sort()]))).toEqual(choices)
  expect(allKinds.map(kindLabel).filter((l) => l === '' || l.startsWith('rows.'))).toEqual([])
  expect(choiceLabel('attributeKind', 'yesNo')).toBe('yes or no')
})

test('A row has the fields that its kind and its other fields give it', () => {
  const labels = (row: object) => fieldsOf[(row as Row).kind].filter((f) => f.isOf(row as Row)).map((f) => f.label)
  expect(labels({ kind: 'attribute', attributeKind: 'yesNo' })).toEqual([
    'Name',
    'Label',
    'Kind',
    'Asked as',
    'Suggested',
    'Must be answered',
    'Input from above',
    'Applies when',
  ])
  expect(labels({ kind: 'attribute', attributeKind: 'several' })).toContain('At least, worked out')
  expect(labels({ kind: 'price', effect: 'times' })).toEqual(['Label', 'What it does', 'Factor', 'Applies when'])
  expect(labels({ kind: 'price', effect: 'rounds' })).toContain('Which way')
  expect(moreFields.map((f) => f.label)).toEqual(['Note', 'Holds from', 'until', 'Only at sites'])
})

test('Rules have numbers; grids and subassemblies are not made in a table', () => {
  expect(allKinds.filter(isNumbered)).toEqual(['statement', 'requires', 'excludes', 'limit', 'grid'])
  expect(allKinds.filter((k) => !isWhole(k))).toEqual(['grid', 'subassembly'])
})
