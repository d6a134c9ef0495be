import { useState } from 'react'
import { sentenceOf } from '../../api/client'
import { useRight } from '../../session/session'
import { moment } from '../../ui/format'
import { RevisionPage, useRevisionHere } from '../../ui/RevisionPage'
import { SearchField } from '../../ui/SearchField'
import { AcceptAlike } from './AcceptAlike'
import { CaseLine } from './CaseLine'
import { Coverage } from './Coverage'
import { casesInShort, useCases } from './useCases'
import { t } from '../../texts'

/** What has to come out of a product, and what does: each case with its first difference, and what all of them reach. */
export function CasesPage() {
  const here = useRevisionHere()
  const { revisionId } = here
  const [search, setSearch] = useState('')
  const [onlyFailing, setOnlyFailing] = useState(false)
  const mayEdit = useRight('edit')
  const mayRemark = useRight('remark')
  const cases = useCases(revisionId, here.revision.data?.head)
  const words = search.toLowerCase().split(/\s+/).filter(Boolean)
  const all = cases.data?.cases ?? []
  const shown = all.filter(
    (c) =>
      (!onlyFailing || (c.state !== null && c.state !== 'passed')) &&
      words.every((w) => `${c.name} ${c.picks.map((p) => `${p.label} ${p.valueLabel}`).join(' ')}`.toLowerCase().includes(w)),
  )
  return (
    <RevisionPage
      {...here}
      title={t('cases.testCases')}
      cells={[
        { label: t('cases.cases'), value: casesInShort(cases.data), room: 14 },
        { label: t('cases.changed'), value: here.revision.data ? moment(here.revision.data.changedAt) : '…' },
      ]}
    >
      {({ state, head, document: doc }) => (
        <>
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
              {mayEdit && state === 'draft' && !cases.data?.running && <AcceptAlike cases={all} revisionId={revisionId} />}
              {cases.data && all.length === 0 && <p className="quiet">{t('cases.thereAreNoneYet')}</p>}
              {all.length > 0 && shown.length === 0 && <p className="quiet">{onlyFailing ? t('cases.allPass') : t('cases.nothingFound')}</p>}
              <ul className="border-t hair">
                {shown.map((c) => (
                  <CaseLine key={c.id} one={c} revisionId={revisionId} mayEdit={mayEdit && state === 'draft'} />
                ))}
              </ul>
            </section>
            {mayRemark && <Coverage revisionId={revisionId} head={head} modelId={doc.id} mayEdit={mayEdit && state === 'draft'} />}
          </div>
        </>
      )}
    </RevisionPage>
  )
}
