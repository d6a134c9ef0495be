import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useParams } from 'react-router'
import { ask, client, sentenceOf, type Schemas } from '../../api/client'
import { newId } from '../../api/ids'
import { useRight } from '../../session/session'
import { TitleBlock } from '../../ui/TitleBlock'
import { DayField, today } from '../../ui/WhereFields'
import { t } from '../../texts'

type Timed = Schemas['TimedView']
type Pause = Schemas['PauseView']

const millisecondsOf = (day: string) => Date.parse(`${day}T00:00:00Z`)
const shift = (day: string, days: number) => new Date(millisecondsOf(day) + days * 86_400_000).toISOString().slice(0, 10)

/** The stretch of days that is drawn: all that begins or ends, and some time around today. */
function stretchOf(days: string[]): { first: string; last: string; at: (day: string) => number } {
  const all = [...days, shift(today(), -60), shift(today(), 300)].sort()
  const [first, last] = [all[0]!, all.at(-1)!]
  const length = millisecondsOf(last) - millisecondsOf(first)
  return { first, last, at: (day) => Math.min(1, Math.max(0, (millisecondsOf(day) - millisecondsOf(first)) / length)) }
}

const period = (from: string | null, to: string | null) =>
  from && to ? t('products.fromTo', { from, to }) : from ? t('products.fromOn', { from }) : to ? t('products.until', { to }) : t('products.always')

/** More of them are drawn only for who asks for all. */
const mostAtFirst = 200

const isWithin = (of: { from: string | null; to: string | null }, day: string) => (!of.from || of.from <= day) && (!of.to || day <= of.to)

/** What of a product holds when: its dated rows and values, what is paused, gaps and overlaps. */
export function TimesPage() {
  const { productId = '' } = useParams()
  const [day, setDay] = useState<string | null>(today())
  const [isAll, setAll] = useState(false)
  const product = useQuery({
    queryKey: ['product', productId],
    queryFn: ({ signal }) => ask(client.GET('/api/products/{productId}', { params: { path: { productId } }, signal })),
  })
  const id = product.data?.revisionId
  const times = useQuery({
    queryKey: ['times', id],
    queryFn: ({ signal }) => ask(client.GET('/api/revisions/{id}/times', { params: { path: { id: id! } }, signal })),
    enabled: id !== undefined,
  })
  const pauses = useQuery({
    queryKey: ['pauses', productId],
    queryFn: ({ signal }) => ask(client.GET('/api/products/{productId}/pauses', { params: { path: { productId } }, signal })),
  })
  const error = product.error ?? times.error ?? pauses.error
  if (error) return <p className="fault p-8">{sentenceOf(error)}</p>
  if (!product.data || !times.data || !pauses.data) return <p className="quiet p-8">{t('products.oneMoment')}</p>
  const shown = isAll ? times.data.entries : times.data.entries.slice(0, mostAtFirst)
  const going = pauses.data.filter((p) => p.endedAt === null)
  const stretch = stretchOf([...times.data.days, ...going.flatMap((p) => [p.from, ...(p.to ? [p.to] : [])])])
  return (
    <div className="mx-auto grid max-w-6xl gap-5 p-5">
      <TitleBlock
        title={t('products.whatHoldsWhen')}
        sub={
          <>
            <Link className="link" to={`/products/${productId}`}>
              {product.data.code}
            </Link>{' '}
            {product.data.label}
          </>
        }
        cells={[
          { label: t('products.revision'), value: `${product.data.number} ${product.data.state}` },
          { label: t('products.asOf'), value: <DayField date={day} onChange={setDay} /> },
        ]}
      />
      <Pauses productId={productId} revisionId={product.data.revisionId} pauses={pauses.data} />
      <section aria-label={t('products.rowsAndValues')} className="grid gap-1">
        <h2 className="border-b hair pb-0.5 font-semibold">{t('products.rowsAndValues')}</h2>
        {times.data.entries.length === 0 && <p className="quiet">{t('products.allHoldsAlways')}</p>}
        {times.data.successions.map((s) => (
          <p key={s.kind + s.id + s.from} className="fault text-sm">
            {s.kind === 'gap'
              ? t('products.gapBetween', { name: s.name, next: s.next, period: period(s.from, s.to) })
              : t('products.overlapOf', { name: s.name, next: s.next, period: period(s.from, s.to) })}
          </p>
        ))}
        {times.data.entries.length + going.length > 0 && <Axis stretch={stretch} day={day} />}
        {going.map((p) => (
          <Bar
            key={p.id}
            name={p.value || t('products.theWholeProduct')}
            where={t('products.pausedFor', { reason: p.reason })}
            of={p}
            stretch={stretch}
            day={day}
            isPause
          />
        ))}
        {shown.map((e) => (
          <Bar
            key={e.id}
            name={e.name}
            where={[e.where, ...e.sites].join(', ')}
            of={e}
            to={
              e.listId
                ? `/workshop/${id}?list=${encodeURIComponent(e.listId)}`
                : `/workshop/${id}?assembly=${encodeURIComponent(e.assemblyId ?? '')}&row=${encodeURIComponent(e.id)}`
            }
            stretch={stretch}
            day={day}
          />
        ))}
        {shown.length < times.data.entries.length && (
          <p className="py-1">
            <button className="btn btn-sm" onClick={() => setAll(true)}>
              {t('products.showAllTimed', { count: times.data.entries.length })}
            </button>
          </p>
        )}
      </section>
    </div>
  )
}

type Stretch = ReturnType<typeof stretchOf>

const columns = 'grid grid-cols-[16rem_minmax(0,1fr)_11rem] items-center gap-3'

/** The first day, the last, and the one that is asked for. */
function Axis({ stretch, day }: { stretch: Stretch; day: string | null }) {
  return (
    <div className={`${columns} quiet text-sm`}>
      <span />
      <div className="relative h-5">
        {(day === null || stretch.at(day) > 0.2) && <span className="absolute left-0">{stretch.first}</span>}
        {(day === null || stretch.at(day) < 0.8) && <span className="absolute right-0">{stretch.last}</span>}
        {day && (
          <span className="absolute -translate-x-1/2 bg-base-100 px-1 font-semibold text-primary" style={{ left: `${stretch.at(day) * 100}%` }}>
            {day}
          </span>
        )}
      </div>
      <span />
    </div>
  )
}

type BarProps = {
  name: string
  where: string
  of: Pick<Timed, 'from' | 'to'>
  to?: string
  stretch: Stretch
  day: string | null
  isPause?: boolean
}

function Bar({ name, where, of, to, stretch, day, isPause }: BarProps) {
  const [from, until] = [of.from ? stretch.at(of.from) : 0, of.to ? stretch.at(shift(of.to, 1)) : 1]
  const isNow = day === null || isWithin(of, day)
  return (
    <div className={`${columns} border-b hair py-1 ${isNow || isPause ? '' : 'quiet'}`}>
      <p className="min-w-0 truncate leading-tight" title={`${name}, ${where}`}>
        {to ? (
          <Link className="link" to={to}>
            {name}
          </Link>
        ) : (
          name
        )}
        <span className="quiet block truncate text-sm">{where}</span>
      </p>
      <div className="relative h-5" aria-hidden>
        <div className="absolute top-1/2 h-px w-full bg-base-300" />
        <div
          className={`absolute top-1 h-3 min-w-0.5 ${isPause ? 'hatched border border-warning' : isNow ? 'bg-primary' : 'border border-primary'}`}
          style={{ left: `${from * 100}%`, width: `${(until - from) * 100}%` }}
        />
        {day && <div className="absolute inset-y-0 w-px bg-primary" style={{ left: `${stretch.at(day) * 100}%` }} />}
      </div>
      <span className="text-sm whitespace-nowrap">{period(of.from, of.to)}</span>
    </div>
  )
}

/** What is not to be had for a time, and what is saved with it; whoever may pauses more, or ends it. */
function Pauses({ productId, revisionId, pauses }: { productId: string; revisionId: number; pauses: Pause[] }) {
  const mayEdit = useRight('edit')
  const queries = useQueryClient()
  const act = useMutation({
    mutationFn: (send: () => Promise<Pause[]>) => send(),
    onSuccess: (all) => {
      queries.setQueryData(['pauses', productId], all)
      void queries.invalidateQueries({ queryKey: ['answer'] })
    },
  })
  const end = (pauseId: string) =>
    act.mutate(() => ask(client.POST('/api/products/{productId}/pauses/{pauseId}/end', { params: { path: { productId, pauseId } } })))
  return (
    <section aria-label={t('products.paused')} className="grid gap-1">
      <h2 className="border-b hair pb-0.5 font-semibold">{t('products.paused')}</h2>
      {pauses.length === 0 && <p className="quiet">{t('products.nothingIsPaused')}</p>}
      {pauses.map((p) => (
        <div key={p.id} className={`border-b hair py-1 ${p.endedAt ? 'quiet' : ''}`}>
          <p className="flex flex-wrap items-baseline gap-x-3">
            <b className="font-semibold">{p.value || t('products.theWholeProduct')}</b>
            <span>{period(p.from, p.to)}</span>
            <span className="flex-1">{p.reason}</span>
            <span className="quiet text-sm">{p.endedBy ? t('products.endedBy', { person: p.endedBy }) : p.person}</span>
            {mayEdit && !p.endedAt && (
              <button className="link" disabled={act.isPending} onClick={() => end(p.id)}>
                {t('products.endIt')}
              </button>
            )}
          </p>
          {p.met.length > 0 && (
            <p className="quiet text-sm">
              {t('products.savedWithIt')}{' '}
              {p.met.map((c, i) => (
                <span key={c.id}>
                  {i > 0 && ', '}
                  <Link className="link" to={`/configurations/${c.id}`}>
                    {c.name}
                  </Link>
                </span>
              ))}
            </p>
          )}
        </div>
      ))}
      {mayEdit && (
        <NewPause
          revisionId={revisionId}
          isPending={act.isPending}
          error={act.error}
          onSend={(body, done) =>
            act.mutate(() => ask(client.POST('/api/products/{productId}/pauses', { params: { path: { productId } }, body })), { onSuccess: done })
          }
        />
      )}
    </section>
  )
}

type NewPauseProps = { revisionId: number; isPending: boolean; error: unknown; onSend: (body: Schemas['PauseRequest'], done: () => void) => void }

function NewPause({ revisionId, isPending, error, onSend }: NewPauseProps) {
  const revision = useQuery({
    queryKey: ['revision', revisionId],
    queryFn: ({ signal }) => ask(client.GET('/api/revisions/{id}', { params: { path: { id: revisionId } }, signal })),
  })
  const [value, setValue] = useState('')
  const [from, setFrom] = useState<string | null>(today())
  const [to, setTo] = useState<string | null>(null)
  const [reason, setReason] = useState('')
  return (
    <form
      className="my-2 flex flex-wrap items-center gap-2"
      onSubmit={(e) => {
        e.preventDefault()
        onSend({ id: newId(), valueId: value || null, from: from ?? today(), to, reason }, () => setReason(''))
      }}
    >
      <select className="select select-sm w-52" aria-label={t('products.whatIsPaused')} value={value} onChange={(e) => setValue(e.target.value)}>
        <option value="">{t('products.theWholeProduct')}</option>
        {revision.data?.document.lists.map((l) => (
          <optgroup key={l.id} label={l.label.en ?? l.name}>
            {l.values.map((v) => (
              <option key={v.id} value={v.id}>
                {v.label.en ?? v.code}
              </option>
            ))}
          </optgroup>
        ))}
      </select>
      <span className="quiet">{t('products.from')}</span>
      <DayField date={from} onChange={setFrom} />
      <span className="quiet">{t('products.untilTheDay')}</span>
      <DayField date={to} onChange={setTo} />
      <input
        className="input input-sm min-w-48 flex-1"
        aria-label={t('products.whyItIsPaused')}
        placeholder={t('products.whyItIsPaused')}
        required
        maxLength={2000}
        value={reason}
        onChange={(e) => setReason(e.target.value)}
      />
      <button className="btn btn-sm" disabled={isPending || reason.trim() === ''}>
        {t('products.pause')}
      </button>
      {error != null && (
        <p role="alert" className="fault w-full">
          {sentenceOf(error)}
        </p>
      )}
    </form>
  )
}
