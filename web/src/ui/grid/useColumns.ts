import { useState } from 'react'
import type { GridColumn } from './types'

type Kept = { widths: Record<string, number>; order: string[] }

const narrowest = 32
const widest = 1200

function keptOf(name: string): Kept {
  try {
    const kept = JSON.parse(localStorage.getItem(`juniperfall.columns.${name}`) ?? '{}') as Partial<Kept>
    return { widths: kept.widths ?? {}, order: Array.isArray(kept.order) ? kept.order : [] }
  } catch {
    return { widths: {}, order: [] }
  }
}

/** The columns of a table as this person has drawn and placed them, remembered in the browser under the table's name. The first one stays first. */
export function useColumns(name: string, columns: GridColumn[]) {
  const [kept, setKept] = useState(() => keptOf(name))

  function keep(next: Kept) {
    setKept(next)
    localStorage.setItem(`juniperfall.columns.${name}`, JSON.stringify(next))
  }

  const rank = (key: string) => {
    const at = kept.order.indexOf(key)
    return at < 0 ? Infinity : at
  }
  const order = columns.map((_, i) => i)
  if (kept.order.length > 0) order.sort((a, b) => (a === 0 ? -1 : b === 0 ? 1 : rank(columns[a]!.key) - rank(columns[b]!.key) || a - b))
  return {
    /** Of each column that is shown, which one it is. */
    order,
    widthOf: (column: GridColumn) => kept.widths[column.key] ?? column.width,
    isDrawn: (column: GridColumn) => kept.widths[column.key] !== undefined,
    resize: (key: string, width: number | null) => {
      const others = Object.entries(kept.widths).filter(([k]) => k !== key)
      keep({
        ...kept,
        widths: Object.fromEntries(width === null ? others : [...others, [key, Math.round(Math.max(narrowest, Math.min(widest, width)))]]),
      })
    },
    /** Puts the column at one place of the view to another; nothing comes before the first. */
    place: (from: number, to: number) => {
      if (from < 1 || to < 1 || to >= order.length || from === to) return
      const keys = order.map((i) => columns[i]!.key)
      keys.splice(to, 0, ...keys.splice(from, 1))
      keep({ ...kept, order: keys })
    },
  }
}
