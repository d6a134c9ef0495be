import { useQuery } from '@tanstack/react-query'
import { type ReactNode } from 'react'
import { Link } from 'react-router'
import { ask, client, sentenceOf, type Schemas } from '../../api/client'
import { useRight } from '../../session/session'
import { casesInShort, Coverage, useCases } from '../cases'
import { changesOf, Difference, useDifference } from '../differences'
import { useHealth } from '../health'
import { ImpactGroups, impactInShort, useImpact } from '../impact'
import { RevisionPage, useRevisionHere, type RevisionHere } from '../../ui/RevisionPage'
import { Waiting } from '../../ui/Waiting'
import { Remarks } from './Remarks'
import { ReviewLine } from './ReviewLine'
import { useRemarks } from './useRemarks'
import { useReview } from './useReview'
import { t } from '../../texts'

/** All that an approver has to know before a release, on one page: a summary that is read in a minute, and below it what it is made of. */
export function ReviewPage() {
  const here = useRevisionHere()
  const mayRelease = useRight('release')
  return (
    <RevisionPage
      {...here}
      title={t('reviews.review')}
      cells={[{ label: t('reviews.author'), value: here.revision.data?.author ?? '…' }]}
      actions={
        <Link className="btn btn-primary" to={`/workshop/${here.revisionId}?release`}>
          {mayRelease ? t('reviews.decide') : t('reviews.askForRelease')}
        </Link>
      }
    >
      {(revision) => <Review revision={revision} />}
    </RevisionPage>
  )
}

function Review({ revision }: { revision: RevisionHere }) {
  const { id, head } = revision
  const review = useReview(id)
  const difference = useDifference(id, head)
  const impact = useImpact(id, head)
  const health = useHealth(id, head)
  const cases = useCases(id, head)
  const remarks = useRemarks(id)
  const mayRemark = useRight('remark')
  const release = useQuery({
    queryKey: ['release', id, head],
    queryFn: ({ signal }) => ask(client.GET('/api/revisions/{id}/release', { params: { path: { id } }, signal })),
    refetchInterval: (query) => (query.state.data?.pending ? 1_500 : false),
  })
  const ready = useBuildable(id, head, revision.sites)
  const findings = (health.data?.findings ?? []).filter((f) => f.accepted === null && f.weight !== 'note')
  const failing = (cases.data?.cases ?? []).filter((c) => c.state !== null && c.state !== 'passed')
  const open = (remarks.data ?? []).filter((r) => r.closedAt === null)
  const notBuildable = ready.filter((s) => s.errors > 0)
  return (
    <>
      {review && <ReviewLine review={review} />}
      <section aria-label={t('reviews.inShort')} className="border hair">
        <dl className="grid gap-x-6 gap-y-2 p-3 sm:grid-cols-[10rem_minmax(0,1fr)]">
          <InShort name={t('reviews.againstTheRelease')} bad={release.data && !release.data.ready}>
            {!release.data ? '…' : release.data.ready ? t('reviews.nothing') : <Against check={release.data} />}
          </InShort>
          <InShort name={t('reviews.whatItChanges')}>
            <a className="link" href="#difference">
              {!difference.data
                ? '…'
                : difference.data.from === null
                  ? t('reviews.firstRevision')
                  : t('reviews.partsChanged', { count: changesOf(difference.data) })}
            </a>
          </InShort>
          <InShort name={t('reviews.whatItTouches')} bad={(impact.data?.counts.breaks ?? 0) > 0}>
            <a className="link" href="#impact">
              {impactInShort(impact.data)}
            </a>
          </InShort>
          <InShort name={t('reviews.health')} bad={findings.some((f) => f.weight === 'error')}>
            <a className="link" href="#health">
              {!health.data || health.data.running
                ? '…'
                : findings.length === 0
                  ? t('reviews.nothingFound')
                  : t('reviews.found', { count: findings.length })}
            </a>
          </InShort>
          <InShort name={t('reviews.testCases')} bad={(cases.data?.failed ?? 0) > 0}>
            <a className="link" href="#cases">
              {casesInShort(cases.data)}
            </a>
          </InShort>
          <InShort name={t('reviews.buildable')} bad={notBuildable.length > 0}>
            <a className="link" href="#buildable">
              {ready.length < revision.sites.length
                ? '…'
                : notBuildable.length === 0
                  ? t('reviews.atAllSites', { n: ready.length })
                  : t('reviews.notAt', { sites: notBuildable.map((s) => s.label).join(', ') })}
            </a>
          </InShort>
          <InShort name={t('reviews.remarks')} bad={open.length > 0}>
            <a className="link" href="#remarks">
              {open.length === 0 ? t('reviews.noneOpen') : t('reviews.nOpen', { n: open.length })}
            </a>
          </InShort>
        </dl>
      </section>
      <Part id="remarks" title={t('reviews.remarks')}>
        <div className="max-w-3xl">
          <Remarks revisionId={id} rowId={null} />
        </div>
      </Part>
      <Part id="difference" title={t('reviews.whatItChanges')} to={`/workshop/${id}/difference`}>
        {difference.error && <p className="fault">{sentenceOf(difference.error)}</p>}
        {!difference.data ? <Waiting /> : <Difference difference={difference.data} revisionId={id} head={head} />}
      </Part>
      <Part id="impact" title={t('reviews.whatItTouches')} to={`/workshop/${id}/impact`}>
        {impact.data?.troubles.map((x) => (
          <p key={x} className="fault">
            {x}
          </p>
        ))}
        {impact.data && impact.data.groups.length > 0 ? (
          <ImpactGroups impact={impact.data} revisionId={id} chosen={null} />
        ) : (
          <p className="quiet">{impactInShort(impact.data)}</p>
        )}
      </Part>
      <Part id="health" title={t('reviews.health')} to={`/workshop/${id}/health`}>
        <ul>
          {findings.map((f) => (
            <li key={f.key} className={`border-b hair py-0.5 ${f.weight === 'error' ? 'fault' : ''}`}>
              {f.sentence}
            </li>
          ))}
        </ul>
        {findings.length === 0 && <p className="quiet">{health.data && !health.data.running ? t('reviews.nothingFound') : '…'}</p>}
        {health.data?.unfinished.map((u) => (
          <p key={u} className="quiet italic">
            {u}
          </p>
        ))}
      </Part>
      <Part id="cases" title={t('reviews.testCases')} to={`/workshop/${id}/cases`}>
        <p>{casesInShort(cases.data)}</p>
        <ul>
          {failing.map((c) => (
            <li key={c.id} className="border-b hair py-0.5">
              {c.name}: <span className="fault">{c.first}</span>
            </li>
          ))}
        </ul>
        {mayRemark && (cases.data?.cases.length ?? 0) > 0 && <Coverage revisionId={id} head={head} modelId={revision.document.id} mayEdit={false} />}
      </Part>
      <Part id="buildable" title={t('reviews.buildable')} to={`/workshop/${id}/structure`}>
        <ul>
          {ready.map((s) => (
            <li key={s.code} className="border-b hair py-0.5">
              {s.label}: {s.errors === 0 ? t('reviews.everythingIsThere') : <span className="fault">{s.first}</span>}
              {s.errors > 1 && <span className="quiet"> {t('reviews.andNMore', { n: s.errors - 1 })}</span>}
            </li>
          ))}
        </ul>
      </Part>
    </>
  )
}

/** What is missing at each site, as far as it is known. */
function useBuildable(id: number, head: number, sites: RevisionHere['sites']) {
  const checks = useQuery({
    queryKey: ['buildableEverywhere', id, head],
    queryFn: async ({ signal }) => {
      const found = []
      for (const site of sites) {
        const problems = await ask(client.GET('/api/revisions/{id}/buildable', { params: { path: { id }, query: { site: site.code } }, signal }))
        const errors = problems.filter((p) => p.severity === 'error')
        found.push({ ...site, errors: errors.length, first: errors[0]?.sentence ?? '' })
      }
      return found
    },
    staleTime: Infinity,
  })
  return checks.data ?? []
}

function InShort({ name, bad, children }: { name: string; bad?: boolean | undefined; children: ReactNode }) {
  return (
    <>
      <dt className="quiet">{name}</dt>
      <dd className={bad ? 'fault font-semibold' : ''}>{children}</dd>
    </>
  )
}

function Against({ check }: { check: Schemas['ReleaseCheck'] }) {
  const said = [...check.problems, ...check.findings.map((f) => f.message)]
  return <>{said.slice(0, 3).join(' ') + (said.length > 3 ? ` ${t('reviews.andNMore', { n: said.length - 3 })}` : '')}</>
}

function Part({ id, title, to, children }: { id: string; title: string; to?: string; children: ReactNode }) {
  return (
    <section id={id} aria-label={title} className="mt-3">
      <h2 className="mb-1 border-b hair pb-0.5 text-lg font-semibold">
        {to ? (
          <Link className="hover:underline" to={to}>
            {title}
          </Link>
        ) : (
          title
        )}
      </h2>
      {children}
    </section>
  )
}
