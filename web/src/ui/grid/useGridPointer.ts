import { useRef, useState, type PointerEvent, type RefObject } from 'react'
import type { Place, useBlock } from './useBlock'

type Of = {
  scroller: RefObject<HTMLElement | null>
  block: ReturnType<typeof useBlock>
  /** How many columns and rows are shown. */
  columns: number
  rows: number
  mayMove: boolean
  find: (place: Place) => HTMLElement | null | undefined
  /** Fills the block from its first row. */
  fill: () => void
  /** Puts the marked rows before another; at the end where that is null. */
  onMove: (before: number | null) => void
}

/** What a pointer does in a grid: it marks a block, draws the corner of one over other rows, marks lines, and draws marked ones to another place. */
export function useGridPointer({ scroller, block, columns, rows, mayMove, find, fill, onMove }: Of) {
  const drawing = useRef<'block' | 'corner' | 'lines' | null>(null)
  const [dropAt, setDropAt] = useState<number | null>(null)
  const bottom = Math.min(block.block.bottom, rows - 1)
  const marked = { top: block.block.top, bottom, count: Math.max(0, bottom - block.block.top + 1) }

  /** The cell or line under a pointer. */
  function under(e: { clientX: number; clientY: number }): Place | null {
    const hit = document.elementFromPoint(e.clientX, e.clientY)
    const [row, column] = (hit?.closest<HTMLElement>('[data-place]')?.dataset.place ?? '').split(',').map(Number)
    const line = hit?.closest<HTMLElement>('[data-line]')?.dataset.line
    return line !== undefined ? { row: Number(line), column: -1 } : column === undefined ? null : { row: row!, column }
  }

  function down(e: PointerEvent) {
    const target = e.target as HTMLElement
    if (e.button !== 0 || target.closest('input, a, button')) return
    if (target.closest('[data-corner]')) {
      e.preventDefault()
      drawing.current = 'corner'
      return scroller.current?.setPointerCapture(e.pointerId)
    }
    const line = target.closest<HTMLElement>('[data-line]')?.dataset.line
    const [row, column] = (target.closest<HTMLElement>('[data-place]')?.dataset.place ?? '').split(',').map(Number)
    if (line !== undefined) {
      e.preventDefault()
      const at = Number(line)
      const isMarked = at >= block.block.top && at <= block.block.bottom && block.block.left === 0 && block.block.right === columns - 1
      drawing.current = isMarked && mayMove && !e.shiftKey ? 'lines' : 'block'
      if (drawing.current === 'block') {
        const top = e.shiftKey ? Math.min(at, block.at.row) : at
        block.mark({ top, bottom: e.shiftKey ? Math.max(at, block.at.row) : at, left: 0, right: columns - 1 })
        find({ row: top, column: 0 })?.focus({ preventScroll: true })
      }
    } else if (column !== undefined) {
      drawing.current = 'block'
      if (e.shiftKey) {
        e.preventDefault()
        block.extend({ row: row!, column })
      } else block.go({ row: row!, column })
    } else return
    // A finger that is drawn scrolls.
    if (e.pointerType === 'touch') drawing.current = null
  }

  function drawn(e: PointerEvent) {
    if (!drawing.current || e.buttons === 0) return
    const to = under(e)
    if (!to) return
    if (drawing.current === 'lines') setDropAt(to.row)
    else if (drawing.current === 'corner') block.extend({ row: Math.max(block.at.row, to.row), column: block.block.right })
    else block.extend({ row: to.row, column: to.column < 0 ? columns - 1 : to.column })
  }

  function up() {
    if (drawing.current === 'corner' && block.block.bottom > block.block.top) fill()
    if (drawing.current === 'lines' && dropAt !== null && (dropAt < marked.top || dropAt > marked.bottom + 1)) {
      onMove(dropAt < rows ? dropAt : null)
      const top = dropAt > marked.bottom ? dropAt - marked.count : dropAt
      block.mark({ top, bottom: top + marked.count - 1, left: 0, right: columns - 1 })
    }
    setDropAt(null)
    drawing.current = null
  }

  return { dropAt, under, down, drawn, up, isDrawing: () => drawing.current !== null }
}
