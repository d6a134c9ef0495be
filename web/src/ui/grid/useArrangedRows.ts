import { useMemo, useState } from 'react'
import { compareCells, isWanted } from './cells'
import type { Arrangement, Filters, GridColumn, GridRow, Sorting } from './types'

/**
 * Which rows are shown in which order. A sorted table stays as it was sorted while its cells are edited, so that no row leaves the hand;
 * rows that are new stand at its end.
 */
export function useArrangedRows(columns: GridColumn[], count: number, rowAt: (index: number) => GridRow | undefined, elsewhere?: Arrangement) {
  const [sorting, setSorting] = useState<Sorting>(null)
  const [filters, setFilters] = useState<Filters>({})
  const [sorted, setSorted] = useState<string[] | null>(null)

  function sort(next: Sorting) {
    if (elsewhere) return elsewhere.onSort(next)
    setSorting(next)
    const column = next ? columns.findIndex((c) => c.key === next.column) : -1
    if (!next || column < 0) return setSorted(null)
    const cells = Array.from({ length: count }, (_, i) => rowAt(i)!).map((r) => ({ key: r.key, cell: r.cells[column] ?? '' }))
    setSorted(cells.sort((a, b) => compareCells(a.cell, b.cell, next.down)).map((c) => c.key))
  }

  const wanted = Object.entries(elsewhere ? {} : filters).flatMap(([key, text]) => {
    const column = columns.findIndex((c) => c.key === key)
    return text.trim() !== '' && column >= 0 ? [{ column, text }] : []
  })
  const place = useMemo(() => sorted && new Map(sorted.map((key, i) => [key, i])), [sorted])

  /** Of each row that is shown, which one it is; null where all are shown as they come. */
  let shown: number[] | null = null
  if (wanted.length > 0 || place) {
    shown = Array.from({ length: count }, (_, i) => i).filter((i) => wanted.every((w) => isWanted(rowAt(i)!.cells[w.column] ?? '', w.text)))
    if (place) shown.sort((a, b) => (place.get(rowAt(a)!.key) ?? Infinity) - (place.get(rowAt(b)!.key) ?? Infinity) || a - b)
  }
  return {
    sorting: elsewhere ? elsewhere.sorting : sorting,
    filters: elsewhere ? elsewhere.filters : filters,
    sort,
    filter: elsewhere ? elsewhere.onFilter : setFilters,
    length: shown ? shown.length : count,
    /** The row at a place of the view; one beyond its end is new. */
    indexAt: (place: number) => (shown ? (shown[place] ?? count + place - shown.length) : place),
    placeOf: (index: number) => (shown ? shown.indexOf(index) : index),
    isArranged: shown !== null || (elsewhere !== undefined && (elsewhere.sorting !== null || Object.values(elsewhere.filters).some((f) => f !== ''))),
  }
}
