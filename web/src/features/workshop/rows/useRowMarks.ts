import { useState } from 'react'
import type { Row } from '../model'

/** Which rows of a worksheet are marked, to be moved, copied or deleted together; the one that has the focus counts where none is. */
export function useRowMarks(rows: Row[]) {
  const [marked, setMarked] = useState<ReadonlySet<string>>(new Set())
  const [anchor, setAnchor] = useState<string | null>(null)
  const order = rows.map((r) => r.id)
  const there = new Set(order.filter((id) => marked.has(id)))
  return {
    marked: there,
    toggle: (id: string) => {
      const next = new Set(there)
      if (!next.delete(id)) next.add(id)
      setMarked(next)
      setAnchor(id)
    },
    /** Marks all from where marking began to here. */
    extend: (id: string, from: string) => {
      const begin = anchor !== null && there.size > 0 ? anchor : from
      setAnchor(begin)
      const [a, b] = [order.indexOf(begin), order.indexOf(id)]
      setMarked(new Set(order.slice(Math.min(a, b), Math.max(a, b) + 1)))
    },
    all: () => setMarked(new Set(order)),
    clear: () => {
      setMarked(new Set())
      setAnchor(null)
    },
    set: (ids: string[]) => {
      setMarked(new Set(ids))
      setAnchor(ids[0] ?? null)
    },
    /** What something is done with that begins at a row: the marked ones where it is among them, in their order. */
    of: (id: string): Row[] => (there.has(id) ? rows.filter((r) => there.has(r.id)) : rows.filter((r) => r.id === id)),
  }
}

export type RowMarks = ReturnType<typeof useRowMarks>
