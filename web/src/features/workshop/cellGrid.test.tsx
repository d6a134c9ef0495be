import { fireEvent, render, screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, it, vi } from 'vitest'
import { CellGrid } from './CellGrid'

function show(rows = [['a', '1'], ['b', '2'], ['c', '3']], disabled = false) {
  const [onCommit, onPaste] = [vi.fn(), vi.fn()]
  render(
    <CellGrid
      label="Cells"
      columns={['name', 'number'].map((c) => ({ key: c, head: c, label: c }))}
      rows={rows.map((cells, i) => ({ key: String(i), cells, faults: [] }))}
      disabled={disabled}
      onCommit={onCommit}
      onPaste={onPaste}
    />,
  )
  const cell = (column: string, row: number) => screen.getByRole<HTMLInputElement>('textbox', { name: `${column}, row ${row}` })
  return { onCommit, onPaste, cell }
}

describe('a table of cells', () => {
  it('takes the cell above with Ctrl+D', async () => {
    const { onPaste, cell } = show()
    await userEvent.click(cell('number', 2))
    await userEvent.keyboard('{Control>}d{/Control}')
    expect(onPaste).toHaveBeenCalledWith(1, 1, [['1']])
    // Above the first row there is nothing.
    await userEvent.click(cell('number', 1))
    await userEvent.keyboard('{Control>}d{/Control}')
    expect(onPaste).toHaveBeenCalledTimes(1)
  })

  it('fills and clears what is marked with Shift and the arrows', async () => {
    const { onPaste, cell } = show()
    await userEvent.click(cell('number', 1))
    await userEvent.keyboard('{Shift>}{ArrowDown}{ArrowDown}{ArrowDown}{/Shift}{Control>}d{/Control}')
    expect(onPaste).toHaveBeenCalledWith(1, 1, [['1'], ['1']])
    await userEvent.keyboard('{Delete}')
    expect(onPaste).toHaveBeenLastCalledWith(0, 1, [[''], [''], ['']])
    await userEvent.keyboard('{Escape}{Delete}')
    expect(onPaste).toHaveBeenCalledTimes(2)
  })

  it('fills several columns that are marked with a click', async () => {
    const { onPaste, cell } = show()
    await userEvent.click(cell('name', 1))
    fireEvent.pointerDown(cell('number', 2), { shiftKey: true })
    await userEvent.keyboard('{Control>}d{/Control}')
    expect(onPaste).toHaveBeenCalledWith(1, 0, [['a', '1']])
  })

  it('is not filled by those who only read', async () => {
    const { onPaste, cell } = show(undefined, true)
    fireEvent.keyDown(cell('number', 2), { key: 'd', ctrlKey: true })
    expect(onPaste).not.toHaveBeenCalled()
  })

  it('draws only what is in sight of a long table', () => {
    show(Array.from({ length: 20_000 }, (_, i) => [`n${i}`, String(i)]))
    expect(screen.getByRole('table').getAttribute('aria-rowcount')).toBe('20001')
    expect(screen.queryAllByRole('textbox').length).toBeLessThan(400)
  })
})
