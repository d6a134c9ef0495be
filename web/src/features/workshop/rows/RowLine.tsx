import { TriangleAlert } from 'lucide-react'
import { useEffect, useRef, useState, type DragEvent, type KeyboardEvent, type MouseEvent } from 'react'
import { ContextMenu, type MenuEntry } from '../../../ui/ContextMenu'
import { inEnglish } from '../../../ui/format'
import { StateMark } from '../../../ui/StateMark'
import { HealthMark } from '../../health'
import { KindMark } from '../KindMark'
import { holdsOf, nameOf, summaryOf, type Assembly, type Row, type Topic } from '../model'
import { PresentMark } from '../PresentMark'
import { useWorkshop } from '../Workshop'
import { MakeMissing, missingOf } from './MakeMissing'
import { OpenRow } from './OpenRow'
import { readCopied, rowsType } from './copiedRows'
import { useRows, type RowActions } from './useRowActions'
import { t } from '../../../texts'

export const rowElementId = (rowId: string) => `row-${rowId}`

/** A row of a worksheet: one line, which opens in place to be edited, and can be marked, dragged, copied and cut. */
export function RowLine({ row, topic, assembly, open }: { row: Row; topic: Topic; assembly: Assembly; open: boolean }) {
  const { goToRow, findings, health, document, mayEdit, showUses, present } = useWorkshop()
  const rows = useRows()
  const line = useRef<HTMLDivElement>(null)
  const [menu, setMenu] = useState<{ x: number; y: number } | null>(null)
  const faults = findings.filter((f) => f.rowId === row.id)
  const message = 'message' in row ? inEnglish(row.message) : ''
  const name =
    row.kind === 'operation' ? `${row.sequence} ${inEnglish(row.label) || row.name}` : row.kind === 'price' ? inEnglish(row.label) : nameOf(row)
  const isMarked = rows.marks.marked.has(row.id)
  const index = topic.rows.indexOf(row)

  useEffect(() => {
    if (open) line.current?.scrollIntoView({ block: 'nearest' })
  }, [open])

  function click(e: MouseEvent) {
    if (e.ctrlKey || e.metaKey) return rows.marks.toggle(row.id)
    if (e.shiftKey) return rows.marks.extend(row.id, row.id)
    rows.marks.clear()
    goToRow(assembly.id, open ? null : row.id)
  }

  function press(e: KeyboardEvent<HTMLButtonElement>) {
    const mod = e.ctrlKey || e.metaKey
    const by = e.key === 'ArrowDown' ? 1 : e.key === 'ArrowUp' ? -1 : 0
    if (by !== 0 && e.altKey) rows.moveBy(row, by)
    else if (by !== 0) {
      const next = neighbour(e.currentTarget, by)
      if (!next) return
      next.focus()
      if (e.shiftKey) rows.marks.extend(next.dataset.row!, row.id)
    } else if (e.key === 'Delete') rows.remove(row)
    else if (e.key === 'F2') rows.rename(row)
    else if (e.key === 'F12' && e.shiftKey) showUses(row.id, name || t('workshop.theRow'))
    else if (mod && e.key.toLowerCase() === 'a') rows.marks.all()
    else if (mod && e.key.toLowerCase() === 'd') rows.duplicate(row)
    else if (e.key === 'Escape' && (rows.marks.marked.size > 0 || rows.cut.size > 0)) rows.forget()
    else return
    e.preventDefault()
    e.stopPropagation()
  }

  /** The row before which what is dragged would stand. */
  const before = (e: DragEvent) => {
    const box = e.currentTarget.getBoundingClientRect()
    return e.clientY < box.top + box.height / 2 ? row.id : (topic.rows[index + 1]?.id ?? null)
  }

  return (
    <div
      ref={line}
      id={rowElementId(row.id)}
      className={`border-b hair ${open ? 'border-l-2 border-l-primary bg-base-200/60' : ''} ${rows.drop?.topicId === topic.id && rows.drop.before === row.id ? 'shadow-[0_-2px_0_var(--color-primary)]' : ''}`}
    >
      <div
        draggable={mayEdit}
        onDragStart={(e) => {
          if (!isMarked) rows.marks.clear()
          rows.copy(e.dataTransfer, row, false)
          e.dataTransfer.effectAllowed = 'copyMove'
        }}
        onDragOver={(e) => {
          if (!mayEdit || !e.dataTransfer.types.includes(rowsType)) return
          e.preventDefault()
          e.stopPropagation()
          e.dataTransfer.dropEffect = e.ctrlKey ? 'copy' : 'move'
          rows.setDrop({ topicId: topic.id, before: before(e) })
        }}
        onDrop={(e) => {
          const copied = readCopied(e.dataTransfer.getData(rowsType))
          if (!copied) return
          e.preventDefault()
          e.stopPropagation()
          rows.put(copied, topic, before(e), !e.ctrlKey)
          rows.setDrop(null)
        }}
        onDragEnd={() => rows.setDrop(null)}
        onContextMenu={(e) => {
          e.preventDefault()
          const box = e.currentTarget.getBoundingClientRect()
          e.currentTarget.querySelector<HTMLElement>('[data-row]')?.focus()
          setMenu(e.clientX > 0 ? { x: e.clientX, y: e.clientY } : { x: box.left + 40, y: box.bottom })
        }}
      >
        <button
          className={`grid w-full grid-cols-[3rem_minmax(0,1fr)_auto] items-center gap-2 py-1 pr-2 text-left ${isMarked ? 'bg-primary/12' : 'hover:bg-base-200'} ${rows.cut.has(row.id) ? 'opacity-50' : ''} ${open ? 'pl-1' : 'pl-1.5'}`}
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
            <span className={row.kind === 'attribute' || row.kind === 'subassembly' ? 'quiet' : 'font-mono text-[0.8125rem]'}>
              {summaryOf(row, document)}
            </span>
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
                <TriangleAlert className="size-3.5" aria-label={t('workshop.faultsCountFaults', { faultsCount: faults.length })} />{' '}
                {faults.length > 1 && faults.length}
              </span>
            )}
            <HealthMark findings={health.filter((f) => f.rowId === row.id)} />
            {present
              .filter((p) => p.rowId === row.id)
              .map((p) => (
                <PresentMark key={p.page} who={p} />
              ))}
            <Present row={row} />
            {isMarked && <span className="sr-only">{t('workshop.marked')}</span>}
          </span>
        </button>
      </div>
      {menu && (
        <ContextMenu
          x={menu.x}
          y={menu.y}
          label={t('workshop.whatCanBeDoneWithName', { name: name || t('workshop.theRow') })}
          entries={entries({
            row,
            topic,
            assembly,
            rows,
            mayEdit,
            open,
            toggle: () => goToRow(assembly.id, open ? null : row.id),
            uses: () => showUses(row.id, name || t('workshop.theRow')),
          })}
          onClose={() => setMenu(null)}
        />
      )}
      {mayEdit && missingOf(row, faults).map((m) => <MakeMissing key={m.table + m.code} {...m} />)}
      {open && <OpenRow row={row} topic={topic} assembly={assembly} />}
    </div>
  )
}

/** The head of the row before or after another on the page. */
function neighbour(head: HTMLElement, by: number): HTMLElement | undefined {
  const heads = [...document.querySelectorAll<HTMLElement>('[data-row]')]
  return heads[heads.indexOf(head) + by]
}

type MenuOf = { row: Row; topic: Topic; assembly: Assembly; rows: RowActions; mayEdit: boolean; open: boolean; toggle: () => void; uses: () => void }

/** The menu of a row: the same as its keys, for all that are marked with it. */
function entries({ row, topic, assembly, rows, mayEdit, open, toggle, uses }: MenuOf): MenuEntry[] {
  const count = rows.marks.of(row.id).length
  const those = count > 1 ? t('workshop.nRows', { n: count }) : t('workshop.row')
  const clip = (what: 'copy' | 'cut') => document.execCommand(what)
  return [
    { label: open ? t('workshop.close') : t('workshop.open'), keys: 'Enter', act: toggle },
    { label: t('workshop.rename'), keys: 'F2', disabled: !mayEdit, act: () => rows.rename(row) },
    { label: t('workshop.whereItIsUsed'), keys: 'Shift+F12', act: uses },
    'line',
    { label: t('workshop.copyThose', { those }), keys: 'Ctrl+C', act: () => clip('copy') },
    { label: t('workshop.cutThose', { those }), keys: 'Ctrl+X', disabled: !mayEdit, act: () => clip('cut') },
    { label: t('workshop.doubleThose', { those }), keys: 'Ctrl+D', disabled: !mayEdit, act: () => rows.duplicate(row) },
    'line',
    { label: t('workshop.moveUp'), keys: 'Alt+↑', disabled: !mayEdit, act: () => rows.moveBy(row, -1) },
    { label: t('workshop.moveDown'), keys: 'Alt+↓', disabled: !mayEdit, act: () => rows.moveBy(row, 1) },
    ...assembly.topics
      .filter((other) => other.id !== topic.id)
      .slice(0, 12)
      .map((other) => ({
        label: t('workshop.toTopicLabel', { label: inEnglish(other.label) }),
        disabled: !mayEdit,
        act: () => rows.moveToTopic(row, other),
      })),
    'line',
    { label: t('workshop.deleteThose', { those }), keys: 'Delete', disabled: !mayEdit, act: () => rows.remove(row) },
  ]
}

/** What the row comes to on the bench. */
function Present({ row }: { row: Row }) {
  const { bench } = useWorkshop()
  const answer = bench.answer
  if (!answer) return null
  if (row.kind === 'attribute') {
    const asked = answer.sections.flatMap((s) => s.asked).find((a) => a.rowId === row.id)
    return asked ? (
      <span className="flex items-center gap-1 text-sm">
        {asked.valueLabel ?? ''} <StateMark state={asked.missing ? 'needed' : asked.state} clash={asked.clash} />
      </span>
    ) : null
  }
  if (row.kind === 'computed') return <span className="text-sm whitespace-nowrap">{answer.figures.find((f) => f.rowId === row.id)?.suggested}</span>
  if (row.kind === 'part' || row.kind === 'operation') {
    const line = answer.lines.find((l) => l.rowId === row.id)
    return line ? (
      <span className={`text-sm whitespace-nowrap ${line.suggested === 'out' ? 'quiet italic' : ''}`}>
        {line.suggested === 'out' ? t('workshop.notNow') : line.suggestedQuantity}
      </span>
    ) : null
  }
  const clash = answer.clashes.find((c) => c.reason.causes.some((x) => x.rowId === row.id))
  return clash ? <StateMark state="clash" clash={clash.number} /> : null
}
