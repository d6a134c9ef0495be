import { askAnswer, type Asked } from '../../api/answer'
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/react-query'
import { useVirtualizer } from '@tanstack/react-virtual'
import { X } from 'lucide-react'
import { useMemo, useRef, useState } from 'react'
import { Link, useNavigate, useParams, useSearchParams } from 'react-router'
import { ask, client, sentenceOf, type Schemas } from '../../api/client'
import { inEnglish } from '../../ui/format'
import { SearchField } from '../../ui/SearchField'
import { SavedViews } from '../../ui/SavedViews'
import { Tabs } from '../../ui/Tabs'
import { TextField } from '../../ui/TextField'
import { TitleBlock } from '../../ui/TitleBlock'
import { DayField, SiteField } from '../../ui/WhereFields'
import type { Pick } from '../../api/question'
import { Because } from '../../ui/structure/Because'
import { Missing } from '../../ui/structure/CostTime'
import { t } from '../../texts'

type Line = Schemas['FullLineView']

const states: Record<string, [mark: string, word: string]> = {
  always: ['■', t('structures.always')],
  in: ['◆', t('structures.there')],
  open: ['◇', t('structures.mayBe')],
  out: ['·', t('structures.notThere')],
}
const shows = { all: t('structures.allLines'), there: t('structures.whatCanBeThere'), out: t('structures.whatIsNotThere') } as const

/** All lines of a model with their conditions, narrowed by picks, and what is missing for building them. */
export function FullStructurePage() {
  const revisionId = Number(useParams().revisionId)
  const [query, setQuery] = useSearchParams()
  const picks = useMemo(
    () =>
      query
        .getAll('pick')
        .flatMap((p): Pick[] => (p.includes('=') ? [{ path: p.slice(0, p.indexOf('=')), value: p.slice(p.indexOf('=') + 1) }] : [])),
    [query],
  )
  const [site, date] = [query.get('site'), query.get('date')]
  const search = (query.get('search') ?? '').toLowerCase()
  const show = (query.get('show') ?? 'all') as keyof typeof shows
  const building = query.get('view') === 'building'
  const body = { picks, site, date }
  const revision = useQuery({
    queryKey: ['revision', revisionId],
    queryFn: ({ signal }) => ask(client.GET('/api/revisions/{id}', { params: { path: { id: revisionId } }, signal })),
  })
  const full = useQuery({
    queryKey: ['full-structure', revisionId, revision.data?.head, body],
    queryFn: ({ signal }) => ask(client.POST('/api/revisions/{id}/full-structure', { params: { path: { id: revisionId } }, body, signal })),
    placeholderData: keepPreviousData,
  })
  const change = (to: (next: URLSearchParams) => void) => {
    const next = new URLSearchParams(query)
    to(next)
    setQuery(next, { replace: true })
  }
  const put = (name: string, value: string | null) => change((next) => (value === null ? next.delete(name) : next.set(name, value)))
  const setPicks = (now: Pick[]) =>
    change((next) => {
      next.delete('pick')
      for (const p of now) next.append('pick', `${p.path}=${p.value}`)
    })
  if (revision.error) return <p className="p-8">{sentenceOf(revision.error)}</p>
  if (!revision.data) return <p className="quiet p-8">{t('structures.oneMoment')}</p>
  const doc = revision.data.document
  const lines = (full.data?.lines ?? []).filter(
    (l) =>
      (show === 'all' || (show === 'out') === (l.state === 'out')) &&
      (search === '' || `${l.name} ${l.description} ${l.condition}`.toLowerCase().includes(search)),
  )
  const count = (state: string) => (full.data?.lines ?? []).filter((l) => l.kind !== 'place' && l.state === state).length
  return (
    <div className="flex h-full flex-col gap-3 p-4">
      <TitleBlock
        title={t('structures.fullStructure')}
        sub={
          <Link className="link" to={`/workshop/${revisionId}`}>
            {inEnglish(doc.label) || doc.code}
          </Link>
        }
        cells={[
          { label: t('structures.revision'), value: `${revision.data.number} ${revision.data.state}` },
          ...Object.entries(states).map(([state, [, word]]) => ({ label: `${word}`, value: count(state) })),
          {
            label: t('structures.forTheSite'),
            value: <SiteField site={site} sites={revision.data.sites} onChange={(to) => put('site', to)} />,
          },
          { label: t('structures.onTheDay'), value: <DayField date={date} onChange={(to) => put('date', to)} /> },
        ]}
      />
      <div className="flex flex-wrap items-center gap-3">
        <Tabs
          label={t('structures.view')}
          tabs={[
            ['', t('structures.lines')],
            ['building', t('structures.canItBeBuilt')],
          ]}
          shown={building ? 'building' : ''}
          onShow={(key) => change((next) => (key ? next.set('view', key) : next.delete('view')))}
        />
        {!building && (
          <>
            <SearchField
              label={t('structures.searchLines')}
              value={query.get('search') ?? ''}
              onChange={(s) => change((next) => (s ? next.set('search', s) : next.delete('search')))}
            />
            <select
              className="select w-auto"
              aria-label={t('structures.whichLines')}
              value={show}
              onChange={(e) => change((next) => next.set('show', e.target.value))}
            >
              {Object.entries(shows).map(([key, label]) => (
                <option key={key} value={key}>
                  {label}
                </option>
              ))}
            </select>
          </>
        )}
        <SavedViews
          place={`structure ${revision.data.productId}`}
          state={query.toString()}
          onOpen={(kept) => setQuery(new URLSearchParams(kept), { replace: true })}
        />
      </div>
      {building ? (
        <Building revisionId={revisionId} head={revision.data.head} site={site} date={date} />
      ) : (
        <>
          <Narrowing revisionId={revisionId} head={revision.data.head} picks={picks} site={site} date={date} onChange={setPicks} />
          {full.error && <p className="fault">{sentenceOf(full.error)}</p>}
          {full.data && full.data.lines.length === 0 && <p className="quiet">{t('structures.theModelHasNoPartsOperations')}</p>}
          <Lines lines={lines} revisionId={revisionId} working={full.isPlaceholderData} />
        </>
      )}
    </div>
  )
}

/** The values of what is asked, each with whether it can still be had; of long ranges of numbers none are listed. */
const valuesOf = (a: Asked): { value: string; label: string; available: boolean }[] =>
  a.choices.length > 0
    ? a.choices.map((c) => ({ value: c.value, label: c.label, available: c.can }))
    : (a.members ?? []).map((m) => ({ value: m, label: `${m} ${a.unitLabel}`.trim(), available: true }))

/** The picks that narrow the tree: each can be taken off, and others put on. */
function Narrowing({
  revisionId,
  head,
  picks,
  site,
  date,
  onChange,
}: {
  revisionId: number
  head: number
  picks: Pick[]
  site: string | null
  date: string | null
  onChange: (picks: Pick[]) => void
}) {
  const [path, setPath] = useState('')
  const queries = useQueryClient()
  const answer = useQuery({
    queryKey: ['answer', revisionId, head, { picks, site, date }],
    queryFn: ({ signal }) => askAnswer(queries, revisionId, { picks, site, date }, signal),
    placeholderData: keepPreviousData,
  })
  const asked = (answer.data?.sections ?? []).flatMap((s) =>
    s.asked.map((a) => ({
      path: a.path,
      full: s.place ? `${s.place}: ${a.label}` : a.label,
      values: valuesOf(a),
      range:
        a.choices.length === 0 && a.lowest !== null
          ? t('structures.lowestToHighestUnitLabel', { lowest: a.lowest, highest: a.highest, unitLabel: a.unitLabel }).trim()
          : null,
    })),
  )
  const chosen = asked.find((a) => a.path === path)
  return (
    <div className="flex flex-wrap items-center gap-2" role="group" aria-label={t('structures.narrowedBy')}>
      <span className="quiet italic">{t('structures.narrowedBy')}</span>
      {picks.map((p) => {
        const at = asked.find((a) => a.path === p.path)
        return (
          <span key={p.path} className="flex items-center gap-1 border hair px-1.5 py-0.5">
            {at?.full ?? p.path}: <b className="font-semibold">{at?.values.find((v) => v.value === p.value)?.label ?? p.value}</b>
            <button
              className="btn btn-ghost btn-sm"
              aria-label={t('structures.takeOffFull', { full: at?.full ?? p.path })}
              onClick={() => onChange(picks.filter((x) => x.path !== p.path))}
            >
              <X className="size-3.5" />
            </button>
          </span>
        )
      })}
      <select className="select w-52" aria-label={t('structures.narrowBy')} value={path} onChange={(e) => setPath(e.target.value)}>
        <option value="">{picks.length === 0 ? t('structures.aPick') : t('structures.oneMore')}</option>
        {asked
          .filter((a) => (a.values.length > 0 || a.range !== null) && picks.every((p) => p.path !== a.path))
          .map((a) => (
            <option key={a.path} value={a.path}>
              {a.full}
            </option>
          ))}
      </select>
      {chosen && chosen.values.length === 0 && (
        <TextField
          className="w-44 text-right"
          autoFocus
          aria-label={t('structures.valueOfFull', { full: chosen.full })}
          placeholder={chosen.range ?? ''}
          value=""
          onCommit={(text) => {
            if (text.trim() !== '') onChange([...picks, { path, value: text.trim() }])
            setPath('')
          }}
        />
      )}
      {answer.data?.faults.map((f) => (
        <span key={f.path} className="fault">
          {f.sentence}
        </span>
      ))}
      {chosen && chosen.values.length > 0 && (
        <select
          className="select w-44"
          aria-label={t('structures.valueOfFull', { full: chosen.full })}
          value=""
          onChange={(e) => {
            onChange([...picks, { path, value: e.target.value }])
            setPath('')
          }}
        >
          <option value="">{t('structures.whichValue')}</option>
          {chosen.values
            .filter((v) => v.available)
            .map((v) => (
              <option key={v.value} value={v.value}>
                {v.label}
              </option>
            ))}
        </select>
      )}
    </div>
  )
}

function Lines({ lines, revisionId, working }: { lines: Line[]; revisionId: number; working: boolean }) {
  const scroller = useRef<HTMLDivElement>(null)
  const [open, setOpen] = useState<string | null>(null)
  const go = useNavigate()
  // eslint-disable-next-line react-hooks/incompatible-library -- nothing here is kept that would have to follow the window
  const rows = useVirtualizer({
    count: lines.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => 27,
    overscan: 20,
    getItemKey: (i) => lines[i]!.key,
  })
  return (
    <div
      ref={scroller}
      className={`min-h-0 flex-1 overflow-auto border-t hair ${working ? 'opacity-60 transition-opacity delay-300' : ''}`}
      role="table"
      aria-label={t('structures.lines')}
      aria-rowcount={lines.length}
      tabIndex={0}
    >
      <div style={{ height: rows.getTotalSize() }} className="relative">
        {rows.getVirtualItems().map((item) => {
          const l = lines[item.index]!
          const [mark, word] = states[l.state] ?? ['', l.state]
          return (
            <div
              key={item.key}
              ref={rows.measureElement}
              data-index={item.index}
              role="row"
              aria-rowindex={item.index + 1}
              className="absolute inset-x-0 border-b hair"
              style={{ transform: `translateY(${item.start}px)` }}
            >
              <div className={`flex items-center gap-3 py-0.5 hover:bg-base-200 ${l.state === 'out' ? 'quiet' : ''}`}>
                <span role="cell" className="w-24 shrink-0 whitespace-nowrap" title={word}>
                  <span className="inline-block w-5 text-center" aria-hidden>
                    {mark}
                  </span>
                  <span className="text-sm italic">{word}</span>
                </span>
                <span role="cell" className="flex min-w-0 flex-[3] items-center gap-2" style={{ paddingLeft: l.depth * 18 }}>
                  <button
                    className={`truncate text-left hover:text-primary ${l.kind === 'place' ? 'font-semibold' : ''}`}
                    aria-expanded={open === l.key}
                    onClick={() => setOpen(open === l.key ? null : l.key)}
                  >
                    {l.kind === 'operation' && <i className="quiet">{t('structures.op2')} </i>}
                    {l.name}
                  </button>
                  <span className="quiet truncate">{l.description}</span>
                </span>
                <span role="cell" className="min-w-0 flex-[1.5] truncate text-right font-mono text-sm" title={l.quantity}>
                  {l.kind === 'place' && l.quantity === '' ? '' : l.quantity}
                </span>
                <span role="cell" className="min-w-0 flex-[2] truncate font-mono text-sm" title={l.condition}>
                  {l.condition}
                </span>
              </div>
              {open === l.key && (
                <div className="pr-3 pb-1 pl-24">
                  {l.question && <p className="text-sm italic">{t('structures.itIsOneOfTheAnswers', { question: l.question })}</p>}
                  <Because
                    lead={
                      l.state === 'out'
                        ? (l.whyNot ?? t('structures.itIsNotThere'))
                        : l.whyNot
                          ? t('structures.asItStandsNowItIs', { whyNot: l.whyNot })
                          : l.condition
                            ? t('structures.itIsThereWhere')
                            : t('structures.itIsThereWithTheAssembly')
                    }
                    formula={l.state === 'out' || l.whyNot ? '' : l.condition}
                    because={l.because}
                    onRow={() => void go(`/workshop/${revisionId}?assembly=${l.assemblyId}&row=${l.rowId}`)}
                  />
                </div>
              )}
            </div>
          )
        })}
      </div>
    </div>
  )
}

function Building({ revisionId, head, site, date }: { revisionId: number; head: number; site: string | null; date: string | null }) {
  const go = useNavigate()
  const findings = useQuery({
    queryKey: ['buildable', revisionId, head, site, date],
    queryFn: ({ signal }) =>
      ask(
        client.GET('/api/revisions/{id}/buildable', {
          params: { path: { id: revisionId }, query: { site: site ?? undefined, date: date ?? undefined } },
          signal,
        }),
      ),
  })
  return (
    <div className="max-w-5xl">
      <p className="quiet mb-2">{site === null ? t('structures.everyLineThatCanAppearIn') : t('structures.everyLineThatCanAppearIn2')}</p>
      {findings.error && <p className="fault">{sentenceOf(findings.error)}</p>}
      {findings.data && (
        <Missing findings={findings.data} onRow={(assembly, row) => void go(`/workshop/${revisionId}?assembly=${assembly}&row=${row}`)} />
      )}
    </div>
  )
}
