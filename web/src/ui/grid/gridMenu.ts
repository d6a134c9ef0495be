import { thing, type Thing } from '../format'
import type { MenuEntry } from '../ContextMenu'
import type { GridColumn, Sorting } from './types'
import type { useColumns } from './useColumns'
import { t } from '../../texts'

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
  one: Thing
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
    { label: t('ui.editCell'), keys: 'F2', disabled, act: acts.edit },
    { label: t('ui.copy'), keys: 'Ctrl+C', act: acts.copy },
    { label: t('ui.paste'), keys: 'Ctrl+V', disabled, act: acts.paste },
    { label: t('ui.fillDown'), keys: 'Ctrl+D', disabled, act: acts.fill },
    { label: t('ui.clear'), keys: 'Delete', disabled, act: acts.clear },
  ]
  const rows: MenuEntry[] = [
    ...(acts.open ? [{ label: t('ui.openOne', { one: thing(one) }), disabled: isNewLine, act: acts.open }] : []),
    ...(acts.add ? [{ label: t('ui.newOneBelow', { one: thing(one) }), keys: 'Ctrl+Enter', act: acts.add }] : []),
    ...(acts.move
      ? ([-1, 1] as const).map((by) => ({
          label: by < 0 ? t('ui.moveUp') : t('ui.moveDown'),
          keys: by < 0 ? 'Alt+↑' : 'Alt+↓',
          disabled: isNewLine,
          act: () => acts.move!(by),
        }))
      : []),
    ...(acts.remove ? [{ label: t('ui.deleteOne', { one: thing(one) }), keys: 'Ctrl+Delete', disabled: isNewLine, act: acts.remove }] : []),
  ]
  const width = cols.widthOf(column)
  const ofColumn: MenuEntry[] = [
    { label: t('ui.sortUpByName', { name: column.name }), act: () => sort({ column: column.key, down: false }) },
    { label: t('ui.sortDownByName', { name: column.name }), act: () => sort({ column: column.key, down: true }) },
    ...(sorting ? [{ label: t('ui.asItWasBeforeSorting'), act: () => sort(null) }] : []),
    { label: t('ui.filterRows'), act: filter },
    { label: t('ui.columnToTheLeft'), disabled: place < 2, act: () => cols.place(place, place - 1) },
    { label: t('ui.columnToTheRight'), disabled: place < 1 || place >= columns - 1, act: () => cols.place(place, place + 1) },
    { label: t('ui.wider'), act: () => cols.resize(column.key, width + step) },
    { label: t('ui.narrower'), act: () => cols.resize(column.key, width - step) },
  ]
  return isHead ? ofColumn : [...cells, ...(rows.length > 0 ? (['line', ...rows] as MenuEntry[]) : []), 'line', ...ofColumn]
}
