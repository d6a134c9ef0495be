import { useQuery } from '@tanstack/react-query'
import { Link } from 'react-router'
import { ask, client, type Schemas } from '../../api/client'
import { moment } from '../../ui/format'
import { t } from '../../texts'

type Waiting = Schemas['WaitingView']

const says: Record<string, (w: Waiting) => string> = {
  release: () => t('reviews.waitsForRelease'),
  sentBack: () => t('reviews.hasComeBack'),
  remarks: (w) => t('reviews.remarksAreOpen', { count: Number(w.count) }),
  concession: () => t('reviews.concessionIsAskedFor'),
  answered: (w) => t('reviews.yourRemarksAreAnswered', { count: Number(w.count) }),
}

/** What waits for whoever is signed in, the longest waiting first. */
export function WaitingForMe() {
  const waiting = useQuery({ queryKey: ['waiting'], queryFn: ({ signal }) => ask(client.GET('/api/waiting', { signal })), refetchInterval: 60_000 })
  if (!waiting.data || waiting.data.length === 0) return null
  return (
    <section aria-label={t('reviews.waitingForYou')}>
      <p className="quiet border-b hair text-sm italic">{t('reviews.waitingForYou')}</p>
      {waiting.data.map((w) => (
        <p key={w.kind + w.revisionId + w.id} className="flex items-baseline gap-3 border-b hair py-1.5">
          <Link className="link shrink-0" to={w.kind === 'concession' ? `/concessions/${w.id}` : `/workshop/${w.revisionId}/review`}>
            {t('products.productCodeRevisionNumber', { productCode: w.productCode, number: w.number })}
          </Link>
          <span className="min-w-0 flex-1 truncate" title={w.text}>
            {says[w.kind]?.(w)}
            {w.text && <i className="quiet">: {w.text}</i>}
          </span>
          <span className="quiet whitespace-nowrap">
            {w.by}, {moment(w.at)}
          </span>
        </p>
      ))}
    </section>
  )
}
