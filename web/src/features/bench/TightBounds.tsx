import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { ask, client, sentenceOf } from '../../api/client'
import type { Bench } from './useBench'
import { t } from '../../texts'

/** The bounds beside an open number are never too narrow, but may be too wide; how far it really goes is worked out when asked for. */
export function TightBounds({ revisionId, bench, path }: { revisionId: number; bench: Bench; path: string }) {
  const [asked, setAsked] = useState(false)
  const bounds = useQuery({
    queryKey: ['bounds', revisionId, bench.answer?.head, bench.question, path],
    queryFn: ({ signal }) =>
      ask(client.POST('/api/revisions/{id}/bounds', { params: { path: { id: revisionId } }, body: { ...bench.question, path }, signal })),
    enabled: asked,
    staleTime: Infinity,
  })
  if (!asked)
    return (
      <button className="link mb-1 text-sm" onClick={() => setAsked(true)}>
        {t('bench.howFarCanItReallyGo')}
      </button>
    )
  if (bounds.error) return <p className="fault text-sm">{sentenceOf(bounds.error)}</p>
  if (!bounds.data) return <p className="quiet text-sm">{t('bench.workingItOut')}</p>
  const { text, mayHaveNoValue, finished } = bounds.data
  return (
    <p className="mb-1 text-sm" role="status">
      {finished ? t('bench.exactly') : t('bench.timeRanOutAtLeast')}
      <b>{text}</b>
      {finished ? t('bench.overAllThatCanStillBe') : ''}
      {finished && mayHaveNoValue ? t('bench.orItDoesNotApply') : '.'}
    </p>
  )
}
