import { keepPreviousData, useQueries, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { ask, client } from '../../api/client'
import type { Filters, Sorting } from '../../ui/grid/types'

/** As many as the server gives at once. */
const pageSize = 200

type Wanted = { search: string; sorting: Sorting; filters: Filters }

/** A table of the library, of which only those pages are loaded that are looked at. */
export function useTablePages(table: string, { search, sorting, filters }: Wanted) {
  const [seen, setSeen] = useState({ first: 0, last: 0 })
  const where = Object.entries(filters).flatMap(([column, text]) => (text.trim() === '' ? [] : [`${column}:${text.trim()}`]))
  const page = (number: number) => ({
    queryKey: ['library', table, search, sorting, where, number],
    queryFn: ({ signal }: { signal: AbortSignal }) =>
      ask(
        client.GET('/api/library/{table}', {
          params: {
            path: { table },
            query: { search, where, from: number * pageSize, ...(sorting && { sort: sorting.column, descending: sorting.down }) },
          },
          signal,
        }),
      ),
  })
  // The first page is always there: it says how many rows there are. What was there before stands until it comes.
  const head = useQuery({ ...page(0), placeholderData: keepPreviousData })
  const others = [...new Set([seen.first, seen.last])].filter((n) => n > 0)
  const rest = useQueries({ queries: others.map(page) })
  const columns = head.data?.columns ?? []
  return {
    columns,
    numberColumns: head.data?.numberColumns ?? [],
    found: head.data?.found ?? 0,
    isThere: head.data !== undefined,
    error: head.error ?? rest.find((p) => p.error)?.error ?? null,
    rowAt: (index: number): string[] | undefined => {
      const number = Math.floor(index / pageSize)
      return (number === 0 ? head : rest[others.indexOf(number)])?.data?.rows[index % pageSize]
    },
    /** The rows of those that are loaded that have one of some keys. */
    indicesOf: (keys: ReadonlySet<string>): number[] =>
      [{ number: 0, data: head.data }, ...others.map((number, i) => ({ number, data: rest[i]?.data }))].flatMap(
        ({ number, data }) => data?.rows.flatMap((r, i) => (keys.has(r[0]!) ? [number * pageSize + i] : [])) ?? [],
      ),
    see: (first: number, last: number) => {
      const now = { first: Math.floor(first / pageSize), last: Math.floor(last / pageSize) }
      setSeen((s) => (s.first === now.first && s.last === now.last ? s : now))
    },
  }
}

export type TablePages = ReturnType<typeof useTablePages>
