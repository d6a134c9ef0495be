import { useVirtualizer } from '@tanstack/react-virtual'
import { useRef, useState, type ClipboardEvent, type KeyboardEvent, type PointerEvent, type ReactNode } from 'react'
import { TextField } from '../../ui/TextField'
import { pastedCells } from './cells'
import type { Finding } from './model'

/** What is wrong with a cell: where in its text, and what could stand there. */
export type CellFault = Pick<Finding, 'message' | 'start' | 'length' | 'suggestion'>

const mostTold = 8

/** Longer tables scroll by themselves, and only what is in sight is drawn. */
const longTable = 60

type Props = {
  label: string
  columns: { key: string; head: ReactNode; label: string; className?: string }[]
  rows: { key: string; lead?: ReactNode; tail?: ReactNode; cells: string[]; faults: (CellFault | undefined)[] }[]
  disabled: boolean
  onCommit: (row: number, column: number, text: string, before: string) => void
  /** Cells pasted from a spreadsheet or filled, the first of them at this place. */
  onPaste: (row: number, column: number, cells: string[][]) => void
  /** The end has come into sight: more can be loaded. */
  onEnd?: () => void
  /** How high a long table is. */
  height?: string
  /** What can be done with a row stays in sight, however wide the table is. */
  tailInSight?: boolean
}

/** Some cells of a rectangle, from where it was begun to where it was drawn. */
type Stretch = { row: number; column: number; toRow: number; toColumn: number }

/**
 * A table edited like a spreadsheet: Enter goes down, Tab across, several cells are pasted at once. Shift and the arrows or a click
 * mark cells, the corner of the cell is drawn over others; Ctrl+D fills what is marked with its first row, Delete clears it, Ctrl+C copies it.
 */
export function CellGrid({ label, columns, rows, disabled, onCommit, onPaste, onEnd, height = 'max-h-[32rem]', tailInSight = false }: Props) {
  const table = useRef<HTMLTableElement>(null)
  const scroller = useRef<HTMLDivElement>(null)
  const drawing = useRef(false)
  const [at, setAt] = useState<Stretch | null>(null)
  const isLong = rows.length > longTable
  // eslint-disable-next-line react-hooks/incompatible-library -- nothing here is kept that would have to follow the window
  const window = useVirtualizer({ count: rows.length, getScrollElement: () => scroller.current, estimateSize: () => 29, overscan: 15, getItemKey: (i) => rows[i]!.key, enabled: isLong })
  const items = window.getVirtualItems()
  const shown = isLong ? items.map((i) => i.index) : rows.map((_, i) => i)
  const [before, after] = isLong && items.length > 0 ? [items[0]!.start, window.getTotalSize() - items.at(-1)!.end] : [0, 0]

  const marked = at && { top: Math.min(at.row, at.toRow), bottom: Math.max(at.row, at.toRow), left: Math.min(at.column, at.toColumn), right: Math.max(at.column, at.toColumn) }
  const isSeveral = marked !== null && (marked.top < marked.bottom || marked.left < marked.right)
  const isMarked = (row: number, column: number) => isSeveral && row >= marked.top && row <= marked.bottom && column >= marked.left && column <= marked.right

  function go(row: number, column: number) {
    const find = () => table.current?.querySelector<HTMLInputElement>(`[data-cell="${row},${column}"]`)
    if (find()) return find()!.focus()
    if (row < 0 || row >= rows.length) return
    window.scrollToIndex(row)
    requestAnimationFrame(() => find()?.focus())
  }

  const cellsOf = (top: number, bottom: number, left: number, right: number) => rows.slice(top, bottom + 1).map((r) => Array.from({ length: right - left + 1 }, (_, j) => r.cells[left + j] ?? ''))

  /** Writes the first row of a stretch into all its others; a single cell takes what stands above it. */
  function fill(over: NonNullable<typeof marked>) {
    const top = over.top === over.bottom ? over.top - 1 : over.top
    if (top < 0) return
    const first = cellsOf(top, top, over.left, over.right)[0]!
    onPaste(top + 1, over.left, Array.from({ length: over.bottom - top }, () => first))
  }

  function key(event: KeyboardEvent<HTMLInputElement>, row: number, column: number) {
    const step = event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : 0
    const here = at ?? { row, column, toRow: row, toColumn: column }
    if (step !== 0 && event.shiftKey) {
      event.preventDefault()
      setAt({ ...here, toRow: Math.max(0, Math.min(rows.length - 1, here.toRow + step)) })
    } else if (event.key === 'Enter') go(row + (event.shiftKey ? -1 : 1), column)
    else if (step !== 0) go(row + step, column)
    else if (event.key === 'Escape') setAt({ row, column, toRow: row, toColumn: column })
    else if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'd' && !disabled) {
      event.preventDefault()
      fill(isSeveral ? marked : { top: row, bottom: row, left: column, right: column })
    } else if (isSeveral && (event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'c') {
      event.preventDefault()
      void navigator.clipboard.writeText(cellsOf(marked.top, marked.bottom, marked.left, marked.right).map((r) => r.join('\t')).join('\n'))
    } else if (isSeveral && event.key === 'Delete' && !disabled) {
      event.preventDefault()
      onPaste(marked.top, marked.left, cellsOf(marked.top, marked.bottom, marked.left, marked.right).map((r) => r.map(() => '')))
    }
  }

  function paste(event: ClipboardEvent, row: number, column: number) {
    const cells = pastedCells(event.clipboardData.getData('text/plain'))
    if (cells.length === 0 || (cells.length === 1 && cells[0]!.length === 1)) return
    event.preventDefault()
    onPaste(row, column, cells)
  }

  /** The cell under a pointer. */
  function under(event: PointerEvent): { row: number; column: number } | null {
    const cell = document.elementFromPoint(event.clientX, event.clientY)?.closest('td')?.querySelector<HTMLElement>('[data-cell]')?.dataset.cell
    const [row, column] = (cell ?? '').split(',').map(Number)
    return cell === undefined ? null : { row: row!, column: column! }
  }

  const corner = (
    <span
      role="presentation"
      title="Draw over other rows to fill them"
      className="absolute right-0 bottom-0 z-10 size-2 cursor-crosshair touch-none bg-primary"
      onPointerDown={(e) => {
        e.preventDefault()
        // The corner goes along with what is drawn; the table stays.
        drawing.current = true
        scroller.current?.setPointerCapture(e.pointerId)
      }}
    />
  )

  const told = rows.flatMap((r, row) => r.faults.flatMap((fault, column) => (fault ? [{ row, column, fault, text: r.cells[column] ?? '' }] : [])))

  return (
    <div className={`grid gap-1 ${isLong && height === 'h-full' ? 'h-full grid-rows-[minmax(0,1fr)_auto]' : ''}`}>
      <div
        ref={scroller}
        className={`overflow-auto ${isLong ? height : ''} ${tailInSight ? 'scroll-pr-10' : ''}`}
        onPointerMove={(e) => {
          const to = drawing.current ? under(e) : null
          if (at && to && to.row >= at.row) setAt({ ...at, toRow: to.row })
        }}
        onPointerUp={() => {
          if (drawing.current && isSeveral) fill(marked)
          drawing.current = false
        }}
        onScroll={(e) => {
          const s = e.currentTarget
          if (onEnd && s.scrollHeight - s.scrollTop - s.clientHeight < 600) onEnd()
        }}
      >
        <table ref={table} aria-label={label} aria-rowcount={rows.length + 1} className="border-collapse">
          <thead className={isLong ? 'sticky top-0 z-20' : ''}>
            <tr>
              {columns.map((c) => (
                <th key={c.key} className="border hair bg-base-200 px-1.5 py-0.5 text-left font-semibold">
                  {c.head}
                </th>
              ))}
              <th />
            </tr>
          </thead>
          <tbody>
            {before > 0 && <tr style={{ height: before }} aria-hidden />}
            {shown.map((i) => {
              const r = rows[i]!
              return (
                <tr key={r.key} aria-rowindex={i + 2}>
                  {columns.map((c, j) => (
                    <td key={c.key} className={`relative border hair p-0 ${isMarked(i, j) ? 'bg-primary/10' : ''}`} title={r.faults[j]?.message}>
                      <div className="flex items-center">
                        {j === 0 && r.lead}
                        <TextField
                          data-cell={`${i},${j}`}
                          className={`border-0 ${isMarked(i, j) ? 'bg-transparent' : ''} ${c.className ?? ''} ${r.faults[j] ? 'text-warning underline decoration-wavy' : ''}`}
                          aria-label={`${c.label}, row ${i + 1}`}
                          aria-invalid={r.faults[j] !== undefined}
                          disabled={disabled}
                          value={r.cells[j] ?? ''}
                          onCommit={(text, was) => onCommit(i, j, text, was)}
                          onFocus={() => setAt({ row: i, column: j, toRow: i, toColumn: j })}
                          onPointerDown={(e) => {
                            if (!e.shiftKey || !at) return
                            e.preventDefault()
                            setAt({ ...at, toRow: i, toColumn: j })
                          }}
                          onKeyDown={(e) => key(e, i, j)}
                          onPaste={(e) => paste(e, i, j)}
                        />
                      </div>
                      {!disabled && at && i === Math.max(at.row, at.toRow) && j === Math.max(at.column, at.toColumn) && corner}
                    </td>
                  ))}
                  <td className={tailInSight ? 'sticky right-0 border hair bg-base-100' : ''}>{r.tail}</td>
                </tr>
              )
            })}
            {after > 0 && <tr style={{ height: after }} aria-hidden />}
          </tbody>
        </table>
      </div>
      {told.slice(0, mostTold).map(({ row, column, fault, text }) => (
        <p key={`${row},${column}`} role="alert" className="fault flex flex-wrap items-baseline gap-x-2 text-sm">
          <button className="link" onClick={() => go(row, column)}>
            {columns[column]!.label}, row {row + 1}
          </button>
          {fault.message}
          {fault.suggestion !== null && !disabled && (
            <button className="link" onClick={() => onCommit(row, column, text.slice(0, fault.start) + fault.suggestion + text.slice(fault.start + fault.length), text)}>
              Write {fault.suggestion}
            </button>
          )}
        </p>
      ))}
      {told.length > mostTold && <p className="fault text-sm">and {told.length - mostTold} more cells with faults, underlined above</p>}
    </div>
  )
}
