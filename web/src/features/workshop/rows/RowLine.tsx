import { MessageSquareText, TriangleAlert } from 'lucide-react'
import { memo, useEffect, useRef, useState, type DragEvent, type KeyboardEvent, type MouseEvent } from 'react'
import { ContextMenu, type MenuEntry } from '../../../ui/ContextMenu'
import { inEnglish } from '../../../ui/format'
import { StateMark } from '../../../ui/StateMark'
import { HealthMark } from '../../health'
import { KindMark } from '../KindMark'
import { holdsOf, nameOf, type Row } from '../model'
import { PresentMark } from '../PresentMark'
import { MakeMissing, missingOf } from './MakeMissing'
import { OpenRow } from './OpenRow'
import { readCopied, rowsType, type CopiedRows } from './copiedRows'
import type { RowFacts } from './useRowFacts'
import { t } from '../../../texts'

export const rowElementId = (rowId: string) => `row-${rowId}`

/** What can be done at the line of a row. */
export type LineActs = {
  toggle: (row: Row, open: boolean) => void
  mark: (row: Row) => void
  extend: (to: string, from: string) => void
  clearMarks: () => void
  markAll: () => void
  /** Takes all marks back; false where there were none. */
  forget: () => boolean
  moveBy: (row: Row, by: -1 | 1) => void
  remove: (row: Row) => void
  rename: (row: Row) => void
  duplicate: (row: Row) => void
  showUses: (id: string, name: string) => void
  drag: (data: DataTransfer, row: Row) => void
  /** Where dragged rows would go: before a row or behind it; nowhere. */
  hover: (row: Row | null, isBehind: boolean) => void
  drop: (copied: CopiedRows, row: Row, isBehind: boolean, isMove: boolean) => void
  menu: (row: Row, open: boolean, name: string) => MenuEntry[]
}

type Props = RowFacts & {
  row: Row
  /** What it says, in one line. */
  summary: string
  open: boolean
  mayEdit: boolean
  isMarked: boolean
  isCut: boolean
  isDropBefore: boolean
  acts: LineActs
}

/**
 * A row of a worksheet: one line, which opens in place to be edited, and can be marked, dragged, copied and cut. It is redrawn only where
 * something of its own changes.
 */
export const RowLine = memo(function RowLine({ row, summary, open, mayEdit, isMarked, isCut, isDropBefore, acts, ...facts }: Props) {
  const { faults, health, present, remarks } = facts
  const line = useRef<HTMLDivElement>(null)
  const [menu, setMenu] = useState<{ x: number; y: number } | null>(null)
  const message = 'message' in row ? inEnglish(row.message) : ''
  const name =
    row.kind === 'operation' ? `${row.sequence} ${inEnglish(row.label) || row.name}` : row.kind === 'price' ? inEnglish(row.label) : nameOf(row)
  const called = name || t('workshop.theRow')

  useEffect(() => {
    if (open) line.current?.scrollIntoView({ block: 'nearest' })
  }, [open])

  function click(e: MouseEvent) {
    if (e.ctrlKey || e.metaKey) return acts.mark(row)
    if (e.shiftKey) return acts.extend(row.id, row.id)
    acts.clearMarks()
    acts.toggle(row, open)
  }

  function press(e: KeyboardEvent<HTMLButtonElement>) {
    const mod = e.ctrlKey || e.metaKey
    const by = e.key === 'ArrowDown' ? 1 : e.key === 'ArrowUp' ? -1 : 0
    if (by !== 0 && e.altKey) acts.moveBy(row, by)
    else if (by !== 0) {
      const next = neighbour(e.currentTarget, by)
      if (!next) return
      next.focus()
      if (e.shiftKey) acts.extend(next.dataset.row!, row.id)
    } else if (e.key === 'Delete') acts.remove(row)
    else if (e.key === 'F2') acts.rename(row)
    else if (e.key === 'F12' && e.shiftKey) acts.showUses(row.id, called)
    else if (mod && e.key.toLowerCase() === 'a') acts.markAll()
    else if (mod && e.key.toLowerCase() === 'd') acts.duplicate(row)
    else if (e.key !== 'Escape' || !acts.forget()) return
    e.preventDefault()
    e.stopPropagation()
  }

  /** Whether what is dragged would stand behind the row. */
  const isBehind = (e: DragEvent) => {
    const box = e.currentTarget.getBoundingClientRect()
    return !(e.clientY < box.top + box.height / 2)
  }

  return (
    <div
      ref={line}
      id={rowElementId(row.id)}
      className={`border-b hair ${open ? 'border-l-2 border-l-primary bg-base-200/60' : ''} ${isDropBefore ? 'shadow-[0_-2px_0_var(--color-primary)]' : ''}`}
    >
      <div
        draggable={mayEdit}
        onDragStart={(e) => {
          if (!isMarked) acts.clearMarks()
          acts.drag(e.dataTransfer, row)
          e.dataTransfer.effectAllowed = 'copyMove'
        }}
        onDragOver={(e) => {
          if (!mayEdit || !e.dataTransfer.types.includes(rowsType)) return
          e.preventDefault()
          e.stopPropagation()
          e.dataTransfer.dropEffect = e.ctrlKey ? 'copy' : 'move'
          acts.hover(row, isBehind(e))
        }}
        onDrop={(e) => {
          const copied = readCopied(e.dataTransfer.getData(rowsType))
          if (!copied) return
          e.preventDefault()
          e.stopPropagation()
          acts.drop(copied, row, isBehind(e), !e.ctrlKey)
        }}
        onDragEnd={() => acts.hover(null, false)}
        onContextMenu={(e) => {
          e.preventDefault()
          const box = e.currentTarget.getBoundingClientRect()
          e.currentTarget.querySelector<HTMLElement>('[data-row]')?.focus()
          setMenu(e.clientX > 0 ? { x: e.clientX, y: e.clientY } : { x: box.left + 40, y: box.bottom })
        }}
      >
        <button
          className={`grid w-full grid-cols-[3rem_minmax(0,1fr)_auto] items-center gap-2 py-1 pr-2 text-left ${isMarked ? 'bg-primary/12' : 'hover:bg-base-200'} ${isCut ? 'opacity-50' : ''} ${open ? 'pl-1' : 'pl-1.5'}`}
          aria-expanded={open}
          data-row={row.id}
          onClick={click}
          onKeyDown={press}
        >
          <span className="grid place-items-center">
            <KindMark row={row} />
          </span>
          <span className="min-w-0 truncate">
            {name && <b className="mr-2 font-semibold">{name}</b>}
            <span className={row.kind === 'attribute' || row.kind === 'subassembly' ? 'quiet' : 'font-mono text-[0.8125rem]'}>{summary}</span>
            {row.appliesWhen && (
              <span className="quiet">
                {' '}
                <i>{t('workshop.when')}</i> <span className="font-mono text-[0.8125rem]">{row.appliesWhen}</span>
              </span>
            )}
            {holdsOf(row) && <span className="quiet"> · {holdsOf(row)}</span>}
            {message && <i className="quiet ml-2">{message}</i>}
          </span>
          <span className="flex items-center gap-2">
            {faults.length > 0 && (
              <span className="fault flex items-center gap-1 text-sm" title={faults.map((f) => f.message).join('\n')}>
                <TriangleAlert className="size-3.5" aria-label={t('workshop.faults', { n: faults.length })} /> {faults.length > 1 && faults.length}
              </span>
            )}
            <HealthMark findings={health} />
            {remarks > 0 && (
              <span className="flex items-center gap-1 text-sm text-primary" title={t('reviews.remarksOpen', { n: remarks })}>
                <MessageSquareText className="size-3.5" aria-label={t('reviews.remarksOpen', { n: remarks })} /> {remarks > 1 && remarks}
              </span>
            )}
            {present.map((p) => (
              <PresentMark key={p.page} who={p} />
            ))}
            <OnBench {...facts} />
            {isMarked && <span className="sr-only">{t('workshop.marked')}</span>}
          </span>
        </button>
      </div>
      {menu && (
        <ContextMenu
          x={menu.x}
          y={menu.y}
          label={t('workshop.whatCanBeDoneWithName', { name: called })}
          entries={acts.menu(row, open, called)}
          onClose={() => setMenu(null)}
        />
      )}
      {mayEdit && missingOf(row, faults).map((m) => <MakeMissing key={m.table + m.code} {...m} />)}
      {open && <OpenRow row={row} />}
    </div>
  )
})

/** The head of the row before or after another on the page. */
function neighbour(head: HTMLElement, by: number): HTMLElement | undefined {
  const heads = [...document.querySelectorAll<HTMLElement>('[data-row]')]
  return heads[heads.indexOf(head) + by]
}

/** What the row comes to on the bench. */
function OnBench({ benchText, benchState, benchClash, isOut }: RowFacts) {
  if (benchText === undefined) return null
  return (
    <span className={`flex items-center gap-1 text-sm whitespace-nowrap ${isOut ? 'quiet italic' : ''}`}>
      {benchText}
      {benchState && <StateMark state={benchState} clash={benchClash ?? undefined} />}
    </span>
  )
}
