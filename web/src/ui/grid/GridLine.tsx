import type { ReactNode } from 'react'
import type { GridColumn, GridRow } from './types'
import { t } from '../../texts'

type Props = {
  /** Undefined while it is on its way, or for the empty line at the end. */
  row: GridRow | undefined
  isNew: boolean
  place: number
  columns: GridColumn[]
  order: number[]
  /** The columns of it that are marked, from and to; -1 where none are. */
  from: number
  to: number
  /** The cell one is at, and the one with the corner that fills; -1 where they are elsewhere. */
  at: number
  corner: number
  editing: number
  editor: ReactNode
  isDropBefore: boolean
}

/** One line of a grid: its number, which marks it whole, and its cells. */
export function GridLine({ row, isNew, place, columns, order, from, to, at, corner, editing, editor, isDropBefore }: Props) {
  return (
    <tr role="row" aria-rowindex={place + 2} className={isDropBefore ? '[&>*]:border-t-2 [&>*]:border-t-primary' : ''}>
      <th
        role="rowheader"
        aria-colindex={1}
        data-line={place}
        className={`sticky left-0 z-10 h-7 w-10 cursor-default border-r border-b hair px-1 text-right font-normal select-none quiet ${from >= 0 ? 'bg-base-300' : 'bg-base-200'}`}
      >
        {isNew ? '+' : place + 1}
      </th>
      {order.map((c, j) => {
        const column = columns[c]!
        const [text, fault] = [row?.cells[c] ?? '', row?.faults?.[c]]
        const isMarked = j >= from && j <= to && from >= 0
        return (
          <td
            key={column.key}
            role="gridcell"
            aria-colindex={j + 2}
            aria-selected={isMarked}
            aria-invalid={fault ? true : undefined}
            aria-readonly={column.fixed !== undefined || undefined}
            tabIndex={at === j && editing !== j ? 0 : -1}
            data-place={`${place},${j}`}
            data-column={column.name}
            title={fault?.message ?? (text.length > 12 ? text : undefined)}
            className={`relative h-7 border-r border-b hair px-1.5 outline-none ${j === 0 ? 'sticky left-10 z-10' : ''} ${isMarked ? 'bg-[color-mix(in_oklab,var(--color-primary)_12%,var(--color-base-100))]' : 'bg-base-100'} ${at === j ? 'focus:outline-2! focus:-outline-offset-2! focus:outline-primary!' : ''}`}
          >
            <span className={`flex items-center gap-1 overflow-hidden ${column.look ?? ''}`}>
              {j === 0 && row?.lead}
              <span className={`w-full truncate ${fault ? 'text-warning underline decoration-wavy' : ''}`}>
                {row || isNew ? text : j === 0 ? '…' : ''}
              </span>
            </span>
            {editing === j && editor}
            {corner === j && (
              <span
                role="presentation"
                data-corner
                title={t('ui.drawOverOtherRowsToFill')}
                className="absolute right-0 bottom-0 z-10 size-2 cursor-crosshair touch-none bg-primary"
              />
            )}
          </td>
        )
      })}
    </tr>
  )
}
