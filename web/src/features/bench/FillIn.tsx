import { useEffect, useRef, useState } from 'react'
import { sentenceOf, type Schemas } from '../../api/client'
import { steps } from '../../api/steps'
import { useRight } from '../../session/session'
import { goalsFor } from './goals'
import type { Bench } from './useBench'
import { t } from '../../texts'

type Best = Schemas['BestView']

/** Fills in everything that is open: by what is suggested, or so that a number is the best possible. Can be stopped, and undone. */
export function FillIn({ revisionId, bench, onClose }: { revisionId: number; bench: Bench; onClose: () => void }) {
  const seesCosts = useRight('seeCosts')
  const [goal, setGoal] = useState(seesCosts ? 'lowest #cost' : bench.answer?.priced ? 'lowest #price' : '')
  const [best, setBest] = useState<Best | null>(null)
  const [running, setRunning] = useState(false)
  /** What the person wants to stay as it is suggested. */
  const [held, setHeld] = useState<ReadonlySet<string>>(new Set())
  /** What was held when what is shown was looked for. */
  const [asked, setAsked] = useState(held)
  const [fault, setFault] = useState<string | null>(null)
  const stop = useRef<AbortController | null>(null)
  useEffect(() => () => stop.current?.abort(), [])

  async function start() {
    const control = new AbortController()
    stop.current = control
    setBest(null)
    setAsked(held)
    setFault(null)
    setRunning(true)
    const [end, path] = goal === '' ? [null, null] : (goal.split(' ') as [string, string])
    try {
      for await (const step of steps<Best>(
        `/api/revisions/${revisionId}/best`,
        { ...bench.question, goal: path, highest: end === 'highest', hold: [...held] },
        control.signal,
      ))
        setBest(step)
    } catch (e) {
      setFault(sentenceOf(e))
    }
    setRunning(false)
  }

  const isStale = asked !== held
  return (
    <section aria-label={t('bench.fillInWhatIsOpen')} className="mb-2 grid gap-2 border-l-2 border-primary bg-base-200 px-3 py-2">
      <div className="flex flex-wrap items-center gap-2">
        <label htmlFor="fill-goal">{t('bench.fillInWhatIsOpen')}</label>
        <select id="fill-goal" className="select w-44" value={goal} disabled={running} onChange={(e) => setGoal(e.target.value)}>
          {goalsFor(bench.answer, seesCosts).map(([value, text]) => (
            <option key={value} value={value}>
              {text}
            </option>
          ))}
        </select>
        {running ? (
          <button className="btn" onClick={() => stop.current?.abort()}>
            {t('bench.stop')}
          </button>
        ) : (
          <button className="btn btn-primary" onClick={() => void start()}>
            {best ? t('bench.again') : t('bench.findIt')}
          </button>
        )}
        <button className="link ml-auto text-sm" onClick={onClose}>
          {t('bench.close')}
        </button>
      </div>
      {(running || best) && (
        <div
          role="progressbar"
          aria-label={t('bench.searchForTheBest')}
          aria-valuemin={0}
          aria-valuemax={100}
          aria-valuenow={Math.floor((best?.share ?? 0) * 100)}
          className="h-1.5 border hair bg-base-100"
        >
          <div className="h-full bg-primary transition-[width]" style={{ width: `${Math.max(2, (best?.share ?? 0) * 100)}%` }} />
        </div>
      )}
      {running && !best && <p className="quiet text-sm">{t('bench.lookingForAFirstOne')}</p>}
      {best && (
        <p role="status" className="flex flex-wrap items-baseline gap-x-3 text-sm">
          {best.number !== null && <b>{best.number}</b>}
          <span className="quiet">
            {best.done && best.proven
              ? best.values.length === 0 && best.number === null
                ? t('bench.thereIsNothingToFillIn')
                : best.number === null
                  ? t('bench.answersAsSuggested', { n: best.values.length })
                  : t('bench.provenThereIsNothingBetter')
              : best.bound !== null
                ? t('bench.theBestSoFarNoneIs', { bound: best.bound })
                : t('bench.theBestSoFar')}
          </span>
          {best.values.length > 0 && (
            <button
              className="btn ml-auto"
              disabled={isStale}
              title={isStale ? t('bench.lookAgainFirst') : undefined}
              onClick={() => {
                stop.current?.abort()
                bench.fillIn(best.values)
                onClose()
              }}
            >
              {t('bench.takeTheseAnswers', { count: best.values.length })}
            </button>
          )}
        </p>
      )}
      {best && !running && best.assumed.length > 0 && (
        <p className="text-sm">
          <i className="quiet">{t('bench.assumedAsItIsGiven')}</i> {best.assumed.map((a) => `${a.label} ${a.value}`).join(', ')}
        </p>
      )}
      {best && !running && best.changes.length > 0 && (
        <ul aria-label={t('bench.whatWouldChange')} className="grid max-h-56 gap-0.5 overflow-auto text-sm">
          {best.changes.map((c) => (
            <li key={c.path} className="grid grid-cols-[minmax(0,1fr)_auto] items-center gap-2">
              <span>
                {c.label}: {c.from ?? '–'} → <b>{c.to}</b>
              </span>
              <label className="flex items-center gap-1.5">
                <input
                  type="checkbox"
                  className="size-4 accent-primary"
                  disabled={c.from === null}
                  checked={held.has(c.path)}
                  onChange={(e) => setHeld((now) => new Set(e.target.checked ? [...now, c.path] : [...now].filter((p) => p !== c.path)))}
                />
                {t('bench.holdIt')}
              </label>
            </li>
          ))}
        </ul>
      )}
      {fault && (
        <p role="alert" className="fault text-sm">
          {fault}
        </p>
      )}
    </section>
  )
}
