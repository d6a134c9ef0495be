import { act, fireEvent, render, screen, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { useState } from 'react'
import { describe, expect, it, vi } from 'vitest'
import { cell, cellsOf, pasteInto, typeInto } from '../../testing/grid'
import { Grid } from './Grid'
import type { CellChange, GridColumn } from './types'

const columns: GridColumn[] = ['name', 'number', 'note'].map((c) => ({ key: c, name: c, width: 100 }))
const some = [
  ['a', '10', ''],
  ['b', '9', 'x'],
  ['c', '100', ''],
]

type Given = Partial<Parameters<typeof Grid>[0]> & { rows?: string[][] }

/** A grid over rows that are kept here, as a page would keep them. */
function show({ rows: first = some, ...more }: Given = {}) {
  const told: CellChange[][] = []
  const spies = { onUndo: vi.fn(), onRedo: vi.fn(), onAdd: vi.fn(), onRemove: vi.fn(), onMove: vi.fn(), onOpen: vi.fn() }
  function Page() {
    const [rows, setRows] = useState(first)
    return (
      <Grid
        name="test"
        label="Cells"
        one="row"
        columns={columns}
        count={rows.length}
        rowAt={(i) => (rows[i] ? { key: `k${i}`, cells: rows[i] } : undefined)}
        disabled={false}
        onChange={(changes) => {
          told.push(changes)
          setRows((now) => {
            const next = now.map((r) => [...r])
            for (const c of changes) (next[c.row] ??= ['', '', ''])[c.column] = c.text
            return next
          })
        }}
        {...spies}
        {...more}
      />
    )
  }
  render(<Page />)
  return { told, ...spies }
}

const at = () => document.activeElement?.getAttribute('data-place')

describe('keys of a grid', () => {
  it('replaces a cell by typing, keeps it with Enter and goes down', async () => {
    const { told } = show()
    await typeInto('number', 1, '42{Enter}')
    expect(told).toEqual([[{ row: 0, column: 1, text: '42', before: '10' }]])
    expect(at()).toBe('1,1')
    expect(cellsOf()[0]).toEqual(['a', '42', ''])
  })

  it('edits what stands there with F2 or a double click, and gives it back with Esc', async () => {
    const { told } = show()
    await typeInto('name', 2, '{F2}!{Tab}')
    expect(told).toEqual([[{ row: 1, column: 0, text: 'b!', before: 'b' }]])
    expect(at()).toBe('1,1')
    await userEvent.dblClick(cell('name', 1))
    await userEvent.keyboard('zz{Escape}')
    expect(told).toHaveLength(1)
    expect(at()).toBe('0,0')
    expect(cell('name', 1).textContent).toBe('a')
  })

  it('goes on by arrows also out of a cell that is typed over, not out of one that is edited', async () => {
    const { told } = show()
    await typeInto('number', 1, '7{ArrowRight}')
    expect([told.length, at()]).toEqual([1, '0,2'])
    await userEvent.keyboard('{F2}n{ArrowLeft}m{Enter}')
    expect(told[1]).toEqual([{ row: 0, column: 2, text: 'mn', before: '' }])
  })

  it('moves by rows, page-wise and to the ends, and stays within the table', async () => {
    show()
    await userEvent.click(cell('name', 1))
    for (const [keys, place] of [
      ['{Control>}{ArrowDown}{/Control}', '2,0'],
      ['{End}', '2,2'],
      ['{ArrowRight}', '2,2'],
      ['{Control>}{Home}{/Control}', '0,0'],
      ['{ArrowUp}', '0,0'],
      ['{PageDown}', '1,0'],
      ['{Tab}', '1,1'],
      ['{Shift>}{Tab}{/Shift}', '1,0'],
      ['{Tab}{Tab}{Tab}', '2,0'],
    ]) {
      await userEvent.keyboard(keys!)
      expect([keys, at()]).toEqual([keys, place])
    }
  })

  it('is left by Tab after its last cell, and from anywhere after Esc', async () => {
    show()
    await userEvent.click(cell('note', 3))
    await userEvent.tab()
    expect(at()).toBeNull()
    await userEvent.click(cell('name', 1))
    await userEvent.keyboard('{Escape}')
    await userEvent.tab()
    expect(at()).toBeNull()
  })

  it('fills and clears what is marked', async () => {
    const { told } = show()
    await userEvent.click(cell('number', 1))
    await userEvent.keyboard('{Shift>}{ArrowDown}{ArrowDown}{ArrowDown}{/Shift}{Control>}d{/Control}')
    expect(told[0]!.map((c) => [c.row, c.text])).toEqual([
      [1, '10'],
      [2, '10'],
    ])
    await userEvent.keyboard('{Delete}')
    expect(told[1]!.map((c) => [c.row, c.text])).toEqual([
      [0, ''],
      [1, ''],
      [2, ''],
    ])
    // A single cell takes what stands above or before it; above the first row there is nothing.
    await userEvent.click(cell('note', 3))
    await userEvent.keyboard('{Control>}d{/Control}{Control>}{Home}{/Control}{Control>}d{/Control}')
    expect(told[2]).toEqual([{ row: 2, column: 2, text: 'x', before: '' }])
    await userEvent.click(cell('number', 2))
    await userEvent.keyboard('{Control>}r{/Control}')
    expect(told[3]).toEqual([{ row: 1, column: 1, text: 'b', before: '' }])
    expect(told).toHaveLength(4)
  })

  it('undoes and redoes here, and lets nothing else hear of it', async () => {
    const elsewhere = vi.fn()
    addEventListener('keydown', elsewhere)
    const { onUndo, onRedo } = show()
    await userEvent.click(cell('name', 1))
    await userEvent.keyboard('{Control>}z{/Control}{Control>}y{/Control}{Control>}{Shift>}z{/Shift}{/Control}')
    removeEventListener('keydown', elsewhere)
    expect([onUndo.mock.calls.length, onRedo.mock.calls.length]).toEqual([1, 2])
    expect(elsewhere.mock.calls.filter(([e]) => /^[yz]$/i.test((e as KeyboardEvent).key))).toEqual([])
  })

  it('adds, removes and moves rows by key', async () => {
    const { onAdd, onRemove, onMove } = show()
    await userEvent.click(cell('name', 2))
    await userEvent.keyboard('{Control>}{Enter}{/Control}{Alt>}{ArrowUp}{/Alt}')
    expect(onAdd).toHaveBeenLastCalledWith(1)
    expect(onMove).toHaveBeenLastCalledWith([1], 0)
    await userEvent.click(cell('name', 1))
    await userEvent.keyboard('{Shift>}{ArrowDown}{/Shift}{Alt>}{ArrowDown}{/Alt}{Control>}{Delete}{/Control}')
    expect(onMove).toHaveBeenLastCalledWith([0, 1], null)
    expect(onRemove).toHaveBeenLastCalledWith([1, 2])
  })

  it('is only read where it is not to be changed', async () => {
    const { told } = show({ disabled: true })
    await typeInto('number', 2, 'x{Delete}')
    await userEvent.keyboard('{Control>}d{/Control}')
    pasteInto('number', 1, 'x')
    expect(told).toEqual([])
    expect(screen.queryByRole('textbox')).toBeNull()
  })
})

it('shows what was typed while it is on its way, and what stands there where it does not come back in time', async () => {
  vi.useFakeTimers({ shouldAdvanceTime: true })
  const onChange = vi.fn()
  show({ onChange })
  await typeInto('number', 1, '42{Enter}')
  expect(onChange).toHaveBeenCalledTimes(1)
  expect(cell('number', 1).textContent).toBe('42')
  await act(() => vi.advanceTimersByTimeAsync(5_000))
  expect(cell('number', 1).textContent).toBe('10')
  vi.useRealTimers()
})

it('shows what is taken back right after it was typed', async () => {
  function Page() {
    const [cells, setCells] = useState(['a', '1', ''])
    return (
      <Grid
        name="test"
        label="Cells"
        one="row"
        columns={columns}
        count={1}
        rowAt={(i) => (i === 0 ? { key: 'k', cells } : undefined)}
        disabled={false}
        onChange={(c) => setTimeout(() => setCells(['a', c[0]!.text, '']), 20)}
        onUndo={() => setCells(['a', '1', ''])}
      />
    )
  }
  render(<Page />)
  await typeInto('number', 1, '2{Enter}')
  await act(() => new Promise((done) => setTimeout(done, 60)))
  await userEvent.keyboard('{Control>}z{/Control}')
  expect(cell('number', 1).textContent).toBe('1')
})

describe('the clipboard of a grid', () => {
  it('copies a block as spreadsheets do, and cuts it', async () => {
    const { told } = show()
    await userEvent.click(cell('name', 1))
    await userEvent.keyboard('{Shift>}{ArrowDown}{ArrowRight}{/Shift}')
    const data = { setData: vi.fn() }
    fireEvent.copy(document.activeElement!, { clipboardData: data })
    fireEvent.cut(document.activeElement!, { clipboardData: data })
    expect(data.setData.mock.calls).toEqual([
      ['text/plain', 'a\t10\nb\t9'],
      ['text/plain', 'a\t10\nb\t9'],
    ])
    expect(told[0]!.every((c) => c.text === '')).toBe(true)
    expect(told[0]).toHaveLength(4)
  })

  it('pastes a block from where one is, an empty row within it too, no wider than its columns', () => {
    const { told } = show()
    pasteInto('number', 1, '1\tn\tbeyond\n\n3\tm\n')
    expect(told[0]!.map((c) => [c.row, c.column, c.text])).toEqual([
      [0, 1, '1'],
      [0, 2, 'n'],
      [1, 1, ''],
      [2, 1, '3'],
      [2, 2, 'm'],
    ])
  })

  it('makes rows of what is pasted or typed beyond the end, where it takes new ones', async () => {
    const { told } = show({ takesNew: true })
    pasteInto('name', 4, 'd\t4\ne\t5')
    expect(told[0]!.map((c) => [c.row, c.column, c.text])).toEqual([
      [3, 0, 'd'],
      [3, 1, '4'],
      [4, 0, 'e'],
      [4, 1, '5'],
    ])
    await typeInto('name', 6, 'f{Enter}')
    expect(cellsOf()).toHaveLength(7)
  })

  it('writes one cell over all that are marked', async () => {
    const { told } = show()
    await userEvent.click(cell('number', 1))
    await userEvent.keyboard('{Shift>}{ArrowDown}{/Shift}')
    fireEvent.paste(document.activeElement!, { clipboardData: { getData: () => '5' } })
    expect(told[0]!.map((c) => c.text)).toEqual(['5', '5'])
  })

  it('leaves cells alone that only say what a row is about', () => {
    const { told } = show({ columns: [{ ...columns[0]!, fixed: 'It stays.' }, ...columns.slice(1)] })
    pasteInto('name', 1, 'z\t5')
    expect(told).toEqual([[{ row: 0, column: 1, text: '5', before: '10' }]])
  })
})

describe('order and place in a grid', () => {
  const names = () => cellsOf().map((r) => r[0])

  it('sorts numbers by size with empty cells last, and stays so while a cell is edited', async () => {
    const { told } = show({ rows: [...some, ['d', '', '']] })
    await userEvent.click(screen.getByRole('button', { name: 'number' }))
    expect(names()).toEqual(['b', 'a', 'c', 'd'])
    await typeInto('number', 1, '5000{Enter}')
    expect(told[0]).toEqual([{ row: 1, column: 1, text: '5000', before: '9' }])
    expect(names()).toEqual(['b', 'a', 'c', 'd'])
    await userEvent.click(screen.getByRole('button', { name: 'number' }))
    expect(names()).toEqual(['b', 'c', 'a', 'd'])
    await userEvent.click(screen.getByRole('button', { name: 'number' }))
    expect(names()).toEqual(['a', 'b', 'c', 'd'])
  })

  it('shows only rows that are asked for, and writes to the right one', async () => {
    const { told, onMove } = show()
    await userEvent.click(screen.getByRole('button', { name: 'Filter' }))
    await userEvent.type(screen.getByRole('textbox', { name: 'Only rows whose number has' }), '>50')
    const shown = () =>
      within(screen.getByRole('grid'))
        .getAllByRole('rowheader')
        .map((h) => h.parentElement!.querySelector('[aria-colindex="2"]')!.textContent)
    expect(shown()).toEqual(['c'])
    expect(screen.getByRole('status').textContent).toContain('1 of 3 rows')
    await userEvent.click(screen.getAllByRole('rowheader')[0]!)
    await userEvent.keyboard('{End}new{Enter}')
    expect(told[0]).toEqual([{ row: 2, column: 2, text: 'new', before: '' }])
    // Rows have no place to be moved to while some are not shown.
    await userEvent.keyboard('{Alt>}{ArrowUp}{/Alt}')
    expect(onMove).not.toHaveBeenCalled()
    await userEvent.click(screen.getByRole('button', { name: 'Show all' }))
    expect(shown()).toEqual(['a', 'b', 'c'])
  })

  it('remembers columns that were drawn wider or placed elsewhere', async () => {
    show()
    const wider = async (column: string, entry: string) => {
      fireEvent.contextMenu(cell(column, 1))
      await userEvent.click(screen.getByRole('menuitem', { name: entry }))
    }
    await wider('number', 'Wider')
    await wider('number', 'Column to the right')
    document.body.innerHTML = ''
    show()
    expect(screen.getAllByRole('columnheader').map((h) => h.textContent)).toEqual(['Row', 'name', 'note', 'number'])
    expect([...document.querySelectorAll('col')].map((c) => c.style.width)).toEqual(['40px', '100px', '100px', '140px'])
  })

  it('draws only what is in sight of a long table, and asks for what is', () => {
    const onSight = vi.fn()
    show({ count: 100_000, rowAt: (i) => (i < 50 ? { key: `n${i}`, cells: [`n${i}`, '', ''] } : undefined), onSight })
    expect(screen.getByRole('grid').getAttribute('aria-rowcount')).toBe('100001')
    expect(screen.getAllByRole('row').length).toBeLessThan(200)
    expect(onSight).toHaveBeenCalled()
  })
})

describe('the menu of a grid', () => {
  it('says the same as the keys, is gone through by arrows, and gives the focus back', async () => {
    const { onOpen, onRemove } = show()
    await userEvent.click(cell('name', 2))
    fireEvent.contextMenu(document.activeElement!)
    const entries = screen.getAllByRole('menuitem').map((m) => m.textContent)
    for (const entry of [
      'Edit cellF2',
      'CopyCtrl+C',
      'PasteCtrl+V',
      'Fill downCtrl+D',
      'ClearDelete',
      'Open row',
      'New row belowCtrl+Enter',
      'Move upAlt+↑',
      'Delete rowCtrl+Delete',
      'Sort up by “name”',
      'Filter rows',
    ])
      expect(entries).toContain(entry)
    await userEvent.keyboard('{Escape}')
    expect(screen.queryByRole('menu')).toBeNull()
    expect(at()).toBe('1,0')
    fireEvent.contextMenu(document.activeElement!)
    await userEvent.click(screen.getByRole('menuitem', { name: 'Open row' }))
    expect(onOpen).toHaveBeenCalledWith(1)
    fireEvent.contextMenu(cell('name', 3))
    await userEvent.click(screen.getByRole('menuitem', { name: /Delete row/ }))
    expect(onRemove).toHaveBeenCalledWith([2])
  })

  it('tells what is marked and its sum', async () => {
    show()
    await userEvent.click(cell('number', 1))
    await userEvent.keyboard('{Shift>}{ArrowDown}{ArrowDown}{/Shift}')
    expect(screen.getByRole('status').textContent).toBe('3 × 1 cells, sum 119; 3 rows')
  })
})
