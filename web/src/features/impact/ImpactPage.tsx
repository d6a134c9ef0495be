import { useState } from 'react'
import { Link, useNavigate } from 'react-router'
import { ask, client, sentenceOf } from '../../api/client'
import { useRight } from '../../session/session'
import { benchKey, tryNext } from '../bench'
import { moment } from '../../ui/format'
import { RevisionPage, useRevisionHere } from '../../ui/RevisionPage'
import { SearchField } from '../../ui/SearchField'
import { ImpactGroups } from './ImpactGroups'
import { useMoveSaved } from './useMoveSaved'
import { impactInShort, kindsOfImpact, useImpact, type Impact, type ImpactEntry, type ImpactKind } from './useImpact'
import { t } from '../../texts'

/** What a revision makes of everything that is saved: what it breaks and changes, why, and by which edit. */
export function ImpactPage() {
  const here = useRevisionHere()
  const impact = useImpact(here.revisionId, here.revision.data?.head)
  return (
    <RevisionPage
      {...here}
      title={t('impact.whatItTouches')}
      cells={[
        { label: t('impact.asked'), value: impact.data ? t('impact.doneOfAll', { done: impact.data.done, all: impact.data.all }) : '…', room: 12 },
        { label: t('impact.impact'), value: impactInShort(impact.data), room: 20 },
      ]}
    >
      {({ state }) => (
        <>
          {state === 'released' && impact.data && <MoveSaved impact={impact.data} revisionId={here.revisionId} />}
          {impact.error && <p className="fault">{sentenceOf(impact.error)}</p>}
          {impact.data?.troubles.map((x) => (
            <p key={x} className="fault">
              {x}
            </p>
          ))}
          {impact.data && <Touched impact={impact.data} revisionId={here.revisionId} />}
        </>
      )}
    </RevisionPage>
  )
}

/** On a released revision: what is saved on earlier ones is moved to it. */
function MoveSaved({ impact, revisionId }: { impact: Impact; revisionId: number }) {
  const mayMove = useRight('configure')
  const { move, moved } = useMoveSaved(revisionId)
  const changing = impact.entries.filter((e) => e.kind === 'changes' && !e.isStructure)
  if (!mayMove) return null
  return (
    <div className="grid gap-1">
      <div className="flex flex-wrap gap-2">
        {impact.counts.same > 0 && (
          <button className="btn btn-primary btn-sm" disabled={move.isPending || impact.running} onClick={() => move.mutate(null)}>
            {t('impact.moveAllThatStay', { n: impact.counts.same })}
          </button>
        )}
        {changing.length > 0 && (
          <button className="btn btn-sm" disabled={move.isPending || impact.running} onClick={() => move.mutate(changing.map((e) => e.id))}>
            {t('impact.moveThoseThatChange', { n: changing.length })}
          </button>
        )}
      </div>
      {move.error && (
        <p role="alert" className="fault">
          {sentenceOf(move.error)}
        </p>
      )}
      {moved && (
        <p role="status">
          {t('impact.movedOn', { n: moved.moved })} {moved.left > 0 && t('impact.moreAreLeft', { n: moved.left })}
          {moved.notMoved.map((n) => (
            <span key={n.id} className="block">
              {n.name}: <span className="fault">{n.why}</span>
            </span>
          ))}
        </p>
      )}
    </div>
  )
}

function Touched({ impact, revisionId }: { impact: Impact; revisionId: number }) {
  const [search, setSearch] = useState('')
  const [kind, setKind] = useState<ImpactKind | null>(null)
  const [group, setGroup] = useState<string | null>(null)
  if (impact.entries.length === 0)
    return impact.running ? null : (
      <p className="quiet">{impact.all === 0 ? t('impact.nothingIsSavedYet') : t('impact.nothingIsTouched', { n: impact.all })}</p>
    )
  const words = search.toLowerCase().split(/\s+/).filter(Boolean)
  const shown = impact.entries.filter(
    (e) =>
      (kind === null || e.kind === kind) &&
      (group === null || e.group === group) &&
      words.every((w) => `${e.name} ${e.changedBy} ${e.productCode} ${e.because}`.toLowerCase().includes(w)),
  )
  const touched = impact.all - impact.counts.same
  return (
    <div className="grid items-start gap-6 xl:grid-cols-[minmax(0,1fr)_minmax(0,1.4fr)]">
      <section aria-label={t('impact.byWhat')}>
        <h2 className="font-semibold">{t('impact.byWhat')}</h2>
        <ImpactGroups impact={impact} revisionId={revisionId} chosen={group} onChoose={setGroup} />
      </section>
      <section aria-label={t('impact.whatIsTouched')}>
        <div className="mb-2 flex flex-wrap items-center gap-4">
          <SearchField label={t('impact.search')} value={search} onChange={setSearch} />
          <select
            className="select select-sm w-48"
            aria-label={t('impact.only')}
            value={kind ?? ''}
            onChange={(e) => setKind((e.target.value || null) as ImpactKind | null)}
          >
            <option value="">{t('impact.everythingTouched')}</option>
            {kindsOfImpact
              .filter(([k]) => impact.counts[k as keyof Impact['counts']] > 0)
              .map(([k, said]) => (
                <option key={k} value={k}>
                  {said} ({impact.counts[k as keyof Impact['counts']]})
                </option>
              ))}
          </select>
        </div>
        <ul className="border-t hair">
          {shown.map((e) => (
            <Entry key={e.id} entry={e} revisionId={revisionId} />
          ))}
        </ul>
        {shown.length === 0 && <p className="quiet">{t('impact.nothingFound')}</p>}
        {touched > impact.entries.length && !impact.running && (
          <p className="quiet mt-1">{t('impact.theFirst', { n: impact.entries.length, all: touched })}</p>
        )}
      </section>
    </div>
  )
}

const signs = { breaks: '✗', asksMore: '○', changes: '≠', mends: '✓', staysBroken: '✗', unknown: '…', same: '=' } as const

function Entry({ entry, revisionId }: { entry: ImpactEntry; revisionId: number }) {
  const [open, setOpen] = useState(false)
  const go = useNavigate()
  const said = kindsOfImpact.find(([k]) => k === entry.kind)?.[1] ?? ''
  const price = entry.changes.find((c) => c.of === 'price')

  async function tryIt() {
    const saved = await ask(client.GET('/api/configurations/{id}', { params: { path: { id: entry.id } } }))
    tryNext(benchKey(revisionId), { picks: saved.picks, site: saved.site, date: saved.date, customerClass: saved.customerClass })
    void go(`/workshop/${revisionId}`)
  }

  return (
    <li className="border-b hair py-1">
      <button
        className="grid w-full grid-cols-[1.25rem_minmax(0,1fr)_auto] gap-x-2 text-left hover:bg-base-200"
        aria-expanded={open}
        onClick={() => setOpen(!open)}
      >
        <span className={`text-center ${entry.kind === 'breaks' ? 'fault' : ''}`} role="img" aria-label={said}>
          {signs[entry.kind]}
        </span>
        <span>
          {entry.name} {entry.isStructure && <i className="quiet">{t('impact.asGenerated')}</i>}
        </span>
        <span className="quiet text-sm tabular-nums">{price ? t('impact.priceFromTo', { before: price.before, after: price.after }) : said}</span>
        {entry.because && <span className="col-start-2 col-end-4 text-sm">{entry.because}</span>}
      </button>
      {open && (
        <div className="mt-1 mb-2 ml-7 grid gap-2">
          <p className="quiet text-sm">
            {t('impact.savedOn', { code: entry.productCode, number: entry.revisionNumber, person: entry.changedBy, when: moment(entry.changedAt) })}
          </p>
          {entry.changes.length > 0 && (
            <table className="table-compact w-full text-sm">
              <tbody>
                {entry.changes.map((c, i) => (
                  <tr key={i} className="border-b hair">
                    <th className="py-0.5 pr-4 text-left font-normal">{c.subject}</th>
                    <td className="pr-2 text-right tabular-nums">
                      <del className="quiet">{c.before}</del>
                    </td>
                    <td className="pr-2 text-right tabular-nums">{c.after}</td>
                    <td className="quiet text-right tabular-nums">{c.by !== null && (c.by.startsWith('-') ? c.by.replace('-', '−') : `+${c.by}`)}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
          {entry.allChanges > entry.changes.length && <p className="quiet text-sm">{t('impact.changesInAll', { n: entry.allChanges })}</p>}
          <p className="flex gap-4 text-sm">
            {entry.isStructure ? (
              <Link className="link" to={`/structures/${entry.id}`}>
                {t('impact.seeTheStructure')}
              </Link>
            ) : (
              <>
                <Link className="link" to={`/configurations/${entry.id}`}>
                  {t('impact.seeTheConfiguration')}
                </Link>
                <button className="link" onClick={() => void tryIt()}>
                  {t('impact.tryItHere')}
                </button>
              </>
            )}
          </p>
        </div>
      )}
    </li>
  )
}
