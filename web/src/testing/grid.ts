import { createEvent, fireEvent, screen, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'

/** The cell of a grid by the name of its column and its row, the first one 1. */
export function cell(column: string, row: number, grid: HTMLElement = screen.getByRole('grid')): HTMLElement {
  const place = grid.querySelector<HTMLElement>(`[aria-rowindex="${row + 1}"] [data-column="${column}"]`)
  if (!place) throw new Error(`There is no cell ${column}, row ${row}.`)
  return place
}

/** Goes to a cell and types over it. */
export async function typeInto(column: string, row: number, text: string, grid?: HTMLElement) {
  await userEvent.click(cell(column, row, grid))
  await userEvent.keyboard(text)
}

/** Pastes into a cell as a spreadsheet does: rows by lines, cells by tabs. */
export function pasteInto(column: string, row: number, text: string, grid?: HTMLElement) {
  const at = cell(column, row, grid)
  fireEvent.pointerDown(at, { button: 0 })
  fireEvent.pointerUp(at)
  at.focus()
  fireEvent(at, createEvent.paste(at, { clipboardData: { getData: () => text } }))
}

/** The texts of a grid, row by row. */
export const cellsOf = (grid: HTMLElement = screen.getByRole('grid')) =>
  within(grid)
    .getAllByRole('row')
    .slice(1)
    .map((r) =>
      within(r)
        .queryAllByRole('gridcell')
        .map((c) => c.textContent),
    )
