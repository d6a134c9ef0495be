import type { MenuEntry } from '../ContextMenu'
import type { GridColumn, Sorting } from './types'
import type { useColumns } from './useColumns'

/** What can be done with the cells and rows that are marked; none of it where it is missing. */
export type Acts = {
  edit: () => void
  fill: () => void
  clear: () => void
  copy: () => void
  paste: () => void
  add?: () => void
  remove?: () => void
  move?: (by: -1 | 1) => void
  open?: () => void
}

type Of = {
  acts: Acts
  isHead: boolean
  disabled: boolean
  isNewLine: boolean
  one: string
  sorting: Sorting
  column: GridColumn
  /** Where the column stands. */
  place: number
  columns: number
  sort: (sorting: Sorting) => void
  filter: () => void
  cols: ReturnType<typeof useColumns>
}

const step = 40

/** The menu of a cell, or of the head of a column: the same as the keys do. */
export function menuOf({ acts, isHead, disabled, isNewLine, one, sorting, column, place, columns, sort, filter, cols }: Of): MenuEntry[] {
  const cells: MenuEntry[] = [
    { label: 'Edit cell', keys: 'F2', disabled, act: acts.edit },
    { label: 'Copy', keys: 'Ctrl+C', act: acts.copy },
    { label: 'Paste', keys: 'Ctrl+V', disabled, act: acts.paste },
    { label: 'Fill down', keys: 'Ctrl+D', disabled, act: acts.fill },
    { label: 'Clear', keys: 'Delete', disabled, act: acts.clear },
  ]
  const rows: MenuEntry[] = [
    ...(acts.open ? [{ label: `Open ${one}`, disabled: isNewLine, act: acts.open }] : []),
    ...(acts.add ? [{ label: `New ${one} below`, keys: 'Ctrl+Enter', act: acts.add }] : []),
    ...(acts.move
      ? ([-1, 1] as const).map((by) => ({
          label: by < 0 ? 'Move up' : 'Move down',
          keys: by < 0 ? 'Alt+↑' : 'Alt+↓',
          disabled: isNewLine,
          act: () => acts.move!(by),
        }))
      : []),
    ...(acts.remove ? [{ label: `Delete ${one}`, keys: 'Ctrl+Delete', disabled: isNewLine, act: acts.remove }] : []),
  ]
  const width = cols.widthOf(column)
  const ofColumn: MenuEntry[] = [
    { label: `Sort up by “${column.name}”`, act: () => sort({ column: column.key, down: false }) },
    { label: `Sort down by “${column.name}”`, act: () => sort({ column: column.key, down: true }) },
    ...(sorting ? [{ label: 'As it was before sorting', act: () => sort(null) }] : []),
    { label: 'Filter rows', act: filter },
    { label: 'Column to the left', disabled: place < 2, act: () => cols.place(place, place - 1) },
    { label: 'Column to the right', disabled: place < 1 || place >= columns - 1, act: () => cols.place(place, place + 1) },
    { label: 'Wider', act: () => cols.resize(column.key, width + step) },
    { label: 'Narrower', act: () => cols.resize(column.key, width - step) },
  ]
  return isHead ? ofColumn : [...cells, ...(rows.length > 0 ? (['line', ...rows] as MenuEntry[]) : []), 'line', ...ofColumn]
}
