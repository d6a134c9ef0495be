import { useState } from 'react'

export type Place = { row: number; column: number }

/** A rectangle of cells, its last row and column within it. */
export type Block = { top: number; bottom: number; left: number; right: number }

/** The cell one is at, and the block marked from it; a table that has become shorter keeps them within it. */
export function useBlock(rows: number, columns: number) {
  const [from, setFrom] = useState<Place>({ row: 0, column: 0 })
  const [to, setTo] = useState<Place>(from)
  const within = (p: Place): Place => ({ row: Math.max(0, Math.min(rows - 1, p.row)), column: Math.max(0, Math.min(columns - 1, p.column)) })
  const [at, end] = [within(from), within(to)]
  const block: Block = {
    top: Math.min(at.row, end.row),
    bottom: Math.max(at.row, end.row),
    left: Math.min(at.column, end.column),
    right: Math.max(at.column, end.column),
  }
  return {
    at,
    end,
    block,
    isSeveral: block.top < block.bottom || block.left < block.right,
    go: (place: Place) => {
      setFrom(within(place))
      setTo(within(place))
    },
    extend: (place: Place) => setTo(within(place)),
    mark: (b: Block) => {
      setFrom({ row: b.top, column: b.left })
      setTo({ row: b.bottom, column: b.right })
    },
  }
}

/** Where an arrow or another key of movement leads; null where the key is none. */
export function placeAfter(key: string, from: Place, isFar: boolean, rows: number, columns: number, page: number): Place | null {
  const { row, column } = from
  switch (key) {
    case 'ArrowDown':
      return { row: isFar ? rows - 1 : row + 1, column }
    case 'ArrowUp':
      return { row: isFar ? 0 : row - 1, column }
    case 'ArrowRight':
      return { row, column: isFar ? columns - 1 : column + 1 }
    case 'ArrowLeft':
      return { row, column: isFar ? 0 : column - 1 }
    case 'Home':
      return { row: isFar ? 0 : row, column: 0 }
    case 'End':
      return { row: isFar ? rows - 1 : row, column: columns - 1 }
    case 'PageDown':
      return { row: row + page, column }
    case 'PageUp':
      return { row: row - page, column }
    default:
      return null
  }
}
