import { useEffect, useRef, useState } from 'react'
import type { CellChange, GridRow } from './types'

/** How long a text stands in its cell while nothing comes back of it. */
const patience = 4_000

type Sent = { row: number; column: number; text: string; before: string }

/** Texts that were typed stand in their cells at once, until what comes back of them does, or it does not come in time. */
export function useSentCells(rowAt: (index: number) => GridRow | undefined) {
  const [sent, setSent] = useState<ReadonlyMap<string, Sent>>(new Map())
  const waits = useRef(new Set<ReturnType<typeof setTimeout>>())
  useEffect(() => {
    const all = waits.current
    return () => all.forEach(clearTimeout)
  }, [])

  // What came back once is told by the rows from then on, also when it is taken back.
  const back = [...sent].filter(([, s]) => (rowAt(s.row)?.cells[s.column] ?? s.before) !== s.before)
  if (back.length > 0) setSent(new Map([...sent].filter(([cell]) => !back.some(([b]) => b === cell))))

  return {
    rowAt: (index: number): GridRow | undefined => {
      const row = rowAt(index)
      if (!row || sent.size === 0 || !row.cells.some((c, i) => sent.get(`${row.key} ${i}`)?.before === c)) return row
      return { ...row, cells: row.cells.map((c, i) => (sent.get(`${row.key} ${i}`)?.before === c ? sent.get(`${row.key} ${i}`)!.text : c)) }
    },
    send: (changes: CellChange[]) => {
      const cells = changes.flatMap((c): [string, Sent][] => {
        const row = rowAt(c.row)
        return row ? [[`${row.key} ${c.column}`, { row: c.row, column: c.column, text: c.text.trim(), before: row.cells[c.column] ?? '' }]] : []
      })
      setSent((s) => new Map([...s, ...cells]))
      const wait = setTimeout(() => {
        waits.current.delete(wait)
        setSent((s) => new Map([...s].filter(([cell, what]) => !cells.some(([k, w]) => k === cell && w === what))))
      }, patience)
      waits.current.add(wait)
    },
  }
}
