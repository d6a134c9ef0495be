import { ArrowDown, ArrowUp, Filter } from 'lucide-react'
import { useState, type ReactNode } from 'react'
import { compareCells, isWanted } from './grid/cells'
import { nextSorting } from './grid/GridHead'
import type { Filters, Sorting } from './grid/types'
import { SavedViews } from './SavedViews'
import { t } from '../texts'

export type ListColumn<T> = {
  key: string
  name: string
  /** What it is sorted and filtered by; without it, it is neither. */
  text?: (thing: T) => string
  cell: (thing: T) => ReactNode
  look?: string
  /** Whether its head is only for those who hear it. */
  isQuiet?: boolean
}

/** So many are seen at a glance. */
const fewRows = 8

type Props<T> = {
  label: string
  columns: ListColumn<T>[]
  rows: T[]
  keyOf: (thing: T) => string
  /** Under what its narrowings are kept; without it none are. */
  place?: string
}

/** What is kept of a narrowing; what cannot be read narrows nothing. */
function readState(state: string): { sorting: Sorting; filters: Filters | null } {
  try {
    const kept = JSON.parse(state) as { sorting?: Sorting; filters?: Filters | null }
    return { sorting: kept.sorting ?? null, filters: kept.filters ?? null }
  } catch {
    return { sorting: null, filters: null }
  }
}

/** A list that is read: sorted by the heads of its columns, filtered by what stands in them. */
export function ListTable<T>({ label, columns, rows, keyOf, place }: Props<T>) {
  const [sorting, setSorting] = useState<Sorting>(null)
  const [filters, setFilters] = useState<Filters | null>(null)
  const by = columns.find((c) => c.key === sorting?.column)?.text
  const wanted = rows.filter((r) =>
    Object.entries(filters ?? {}).every(
      ([key, filter]) => filter.trim() === '' || isWanted(columns.find((c) => c.key === key)?.text?.(r) ?? '', filter),
    ),
  )
  const shown = by ? [...wanted].sort((a, b) => compareCells(by(a), by(b), sorting!.down)) : wanted
  const narrowing = Object.fromEntries(Object.entries(filters ?? {}).filter(([, text]) => text.trim() !== ''))
  const state = sorting || Object.keys(narrowing).length > 0 ? JSON.stringify({ sorting, filters: narrowing }) : ''
  return (
    <div className="grid gap-1">
      {rows.length > 0 && (place !== undefined || rows.length > fewRows) && (
        /* Its line is there from the start: nothing moves while something is typed. */
        <div className="flex min-h-8 flex-wrap items-center gap-3">
          {place !== undefined && (
            <SavedViews
              place={place}
              state={state}
              onOpen={(kept) => {
                const { sorting: by, filters: of } = readState(kept)
                setSorting(by)
                setFilters(of)
              }}
            />
          )}
          {rows.length > fewRows && (
            <p className="quiet ml-auto flex items-center gap-2 text-sm">
              <button className="btn btn-ghost btn-sm" aria-pressed={filters !== null} onClick={() => setFilters(filters ? null : {})}>
                <Filter className="size-3.5" /> {filters ? t('ui.showAll') : t('ui.filter')}
              </button>
              {shown.length < rows.length && <span role="status">{t('ui.shownOfRows', { shown: shown.length, rows: rows.length })}</span>}
            </p>
          )}
        </div>
      )}
      <table className="w-full" aria-label={label}>
        <thead className="text-left text-sm">
          <tr className="border-b hair [&>th]:py-1 [&>th]:pr-4 [&>th]:font-normal">
            {columns.map((c) => {
              const isSorted = sorting?.column === c.key
              return (
                <th key={c.key} className={c.look} aria-sort={isSorted ? (sorting.down ? 'descending' : 'ascending') : undefined}>
                  {c.text ? (
                    <button
                      className="quiet inline-flex items-center gap-1 italic hover:text-primary"
                      title={t('ui.nameAClickSorts', { name: c.name })}
                      onClick={() => setSorting(nextSorting(sorting, c.key))}
                    >
                      {c.name}
                      {isSorted && (sorting.down ? <ArrowDown className="size-3.5" /> : <ArrowUp className="size-3.5" />)}
                    </button>
                  ) : (
                    <span className={c.isQuiet ? 'sr-only' : 'quiet italic'}>{c.name}</span>
                  )}
                </th>
              )
            })}
          </tr>
          {filters && (
            <tr>
              {columns.map((c) => (
                <td key={c.key} className="py-1 pr-4">
                  {c.text && (
                    <input
                      className="input min-h-6 min-w-0"
                      aria-label={t('ui.onlyThoseWhoseNameHas', { name: c.name })}
                      value={filters[c.key] ?? ''}
                      onChange={(e) => setFilters({ ...filters, [c.key]: e.target.value })}
                    />
                  )}
                </td>
              ))}
            </tr>
          )}
        </thead>
        <tbody>
          {shown.map((r) => (
            <tr key={keyOf(r)} className="border-b hair hover:bg-base-200 [&>td]:py-1.5 [&>td]:pr-4">
              {columns.map((c) => (
                <td key={c.key} className={c.look}>
                  {c.cell(r)}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  )
}
