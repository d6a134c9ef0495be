import { expect, it } from 'vitest'
import { pastedCells } from './cells'

it('reads what spreadsheets put on the clipboard', () => {
  expect(pastedCells('a\tb\r\n1\t\r\n')).toEqual([
    ['a', 'b'],
    ['1', ''],
  ])
  expect(pastedCells('"two\nlines"\t"say ""so"""\n')).toEqual([['two lines', 'say "so"']])
  expect(pastedCells('5 " pipe\tx')).toEqual([['5 " pipe', 'x']])
  expect(pastedCells('\n\n')).toEqual([])
})
