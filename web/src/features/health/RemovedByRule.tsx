import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { ask, client, sentenceOf } from '../../api/client'
import { today } from '../bench/WhereAndWhen'
import { CountText } from './CountCell'

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
      <button className="act-bare" onClick={() => setAsked(true)}>
        How many does it rule out?
      </button>
    )
  return (
    <p role="status" className="quiet text-sm">
      {removed.error ? (
        sentenceOf(removed.error)
      ) : !removed.data ? (
        'Counting with and without it …'
      ) : removed.data.removed === null ? (
        <>
          There are too many to count in time: <CountText count={removed.data.without} /> without it.
        </>
      ) : removed.data.removed === '0' ? (
        <>
          It rules out none: there are <CountText count={removed.data.with} /> either way.
        </>
      ) : (
        <>
          It rules out <CountText count={{ number: removed.data.removed, exact: true }} /> of the <CountText count={removed.data.without} /> that
          there are without it.
        </>
      )}
    </p>
  )
}
