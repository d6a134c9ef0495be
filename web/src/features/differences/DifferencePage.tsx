import { useQuery } from '@tanstack/react-query'
import { Link, useNavigate, useSearchParams } from 'react-router'
import { ask, client, sentenceOf, type Schemas } from '../../api/client'
import { benchKey, tryNext } from '../bench'
import { RevisionPage, useRevisionHere } from '../../ui/RevisionPage'
import { Waiting } from '../../ui/Waiting'
import { today } from '../../ui/WhereFields'
import { t } from '../../texts'

type Part = Schemas['PartChangeView']

const kinds = {
  added: { sign: '+', said: t('differences.added'), style: 'text-success' },
  removed: { sign: '−', said: t('differences.removed'), style: 'fault' },
  changed: { sign: '≠', said: t('differences.changed'), style: '' },
  moved: { sign: '↕', said: t('differences.moved'), style: 'quiet' },
} as const

/**
 * What a revision changes, as far as it is known.
 * @param from Against which other one; the one released before where none is named.
 */
export const useDifference = (revisionId: number, head: number | undefined, from?: number) =>
  useQuery({
    queryKey: ['difference', revisionId, head, from],
    queryFn: ({ signal }) =>
      ask(client.GET('/api/revisions/{id}/difference', { params: { path: { id: revisionId }, query: { ...(from && { from }) } }, signal })),
    enabled: head !== undefined,
  })

/** How many parts of the model are not as they were. */
export const changesOf = (difference: Schemas['DifferenceView'] | undefined) => difference?.sheets.reduce((n, s) => n + s.changes.length, 0) ?? 0

/** What a revision changes against the one released before, part by part, and what that means. */
export function DifferencePage() {
  const here = useRevisionHere()
  const head = here.revision.data?.head
  const [query] = useSearchParams()
  const from = Number(query.get('from')) || undefined
  const difference = useDifference(here.revisionId, head, from)
  return (
    <RevisionPage
      {...here}
      title={t('differences.whatItChanges')}
      cells={[
        {
          label: t('differences.against'),
          value: difference.data?.from ? t('differences.revisionReleased', { number: difference.data.from }) : '…',
        },
        { label: t('differences.changes'), value: difference.data ? String(changesOf(difference.data)) : '…' },
      ]}
    >
      {() => (
        <>
          {difference.error && <p className="fault">{sentenceOf(difference.error)}</p>}
          {difference.data && <Difference difference={difference.data} revisionId={here.revisionId} head={head!} />}
        </>
      )}
    </RevisionPage>
  )
}

type DifferenceOf = { difference: Schemas['DifferenceView']; revisionId: number; head: number }

/** The net list by worksheet, and what it means. */
export function Difference({ difference, revisionId, head }: DifferenceOf) {
  const isFirst = difference.from === null
  const count = changesOf(difference)
  const meaning = useQuery({
    queryKey: ['meaning', revisionId, head, difference.fromId],
    queryFn: ({ signal }) =>
      ask(
        client.GET('/api/revisions/{id}/difference/meaning', {
          params: { path: { id: revisionId }, query: { date: today(), ...(difference.fromId && { from: difference.fromId }) } },
          signal,
        }),
      ),
    enabled: !isFirst && count > 0,
    staleTime: Infinity,
  })
  if (isFirst) return <p className="quiet">{t('differences.nothingWasReleasedBefore')}</p>
  if (count === 0) return <p className="quiet">{t('differences.nothingIsDifferent')}</p>
  return (
    <div className="grid items-start gap-6 xl:grid-cols-2">
      <div>
        {difference.sheets.map((s) => (
          <section key={s.id} aria-label={s.name} className="mb-5">
            <h2 className="border-b hair pb-0.5 font-semibold">{s.isList ? t('differences.valueList', { name: s.name }) : s.name}</h2>
            <ul>
              {s.changes.map((c) => (
                <Changed key={c.kind + c.id} change={c} sheet={s} revisionId={revisionId} />
              ))}
            </ul>
          </section>
        ))}
      </div>
      <section aria-label={t('differences.whatItMeans')} className="border hair p-3">
        <h2 className="font-semibold">{t('differences.whatItMeans')}</h2>
        {meaning.isPending && <Waiting />}
        {meaning.error && <p className="fault">{sentenceOf(meaning.error)}</p>}
        {meaning.data && <Meaning meaning={meaning.data} from={difference.from!} fromId={difference.fromId!} revisionId={revisionId} />}
      </section>
    </div>
  )
}

function Changed({ change, sheet, revisionId }: { change: Part; sheet: Schemas['SheetChangesView']; revisionId: number }) {
  const kind = kinds[change.kind]
  const place = sheet.isList
    ? `/workshop/${revisionId}?list=${encodeURIComponent(sheet.id)}`
    : `/workshop/${revisionId}?assembly=${encodeURIComponent(sheet.id)}&row=${encodeURIComponent(change.rowId)}`
  return (
    <li className="grid grid-cols-[1.25rem_minmax(0,1fr)] gap-x-2 border-b hair py-1">
      <span className={`text-center ${kind.style}`} role="img" aria-label={kind.said}>
        {kind.sign}
      </span>
      <span>
        {change.kind === 'removed' || sheet.id === '' ? (
          change.name
        ) : (
          <Link className="link" to={place}>
            {change.name}
          </Link>
        )}{' '}
        {change.kind !== 'changed' && <i className="quiet">{kind.said}</i>}
      </span>
      {change.fields.length > 0 && (
        <dl className="col-start-2 grid gap-0.5 text-sm">
          {change.fields.map((f) => (
            <div key={f.field} className="flex flex-wrap gap-x-2">
              <dt className="quiet">{f.field}</dt>
              <dd className="min-w-0 break-words">
                <del className="quiet">{f.before || t('differences.nothing')}</del> → {f.after || t('differences.nothing')}
              </dd>
            </div>
          ))}
        </dl>
      )}
    </li>
  )
}

function Meaning({ meaning, from, fromId, revisionId }: { meaning: Schemas['MeaningView']; from: number; fromId: number; revisionId: number }) {
  return (
    <div className="mt-2 grid gap-4">
      <OnlyIn
        found={meaning.lost}
        is={t('differences.isRuledOutNow', { from })}
        isNot={t('differences.nothingIsRuledOut', { from })}
        unknown={t('differences.nothingFoundThatIsRuledOut', { from })}
        triedOn={fromId}
      />
      <OnlyIn
        found={meaning.gained}
        is={t('differences.isPossibleNow', { from })}
        isNot={t('differences.nothingNewIsPossible', { from })}
        unknown={t('differences.nothingFoundThatIsNew', { from })}
        triedOn={revisionId}
      />
      {meaning.values.length > 0 && (
        <div>
          <h3 className="font-semibold">{t('differences.valuesThatCanBeHad')}</h3>
          <ul className="text-sm">
            {meaning.values.map((v) => (
              <li key={v.label} className="border-b hair py-0.5">
                {v.label}: <del className="quiet">{v.before || t('differences.nothing')}</del> → {v.after || t('differences.nothing')}
              </li>
            ))}
          </ul>
        </div>
      )}
      <div>
        <h3 className="font-semibold">{t('differences.theSuggestedConfiguration')}</h3>
        {meaning.suggested.length === 0 && <p className="quiet text-sm">{t('differences.comesOutAsBefore')}</p>}
        <ul className="max-h-96 overflow-auto text-sm">
          {meaning.suggested.map((c) => (
            <li key={c.kind + c.name} className="border-b hair py-0.5">
              {c.name}: <del className="quiet">{c.before || t('differences.notThere')}</del> → {c.after || t('differences.notThere')}
            </li>
          ))}
        </ul>
      </div>
    </div>
  )
}

type OnlyInOf = { found: Schemas['AllowedByOneView']; is: string; isNot: string; unknown: string; triedOn: number }

/** Whether one of the two allows something that the other does not, with the example to try. */
function OnlyIn({ found, is, isNot, unknown, triedOn }: OnlyInOf) {
  const go = useNavigate()
  const example = found.example
  if (example === null) return <p>{found.isProven ? isNot : unknown}</p>
  return (
    <details>
      <summary className="cursor-pointer">
        {is} {found.because && <i>{t('differences.because', { rule: found.because })}</i>}
      </summary>
      <ul className="mt-1 grid max-h-64 gap-x-6 overflow-auto text-sm sm:grid-cols-2">
        {example.map((p) => (
          <li key={p.path} className="flex justify-between gap-2 border-b hair py-px">
            <span className="quiet">{p.label}</span>
            <span className="text-right">{p.valueLabel}</span>
          </li>
        ))}
      </ul>
      <button
        className="link mt-1 text-sm"
        onClick={() => {
          tryNext(benchKey(triedOn), {
            picks: example.map((p) => ({ path: p.path, value: p.value })),
            site: null,
            date: today(),
            customerClass: null,
          })
          void go(`/workshop/${triedOn}`)
        }}
      >
        {t('differences.tryItOnTheBench')}
      </button>
    </details>
  )
}
