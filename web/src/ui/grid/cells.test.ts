import { readFileSync } from 'node:fs'
import { expect, it } from 'vitest'
import { copiedText, isWanted, pastedCells } from './cells'

it('reads what spreadsheets put on the clipboard', () => {
  expect(pastedCells('a\tb\r\n1\t\r\n')).toEqual([
    ['a', 'b'],
    ['1', ''],
  ])
  expect(pastedCells('"two\nlines"\t"say ""so"""\n')).toEqual([['two lines', 'say "so"']])
  expect(pastedCells('5 " pipe\tx')).toEqual([['5 " pipe', 'x']])
  expect(pastedCells('\n\n')).toEqual([])
})

it('writes cells so that they are read back as they were', () => {
  const cells = [
    ['a', '', '"quoted" at its head'],
    ['', 'tab\tin it', 'x'],
    ['', '', ''],
    ['5 " pipe', 'last', 'z'],
  ]
  expect(pastedCells(copiedText(cells))).toEqual(cells)
})

it('filters cells as the server does', () => {
  // The other half of this is in the tests of the Core, on the same file.
  const pairs = JSON.parse(readFileSync('../tests/models/cell-filters.json', 'utf8')) as { filter: string; cell: string; takes: boolean }[]
  expect(pairs.map((p) => ({ ...p, takes: isWanted(p.cell, p.filter) }))).toEqual(pairs)
})
