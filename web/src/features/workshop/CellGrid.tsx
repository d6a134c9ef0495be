import { useRef, type ClipboardEvent, type KeyboardEvent, type ReactNode } from 'react'
import { TextField } from '../../ui/TextField'
import { pastedCells } from './cells'
import type { Finding } from './model'

/** What is wrong with a cell: where in its text, and what could stand there. */
export type CellFault = Pick<Finding, 'message' | 'start' | 'length' | 'suggestion'>

const mostTold = 8

type Props = {
  label: string
  columns: { key: string; head: ReactNode; label: string; className?: string }[]
  rows: { key: string; lead?: ReactNode; tail?: ReactNode; cells: string[]; faults: (CellFault | undefined)[] }[]
  disabled: boolean
  onCommit: (row: number, column: number, text: string, before: string) => void
  /** Cells pasted from a spreadsheet, the first of them at this place. */
  onPaste: (row: number, column: number, cells: string[][]) => void
}

/** A table edited like a spreadsheet: Enter goes down, Tab across, several cells are pasted at once. */
export function CellGrid({ label, columns, rows, disabled, onCommit, onPaste }: Props) {
  const table = useRef<HTMLTableElement>(null)

  const go = (row: number, column: number) => table.current?.querySelector<HTMLInputElement>(`[data-cell="${row},${column}"]`)?.focus()

  function key(event: KeyboardEvent, row: number, column: number) {
    if (event.key === 'Enter') go(row + (event.shiftKey ? -1 : 1), column)
    if (event.key === 'ArrowDown') go(row + 1, column)
    if (event.key === 'ArrowUp') go(row - 1, column)
  }

  function paste(event: ClipboardEvent, row: number, column: number) {
    const cells = pastedCells(event.clipboardData.getData('text/plain'))
    if (cells.length === 0 || (cells.length === 1 && cells[0]!.length === 1)) return
    event.preventDefault()
    onPaste(row, column, cells)
  }

  const told = rows.flatMap((r, row) => r.faults.flatMap((fault, column) => (fault ? [{ row, column, fault, text: r.cells[column] ?? '' }] : [])))

  return (
    <div className="grid gap-1">
      <div className="overflow-auto">
        <table ref={table} aria-label={label} className="border-collapse">
          <thead>
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
            {rows.map((r, i) => (
              <tr key={r.key}>
                {columns.map((c, j) => (
                  <td key={c.key} className="relative border hair p-0" title={r.faults[j]?.message}>
                    <div className="flex items-center">
                      {j === 0 && r.lead}
                      <TextField
                        data-cell={`${i},${j}`}
                        className={`border-0 ${c.className ?? ''} ${r.faults[j] ? 'text-warning underline decoration-wavy' : ''}`}
                        aria-label={`${c.label}, row ${i + 1}`}
                        aria-invalid={r.faults[j] !== undefined}
                        disabled={disabled}
                        value={r.cells[j] ?? ''}
                        onCommit={(text, before) => onCommit(i, j, text, before)}
                        onKeyDown={(e) => key(e, i, j)}
                        onPaste={(e) => paste(e, i, j)}
                      />
                    </div>
                  </td>
                ))}
                <td>{r.tail}</td>
              </tr>
            ))}
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
