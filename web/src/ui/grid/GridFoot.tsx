import { ArrowDown, ArrowUp, Filter, Plus, Trash2 } from 'lucide-react'
import { counted, grouped, type Thing } from '../format'
import type { Acts } from './gridMenu'
import { t } from '../../texts'

type Props = {
  one: Thing
  count: number
  shown: number
  /** The cells that are marked; null where only one is. */
  block: string[][] | null
  /** How many rows something would be done with. */
  marked: number
  isFiltering: boolean
  onFilter: () => void
  acts: Acts
}

/** The sum of cells that are numbers; null where one of them is none. */
function sumOf(cells: string[]): number | null {
  const given = cells.filter((c) => c !== '')
  return given.length < 2 || given.some((c) => !/^-?\d+([.]\d+)?$/.test(c)) ? null : given.reduce((sum, c) => sum + Number(c), 0)
}

/** Below a grid: how many rows it has, what is marked, and what can be done with rows. */
export function GridFoot({ one, count, shown, block, marked, isFiltering, onFilter, acts }: Props) {
  const sum = block ? sumOf(block.flat()) : null
  return (
    <div className="flex min-h-7 flex-wrap items-center gap-x-1 text-sm">
      {acts.add && (
        <button className="btn btn-ghost btn-sm" onClick={acts.add} title="Ctrl+Enter">
          <Plus className="size-3.5" /> {t('ui.newOne', { one })}
        </button>
      )}
      {acts.move && (
        <>
          <button
            className="btn btn-ghost btn-sm"
            aria-label={t('ui.moveCountedUp', { counted: counted(marked, one) })}
            title="Alt+↑"
            onClick={() => acts.move!(-1)}
          >
            <ArrowUp className="size-3.5" />
          </button>
          <button
            className="btn btn-ghost btn-sm"
            aria-label={t('ui.moveCountedDown', { counted: counted(marked, one) })}
            title="Alt+↓"
            onClick={() => acts.move!(1)}
          >
            <ArrowDown className="size-3.5" />
          </button>
        </>
      )}
      {acts.remove && (
        <button className="btn btn-ghost btn-sm" disabled={marked === 0} onClick={acts.remove} title="Ctrl+Delete">
          <Trash2 className="size-3.5" /> {t('ui.deleteCounted', { counted: counted(Math.max(1, marked), one) })}
        </button>
      )}
      <button className="btn btn-ghost btn-sm" aria-pressed={isFiltering} onClick={onFilter}>
        <Filter className="size-3.5" /> {isFiltering ? t('ui.showAll') : t('ui.filter')}
      </button>
      <span className="quiet ml-auto" role="status">
        {block &&
          t('ui.cellsMarked', {
            rows: block.length,
            columns: block[0]!.length,
            sum: sum === null ? '' : t('ui.sumSum', { sum }),
          })}
        {shown === count ? counted(count, one) : t('ui.shownOfCounted', { shown: grouped(String(shown)), counted: counted(count, one) })}
      </span>
    </div>
  )
}
