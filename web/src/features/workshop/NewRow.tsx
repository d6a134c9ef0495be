import { X } from 'lucide-react'
import { useEffect, useEffectEvent, useId, useRef, useState, type KeyboardEvent } from 'react'
import type { Assembly, Topic } from './model'
import { pastedCells } from '../../ui/grid/cells'
import { PasteSheet } from './PasteSheet'
import { readCopied, rowsType } from './rows/copiedRows'
import { useRows, type EntryOf } from './rows/useRowActions'
import { useEntry, type LineFinding } from './useEntry'
import { t } from '../../texts'

/** A new row is typed: its first word decides the kind, the line below shows how the rest is written, and nothing typed is ever lost. */
type Props = { topic: Topic; assembly: Assembly; register?: (topic: Topic, entry: EntryOf | null) => void }

export function NewRow({ topic, assembly, register }: Props) {
  const entry = useEntry(topic, assembly)
  const rows = useRows()
  const [chosen, setChosen] = useState<number | null>(null)
  const [focused, setFocused] = useState(false)
  const [closed, setClosed] = useState(false)
  const input = useRef<HTMLInputElement>(null)
  const cleared = useRef('')
  const [scrolled, setScrolled] = useState(0)
  /** What was pasted from a spreadsheet, to be looked at before it becomes rows. */
  const [block, setBlock] = useState<string[][] | null>(null)
  const id = useId()
  const { text, offers, findings } = entry
  const items = offers?.items ?? []
  const isOpen = focused && !closed && items.length > 0 && (text === '' || offers!.length > 0)

  function take(at: number) {
    const { start, length } = offers!
    const item = items[at]!
    const taken = text.slice(0, start) + item.text + (item.kind === 'row' ? ' ' : '')
    entry.change(taken + text.slice(start + length), taken.length)
    setChosen(null)
  }

  /** Puts a line there to be gone over; what was being typed is kept above it. */
  function propose(line: string) {
    entry.propose(line)
    input.current?.focus()
    requestAnimationFrame(() => input.current?.setSelectionRange(line.length, line.length))
  }

  const of = useEffectEvent((): EntryOf => ({ enter: (lines) => entry.enterAll(lines), propose }))
  const tell = useEffectEvent((there: boolean) => register?.(topic, there ? of() : null))
  useEffect(() => tell(true))
  useEffect(() => () => tell(false), [])

  function enter() {
    entry.enter()
    setChosen(null)
    setClosed(false)
  }

  function onKeyDown(e: KeyboardEvent<HTMLInputElement>) {
    const fix = findings.flatMap((f) => f.fixes)[0]
    if (e.key === 'Enter' && e.altKey && fix) {
      e.preventDefault()
      entry.change(fix.line, fix.line.length)
    } else if (e.key === 'Escape') {
      if (isOpen && text !== '') setClosed(true)
      else if (text !== '') {
        cleared.current = text
        entry.clear()
      }
    } else if (e.key === 'z' && (e.ctrlKey || e.metaKey) && text === '' && cleared.current !== '') {
      // What Esc took away comes back.
      e.preventDefault()
      e.stopPropagation()
      entry.change(cleared.current, cleared.current.length)
      cleared.current = ''
    } else if (isOpen && (e.key === 'ArrowDown' || e.key === 'ArrowUp')) {
      e.preventDefault()
      setChosen((c) => (c === null ? 0 : Math.max(0, Math.min(items.length - 1, c + (e.key === 'ArrowDown' ? 1 : -1)))))
    } else if (isOpen && text !== '' && e.key === 'Tab') {
      e.preventDefault()
      take(chosen ?? 0)
    } else if (e.key === 'Enter' && isOpen && chosen !== null) {
      // A word is only taken over by whoever has gone to it.
      e.preventDefault()
      take(chosen)
    } else if (e.key === 'Enter' && text.trim() !== '') enter()
  }

  return (
    <div className="relative py-1 pl-12">
      {block && <PasteSheet block={block} topic={topic} assembly={assembly} onClose={() => (setBlock(null), input.current?.focus())} />}
      {entry.unmade.map((u) => (
        <div key={u.line} className="flex items-start gap-2 border-l-3 border-warning py-0.5 pl-2">
          <button
            className="link min-w-0 flex-1 truncate text-left font-mono text-sm"
            title={t('workshop.backIntoTheLine')}
            onClick={() => (entry.takeBack(u), input.current?.focus())}
          >
            {u.line}
          </button>
          <span className="fault min-w-0 flex-1 text-sm">{u.findings[0]?.message}</span>
          <button className="btn btn-ghost btn-sm" aria-label={t('workshop.dropLine', { line: u.line })} onClick={() => entry.drop(u)}>
            <X className="size-3.5" />
          </button>
        </div>
      ))}
      {entry.waiting.length > 0 && (
        <p role="status" className="quiet text-sm">
          {t('workshop.onceTheServerCanBeReached', {
            what:
              entry.waiting.length === 1
                ? t('workshop.waitingIsAdded', { waiting: entry.waiting[0] })
                : t('workshop.rowsAreAdded', { n: entry.waiting.length }),
          })}
        </p>
      )}
      <div className="relative">
        <Marks text={text} findings={findings} scrolled={scrolled} />
        <input
          ref={input}
          className="input border-dashed bg-transparent font-mono placeholder:font-sans"
          role="combobox"
          aria-expanded={isOpen}
          aria-controls={id}
          aria-activedescendant={isOpen && chosen !== null ? `${id}-${chosen}` : undefined}
          aria-label={t('workshop.newRowIn', { topic: topic.label.en ?? t('workshop.thisTopic') })}
          aria-describedby={findings.length > 0 ? `${id}-findings` : undefined}
          placeholder={t('workshop.newRowChoiceQuantityComputeRule')}
          value={text}
          aria-invalid={entry.isEntered}
          spellCheck={false}
          onFocus={(e) => {
            setFocused(true)
            entry.at(e.currentTarget.selectionStart ?? 0)
          }}
          onBlur={() => {
            setFocused(false)
            setClosed(false)
            setChosen(null)
            entry.at(null)
          }}
          onChange={(e) => {
            entry.change(e.target.value, e.target.selectionStart ?? e.target.value.length)
            setChosen(null)
            setClosed(false)
          }}
          onScroll={(e) => setScrolled(e.currentTarget.scrollLeft)}
          onPaste={(e) => {
            if (text === '' && readCopied(e.clipboardData.getData(rowsType))) {
              e.preventDefault()
              return rows.paste(e.clipboardData, topic, null)
            }
            const pasted = e.clipboardData.getData('text')
            if (text === '' && pasted.includes('\t')) {
              e.preventDefault()
              return setBlock(pastedCells(pasted))
            }
            const lines = pasted.split(/\r?\n/)
            if (lines.filter((l) => l.trim() !== '').length < 2) return
            e.preventDefault()
            entry.enterAll([text + lines[0]!, ...lines.slice(1)])
            entry.clear()
          }}
          onKeyDown={onKeyDown}
        />
      </div>
      {findings.length > 0 && (
        <ul id={`${id}-findings`} role={entry.isEntered ? 'alert' : 'status'} className="text-sm">
          {findings.map((f) => (
            <li key={`${f.start} ${f.message}`} className="flex flex-wrap items-center gap-x-2">
              <span className="fault">{f.message}</span>
              {f.fixes.map((fix, i) => (
                <button
                  key={fix.line}
                  className="link"
                  title={`${fix.line}${i === 0 && f === findings.find((x) => x.fixes.length > 0) ? t('workshop.altEnter') : ''}`}
                  onMouseDown={(e) => e.preventDefault()}
                  onClick={() => (entry.change(fix.line, fix.line.length), input.current?.focus())}
                >
                  {fix.label}
                </button>
              ))}
            </li>
          ))}
        </ul>
      )}
      {entry.shape?.word && findings.length === 0 && (
        <p className="quiet text-sm">
          {entry.shape.word} <i>{entry.shape.shape}</i>
          {t('workshop.suchAs')} <span className="font-mono">{entry.shape.example}</span>
          {t('workshop.enterAddsIt', { more: isOpen ? t('workshop.tabTakesWhatIsOffered') : '' })}
        </p>
      )}
      {isOpen && (
        <ul
          id={id}
          role="listbox"
          aria-label={t('workshop.whatCanStandHere')}
          className="absolute z-20 max-h-72 w-[calc(100%-3rem)] overflow-auto border hair bg-base-100 shadow-md"
        >
          {items.map((item, i) => (
            <li
              key={item.text + item.kind}
              id={`${id}-${i}`}
              role="option"
              aria-selected={i === chosen}
              className={`grid cursor-pointer grid-cols-[8.5rem_minmax(0,1fr)] px-2 py-0.5 ${i === chosen ? 'bg-base-200' : ''}`}
              onMouseDown={(e) => {
                e.preventDefault()
                take(i)
              }}
            >
              <b className="truncate font-semibold">{item.text}</b>
              <span className="quiet truncate font-mono text-[0.8125rem]">{item.detail || wordOf[item.kind] || item.kind}</span>
            </li>
          ))}
        </ul>
      )}
    </div>
  )
}

const wordOf: Record<string, string> = { attribute: 'asked', computed: 'computed', keyword: 'word', workCentre: t('workshop.workCentre') }

/** A line in stretches, each marked or not. */
function stretches(text: string, findings: LineFinding[]): { text: string; marked: boolean }[] {
  const found: { text: string; marked: boolean }[] = []
  let at = 0
  for (const f of findings.filter((f) => f.length > 0).sort((a, b) => a.start - b.start)) {
    const [from, to] = [Math.max(at, f.start), Math.max(at, f.start + f.length)]
    found.push({ text: text.slice(at, from), marked: false }, { text: text.slice(from, to), marked: true })
    at = to
  }
  return [...found, { text: text.slice(at), marked: false }]
}

/** Waves under the stretches of a line that are not understood; the text itself stands in the field above. */
function Marks({ text, findings, scrolled }: { text: string; findings: LineFinding[]; scrolled: number }) {
  return (
    <div
      aria-hidden
      className="input pointer-events-none absolute inset-0 overflow-hidden font-mono whitespace-pre"
      style={{ background: 'transparent', borderColor: 'transparent', color: 'transparent' }}
    >
      <span className="inline-block" style={{ transform: `translateX(${-scrolled}px)` }}>
        {stretches(text, findings).map((s, i) => (
          <span key={i} className={s.marked ? 'underline decoration-warning decoration-wavy decoration-1 underline-offset-4' : ''}>
            {s.text}
          </span>
        ))}
      </span>
    </div>
  )
}
