import type { GoTo } from '../../ui/goTo'
import { askAnswer, type Asked } from '../../api/answer'
import { nearestTo } from '../../ui/numbers'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { ArrowRight, X } from 'lucide-react'
import { ask, client, sentenceOf, type Schemas } from '../../api/client'
import type { Bench } from './useBench'
import { t } from '../../texts'

type ReasonView = Schemas['ReasonView']

/** A reason as a list of what causes it: picks lead to their question, rules to their row. */
export function ReasonText({ reason, goTo, goToPick }: { reason: ReasonView; goTo?: GoTo; goToPick?: (path: string) => void }) {
  if (reason.picks.length + reason.causes.length === 0) return <p>{reason.sentence}</p>
  return (
    <ul className="grid gap-1">
      {reason.picks.map((p) => (
        <li key={p.path} className="flex gap-2">
          <span className="quiet w-20 shrink-0 italic">{t('bench.youPicked')}</span>
          <button className="link text-left" onClick={() => goToPick?.(p.path)}>
            {p.label} = {p.valueLabel}
          </button>
        </li>
      ))}
      {reason.causes.map((c) => (
        <li key={c.rowId + c.sentence} className="flex gap-2">
          <span className="quiet w-20 shrink-0 italic">
            {c.kind === 'rule' ? t('bench.rule') : c.kind === 'condition' ? t('bench.condition') : t('bench.bound')}
          </span>
          {goTo ? (
            <button className="text-left hover:text-primary" onClick={() => goTo(c.assemblyId, c.rowId)}>
              {c.mark && <b className="link mr-1.5 font-semibold">{c.mark}</b>}
              <span className={c.mark ? '' : 'link'}>{c.sentence}</span>
            </button>
          ) : (
            <span>
              {c.mark && <b className="mr-1.5 font-semibold">{c.mark}</b>}
              {c.sentence}
            </span>
          )}
        </li>
      ))}
    </ul>
  )
}

const useWaysOut = (revisionId: number, bench: Bench, path?: string, value?: string) =>
  useQuery({
    queryKey: ['ways-out', revisionId, bench.answer?.head, bench.question, path, value],
    queryFn: ({ signal }) =>
      ask(
        client.POST('/api/revisions/{id}/ways-out', {
          params: { path: { id: revisionId } },
          body: { ...bench.question, path: path ?? null, value: value ?? null },
          signal,
        }),
      ),
    staleTime: Infinity,
  })

/** Where nothing leads to a number itself: the nearest ones that can be had once something else is changed, with what that is. */
function NearestOtherwise({
  revisionId,
  bench,
  asked,
  value,
  onDone,
}: {
  revisionId: number
  bench: Bench
  asked: Asked
  value: string
  onDone: () => void
}) {
  const ways = useWaysOut(revisionId, bench, asked.path, value)
  const queries = useQueryClient()
  const head = bench.answer?.head
  const open = { ...bench.question, picks: [] }
  const isWanted = ways.data?.finished === true && ways.data.ways.length === 0
  const all = useQuery({
    queryKey: ['answer', revisionId, head, open],
    queryFn: ({ signal }) => askAnswer(queries, revisionId, open, signal),
    enabled: isWanted,
    staleTime: Infinity,
  })
  const ever = all.data?.sections.flatMap((s) => s.asked).find((a) => a.path === asked.path)
  const now = nearestTo(value, asked)
  const numbers = isWanted && ever ? nearestTo(value, ever).filter((n) => !now.includes(n)) : []
  return numbers.map((n) => (
    <div key={n} className="grid gap-1">
      <p className="quiet italic">{t('bench.theNearestByOtherAnswers', { number: `${n} ${asked.unitLabel}`.trim() })}</p>
      <WaysOut revisionId={revisionId} bench={bench} path={asked.path} value={n} onDone={onDone} />
    </div>
  ))
}

/** Ways out of a clash, or towards a wanted value, each one button. */
export function WaysOut({
  revisionId,
  bench,
  path,
  value,
  onDone,
}: {
  revisionId: number
  bench: Bench
  path?: string
  value?: string
  onDone?: () => void
}) {
  const ways = useWaysOut(revisionId, bench, path, value)
  if (ways.error) return <p className="fault">{sentenceOf(ways.error)}</p>
  if (!ways.data) return <p className="quiet">{t('bench.lookingForAWay')}</p>
  if (ways.data.ways.length === 0)
    return (
      <p>
        {ways.data.finished ? (ways.data.cause ? t('bench.thereIsNoWayToIt') : t('bench.nothingHasToChangeForIt')) : t('bench.noWayWasFoundInTime')}
      </p>
    )
  return (
    <>
      <ul className="grid gap-1" aria-label={t('bench.waysOut')}>
        {ways.data.ways.map((way) => {
          const text = way.changes
            .map((c) => (c.to === null ? t('bench.letGoOfLabel', { label: c.label }) : `${c.label}: ${c.from} → ${c.toLabel}`))
            .join(', ')
          return (
            <li key={text}>
              <button
                className="btn w-full justify-start text-left whitespace-normal"
                onClick={() => {
                  bench.pickAll([
                    ...way.changes.map((c) => ({ path: c.path, value: c.to })),
                    ...(path !== undefined && value !== undefined ? [{ path, value }] : []),
                  ])
                  onDone?.()
                }}
              >
                <ArrowRight className="size-3.5 shrink-0 text-primary" />
                {text}
              </button>
            </li>
          )
        })}
      </ul>
      {ways.data.more ? (
        <p className="quiet text-sm italic">{t('bench.thereAreMoreWaysThanThese')}</p>
      ) : (
        !ways.data.finished && <p className="quiet text-sm italic">{t('bench.whetherThereAreMoreWaysWas')}</p>
      )}
    </>
  )
}

const mostNamed = 6

/** What stands against all the ruled-out values of a choice: those of the same reason together. */
export function AgainstAll({
  revisionId,
  bench,
  asked,
  onClose,
  goTo,
  goToPick,
}: {
  revisionId: number
  bench: Bench
  asked: Asked
  onClose: () => void
  goTo?: GoTo
  goToPick?: (path: string) => void
}) {
  const why = useQuery({
    queryKey: ['why-all', revisionId, bench.answer?.head, bench.question, asked.path],
    queryFn: ({ signal }) =>
      ask(
        client.POST('/api/revisions/{id}/why-all', { params: { path: { id: revisionId } }, body: { ...bench.question, path: asked.path }, signal }),
      ),
    staleTime: Infinity,
  })
  return (
    <div
      role="region"
      aria-live="polite"
      aria-label={t('bench.whatStandsAgainstValuesOfLabel', { label: asked.label })}
      className="my-1.5 grid gap-2.5 border-l-2 border-primary bg-base-200 px-3 py-2 text-sm"
    >
      <div className="flex items-start justify-between gap-2">
        <p className="font-semibold">{t('bench.whatStandsAgainstTheOthers')}</p>
        <button className="btn btn-ghost btn-sm -m-1" aria-label={t('bench.closeTheReasons')} onClick={onClose}>
          <X className="size-3.5" />
        </button>
      </div>
      {why.error && <p className="fault">{sentenceOf(why.error)}</p>}
      {!why.data && !why.error && <p className="quiet">{t('bench.lookingForTheReasons')}</p>}
      {why.data?.groups.map((g) => (
        <div key={g.labels.join()} className="grid gap-1 border-b hair pb-2 last:border-0 last:pb-0">
          <p>
            <b className="font-semibold">{g.labels.slice(0, mostNamed).join(' · ')}</b>
            {g.labels.length > mostNamed && <span className="quiet"> {t('bench.andMore', { more: g.labels.length - mostNamed })}</span>}
          </p>
          <ReasonText reason={g.reason} goTo={goTo} goToPick={goToPick} />
        </div>
      ))}
      {why.data && !why.data.finished && <p className="quiet italic">{t('bench.notEveryReasonWasFoundIn')}</p>}
    </div>
  )
}

/** Why a value is ruled out, or why it follows, with the ways to have it otherwise. */
export function ReasonPanel({
  revisionId,
  bench,
  asked,
  value,
  onClose,
  goTo,
  goToPick,
}: {
  revisionId: number
  bench: Bench
  asked: Asked
  value: string
  onClose: () => void
  goTo?: GoTo
  goToPick?: (path: string) => void
}) {
  const why = useQuery({
    queryKey: ['why', revisionId, bench.answer?.head, bench.question, asked.path, value],
    queryFn: ({ signal }) =>
      ask(
        client.POST('/api/revisions/{id}/why', {
          params: { path: { id: revisionId } },
          body: { ...bench.question, path: asked.path, value },
          signal,
        }),
      ),
    staleTime: Infinity,
  })
  const label = asked.choices.find((c) => c.value === value)?.label ?? `${value} ${asked.unitLabel}`.trim()
  const follows = asked.state === 'follows' && asked.value === value
  return (
    <div
      role="region"
      aria-live="polite"
      aria-label={t('bench.whyValue', { question: asked.label, value: label })}
      className="my-1.5 grid gap-2.5 border-l-2 border-primary bg-base-200 px-3 py-2 text-sm"
    >
      <div className="flex items-start justify-between gap-2">
        <p className="font-semibold">
          {asked.label}: {label} {follows ? t('bench.isAllThatIsLeft') : why.data?.possible ? t('bench.canBeHadNow') : t('bench.cannotBeHadNow')}
        </p>
        <button className="btn btn-ghost btn-sm -m-1" aria-label={t('bench.closeTheReason')} onClick={onClose}>
          <X className="size-3.5" />
        </button>
      </div>
      {why.error ? (
        <p className="fault">{sentenceOf(why.error)}</p>
      ) : !why.data ? (
        <p className="quiet">{t('bench.lookingForTheReason')}</p>
      ) : why.data.reason ? (
        <ReasonText reason={why.data.reason} goTo={goTo} goToPick={goToPick} />
      ) : (
        <p>{why.data.possible ? t('bench.nothingStandsAgainstIt') : t('bench.noReasonWasFoundInTime')}</p>
      )}
      {!follows && why.data?.reason && (
        <div className="grid gap-1">
          <p className="quiet italic">{t('bench.toHaveItChange')}</p>
          <WaysOut revisionId={revisionId} bench={bench} path={asked.path} value={value} onDone={onClose} />
          {(asked.kind === 'whole' || asked.kind === 'quantity') && (
            <NearestOtherwise revisionId={revisionId} bench={bench} asked={asked} value={value} onDone={onClose} />
          )}
          {!why.data.possible && (
            <p className="quiet">
              {t('bench.wantedAllTheSame')}{' '}
              <button
                className="link"
                onClick={() => {
                  bench.pick(asked.path, value)
                  onClose()
                }}
              >
                {t('bench.pickItWithItsClash')}
              </button>
            </p>
          )}
        </div>
      )}
    </div>
  )
}
