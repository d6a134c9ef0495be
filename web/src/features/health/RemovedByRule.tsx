import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { ask, client, sentenceOf } from '../../api/client'
import { today } from '../../ui/WhereFields'
import { CountText } from './CountCell'
import { t } from '../../texts'

/** On request: how many valid configurations a rule removes. */
export function RemovedByRule({ revisionId, head, rowId }: { revisionId: number; head: number; rowId: string }) {
  const [asked, setAsked] = useState(false)
  const removed = useQuery({
    queryKey: ['removed', revisionId, head, rowId],
    queryFn: ({ signal }) =>
      ask(
        client.POST('/api/revisions/{id}/rules/{rowId}/removed', { params: { path: { id: revisionId, rowId }, query: { date: today() } }, signal }),
      ),
    enabled: asked,
    staleTime: Infinity,
  })
  if (!asked)
    return (
      <button className="btn btn-ghost btn-sm" onClick={() => setAsked(true)}>
        {t('health.howManyDoesItRuleOut')}
      </button>
    )
  return (
    <p role="status" className="quiet text-sm">
      {removed.error ? (
        sentenceOf(removed.error)
      ) : !removed.data ? (
        t('health.countingWithAndWithoutIt')
      ) : removed.data.removed === null ? (
        <>
          {t('health.thereAreTooManyToCount')} <CountText count={removed.data.without} /> {t('health.withoutIt')}
        </>
      ) : removed.data.removed === '0' ? (
        <>
          {t('health.itRulesOutNoneThereAre')} <CountText count={removed.data.with} /> {t('health.eitherWay')}
        </>
      ) : (
        <>
          {t('health.itRulesOut')} <CountText count={{ number: removed.data.removed, exact: true }} /> {t('health.ofThe')}{' '}
          <CountText count={removed.data.without} /> {t('health.thatThereAreWithoutIt')}
        </>
      )}
    </p>
  )
}
