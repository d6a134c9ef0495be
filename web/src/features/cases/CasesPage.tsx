import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useParams } from 'react-router'
import { ask, client, sentenceOf } from '../../api/client'
import { useRight } from '../../session/session'
import { inEnglish, moment } from '../../ui/format'
import { SearchField } from '../../ui/SearchField'
import { TitleBlock } from '../../ui/TitleBlock'
import { CaseLine } from './CaseLine'
import { Coverage } from './Coverage'
import { casesInShort, useCases } from './useCases'
import { t } from '../../texts'

/** What has to come out of a product, and what does: each case with its first difference, and what all of them reach. */
export function CasesPage() {
  const revisionId = Number(useParams().revisionId)
  const [search, setSearch] = useState('')
  const [onlyFailing, setOnlyFailing] = useState(false)
  const mayEdit = useRight('edit')
  const revision = useQuery({
    queryKey: ['revision', revisionId],
    queryFn: ({ signal }) => ask(client.GET('/api/revisions/{id}', { params: { path: { id: revisionId } }, signal })),
  })
  const cases = useCases(revisionId, revision.data?.head)
  if (revision.error) return <p className="p-8">{sentenceOf(revision.error)}</p>
  if (!revision.data) return <p className="quiet p-8">{t('cases.oneMoment')}</p>
  const doc = revision.data.document
  const isDraft = revision.data.state === 'draft'
  const words = search.toLowerCase().split(/\s+/).filter(Boolean)
  const all = cases.data?.cases ?? []
  const shown = all.filter(
    (c) =>
      (!onlyFailing || (c.state !== null && c.state !== 'passed')) &&
      words.every((w) => `${c.name} ${c.picks.map((p) => `${p.label} ${p.valueLabel}`).join(' ')}`.toLowerCase().includes(w)),
  )
  return (
    <div className="flex h-full flex-col gap-3 overflow-auto p-4">
      <TitleBlock
        title={t('cases.testCases')}
        sub={
          <Link className="link" to={`/workshop/${revisionId}`}>
            {inEnglish(doc.label) || doc.code}
          </Link>
        }
        cells={[
          { label: t('cases.revision'), value: `${revision.data.number} ${revision.data.state}` },
          { label: t('cases.cases'), value: casesInShort(cases.data), room: 14 },
          { label: t('cases.changed'), value: moment(revision.data.changedAt) },
        ]}
      />
      {cases.error && <p className="fault">{sentenceOf(cases.error)}</p>}
      {cases.data?.trouble && <p className="fault">{cases.data.trouble}</p>}
      {cases.data?.contradictions.map((c) => (
        <p key={c} className="fault">
          {c}
        </p>
      ))}
      <div className="grid items-start gap-6 xl:grid-cols-[minmax(0,1fr)_24rem]">
        <section aria-label={t('cases.testCases')}>
          <div className="mb-2 flex flex-wrap items-center gap-4">
            <SearchField label={t('cases.searchTestCases')} value={search} onChange={setSearch} />
            <label className="flex items-center gap-2">
              <input type="checkbox" className="checkbox checkbox-sm" checked={onlyFailing} onChange={(e) => setOnlyFailing(e.target.checked)} />
              {t('cases.onlyThoseThatDoNotPass')}
            </label>
          </div>
          {cases.data && all.length === 0 && <p className="quiet">{t('cases.thereAreNoneYet')}</p>}
          {all.length > 0 && shown.length === 0 && <p className="quiet">{onlyFailing ? t('cases.allPass') : t('cases.nothingFound')}</p>}
          <ul className="border-t hair">
            {shown.map((c) => (
              <CaseLine key={c.id} one={c} revisionId={revisionId} mayEdit={mayEdit && isDraft} />
            ))}
          </ul>
        </section>
        {mayEdit && <Coverage revisionId={revisionId} head={revision.data.head} modelId={doc.id} mayEdit={isDraft} />}
      </div>
    </div>
  )
}
