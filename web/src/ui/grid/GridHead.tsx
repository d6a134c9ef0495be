import { ArrowDown, ArrowUp } from 'lucide-react'
import { useRef, useState, type PointerEvent } from 'react'
import type { Filters, GridColumn, Sorting } from './types'
import { t } from '../../texts'

type Props = {
  columns: GridColumn[]
  order: number[]
  sorting: Sorting
  filters: Filters | null
  onSort: (sorting: Sorting) => void
  onFilter: (filters: Filters) => void
  onResize: (key: string, width: number | null) => void
  onPlace: (from: number, to: number) => void
}

/** Up, down, and then as it was. */
export const nextSorting = (now: Sorting, column: string): Sorting =>
  now?.column !== column ? { column, down: false } : now.down ? null : { column, down: true }

/** The heads of the columns: a click sorts, the edge draws the column wider, the head itself is drawn to another place. */
export function GridHead({ columns, order, sorting, filters, onSort, onFilter, onResize, onPlace }: Props) {
  const drawn = useRef<{ key: string; from: number; width: number } | null>(null)
  const [carried, setCarried] = useState<{ from: number; to: number; hasMoved: boolean } | null>(null)

  /** The place of the head under a pointer. */
  const under = (e: PointerEvent) =>
    Number(document.elementFromPoint(e.clientX, e.clientY)?.closest<HTMLElement>('[data-head]')?.dataset.head ?? Number.NaN)

  return (
    <thead className="sticky top-0 z-30">
      <tr role="row" aria-rowindex={1}>
        <th role="columnheader" aria-colindex={1} className="sticky left-0 z-10 border-r border-b hair bg-base-200">
          <span className="sr-only">{t('ui.row')}</span>
        </th>
        {order.map((c, place) => {
          const column = columns[c]!
          const sorted = sorting?.column === column.key ? (sorting.down ? 'descending' : 'ascending') : undefined
          return (
            <th
              key={column.key}
              role="columnheader"
              aria-colindex={place + 2}
              aria-sort={sorted ?? 'none'}
              data-head={place}
              className={`group relative h-7 border-r border-b hair bg-base-200 px-1.5 text-left font-semibold select-none ${place === 0 ? 'sticky left-10 z-10' : ''} ${carried?.hasMoved && carried.to === place && carried.from !== place ? 'shadow-[inset_2px_0_0_var(--color-primary)]' : ''}`}
              onPointerDown={(e) => {
                if (e.button !== 0 || place === 0 || (e.target as HTMLElement).closest('input')) return
                setCarried({ from: place, to: place, hasMoved: false })
              }}
              onPointerMove={(e) => {
                if (!carried) return
                const to = under(e)
                if (!Number.isNaN(to) && to > 0 && to !== carried.to) {
                  e.currentTarget.setPointerCapture(e.pointerId)
                  setCarried({ ...carried, to, hasMoved: true })
                }
              }}
              onPointerUp={() => {
                if (carried?.hasMoved) onPlace(carried.from, carried.to)
                setCarried(null)
              }}
              onPointerCancel={() => setCarried(null)}
            >
              {column.head ?? (
                <button
                  tabIndex={-1}
                  className={`flex w-full items-center gap-1 ${column.look?.includes('text-right') ? 'justify-end' : ''}`}
                  title={t('ui.nameAClickSorts', { name: column.name })}
                  onClick={() => onSort(nextSorting(sorting, column.key))}
                >
                  <span className="truncate">{column.name}</span>
                  {sorted && (sorting!.down ? <ArrowDown className="size-3.5 shrink-0" /> : <ArrowUp className="size-3.5 shrink-0" />)}
                </button>
              )}
              <span
                role="presentation"
                data-edge={column.key}
                title={t('ui.drawToWidenDoubleClickAs')}
                className="absolute top-0 -right-1 z-20 h-full w-2 cursor-col-resize touch-none hover:bg-primary/40"
                onPointerDown={(e) => {
                  e.stopPropagation()
                  e.currentTarget.setPointerCapture(e.pointerId)
                  drawn.current = { key: column.key, from: e.clientX, width: e.currentTarget.parentElement!.getBoundingClientRect().width }
                }}
                onPointerMove={(e) => drawn.current && onResize(drawn.current.key, drawn.current.width + e.clientX - drawn.current.from)}
                onPointerUp={(e) => {
                  e.stopPropagation()
                  drawn.current = null
                }}
                onDoubleClick={() => onResize(column.key, null)}
              />
            </th>
          )
        })}
      </tr>
      {filters && (
        <tr role="row">
          <td role="gridcell" className="sticky left-0 z-10 border-r border-b hair bg-base-200" />
          {order.map((c, place) => {
            const column = columns[c]!
            return (
              <td key={column.key} role="gridcell" className={`border-r border-b hair bg-base-100 p-0 ${place === 0 ? 'sticky left-10 z-10' : ''}`}>
                <input
                  className="h-7 w-full bg-transparent px-1.5"
                  aria-label={t('ui.onlyRowsWhoseNameHas', { name: column.name })}
                  placeholder={place === 0 ? t('ui.textText55') : ''}
                  value={filters[column.key] ?? ''}
                  onChange={(e) => onFilter({ ...filters, [column.key]: e.target.value })}
                  onKeyDown={(e) => e.stopPropagation()}
                />
              </td>
            )
          })}
        </tr>
      )}
    </thead>
  )
}
