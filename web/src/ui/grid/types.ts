import type { Thing } from '../format'
import type { ReactNode } from 'react'

export type GridColumn = {
  key: string
  name: string
  /** What stands in its head in place of its name. */
  head?: ReactNode
  /** In pixels, until someone draws it wider. */
  width: number
  /** Takes what room is left. */
  grows?: boolean
  look?: string
  /** Why its cells cannot be typed over in rows that are there. */
  fixed?: string
}

/** What is wrong with a cell: where in its text, and what could stand there. */
export type CellFault = { message: string; start: number; length: number; suggestion: string | null }

export type GridRow = { key: string; cells: string[]; lead?: ReactNode; faults?: (CellFault | undefined)[] }

/** A cell that is to hold another text. A row beyond the last is a new one. */
export type CellChange = { row: number; column: number; text: string; before: string }

export type Sorting = { column: string; down: boolean } | null

export type Filters = Record<string, string>

/** Sorting and filters that someone else applies, such as the server to what it holds. */
export type Arrangement = { sorting: Sorting; filters: Filters; onSort: (sorting: Sorting) => void; onFilter: (filters: Filters) => void }

/** What can be done with whole rows; none of it where it is missing. */
export type RowActions = {
  /** Adds an empty row after this one; at the end of all where it is null. */
  onAdd?: (after: number | null) => void
  onRemove?: (rows: number[]) => void
  /** Puts rows, which stand together, before another; at the end where that is null. */
  onMove?: (rows: number[], before: number | null) => void
  onOpen?: (row: number) => void
  /** What a row is called in the words of the table: “value”, “row”, “item”. */
  one: Thing
}
