import type { CellChange, GridColumn, GridRow } from './types'
import { t } from '../../texts'

const mostTold = 8

type Props = {
  columns: GridColumn[]
  /** The rows in which something is wrong. */
  faulty: number[]
  rowAt: (index: number) => GridRow | undefined
  disabled: boolean
  onGo: (row: number, column: number) => void
  onChange: (changes: CellChange[]) => void
}

/** What is wrong with the cells of a grid, each with the way to it and what could stand there. */
export function GridFaults({ columns, faulty, rowAt, disabled, onGo, onChange }: Props) {
  const told = faulty.flatMap((row) => {
    const r = rowAt(row)
    return r?.faults?.flatMap((fault, column) => (fault ? [{ row, column, fault, text: r.cells[column] ?? '' }] : [])) ?? []
  })
  return (
    <>
      {told.slice(0, mostTold).map(({ row, column, fault, text }) => (
        <p key={`${row},${column}`} role="alert" className="fault flex flex-wrap items-baseline gap-x-2 text-sm">
          <button className="link" onClick={() => onGo(row, column)}>
            {t('ui.nameRowRow', { name: columns[column]!.name, row: row + 1 })}
          </button>
          {fault.message}
          {fault.suggestion !== null && !disabled && (
            <button
              className="link"
              onClick={() =>
                onChange([
                  { row, column, text: text.slice(0, fault.start) + fault.suggestion + text.slice(fault.start + fault.length), before: text },
                ])
              }
            >
              {t('ui.writeSuggestion', { suggestion: fault.suggestion })}
            </button>
          )}
        </p>
      ))}
      {told.length > mostTold && <p className="fault text-sm">{t('ui.andMoreCellsWithFaults', { more: told.length - mostTold })}</p>}
    </>
  )
}
