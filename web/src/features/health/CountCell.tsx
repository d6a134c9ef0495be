import { useQuery, useQueryClient } from '@tanstack/react-query'
import { ask, client, type Schemas } from '../../api/client'
import { grouped } from '../../ui/format'
import { t } from '../../texts'

type Count = Schemas['CountView']

/** A count as people read it: its digits, or of a very long one the first and how many there are. */
export function CountText({ count }: { count: Count }) {
  const digits = count.number
  if (!count.exact && digits === '0') return <>{t('health.notCountedInTime')}</>
  return (
    <span title={count.exact ? grouped(digits) : t('health.countingTookTooLongThereAre')}>
      {count.exact ? '' : t('health.over')}
      {digits.length <= 9 ? (
        grouped(digits)
      ) : (
        <>
          {digits[0]}.{digits[1]} × 10<sup>{digits.length - 1}</sup>
        </>
      )}
    </span>
  )
}

const keyOf = (revisionId: number, head: number) => ['count', revisionId, head]

/** How many valid configurations a revision has as it stands, and how many it had before the last edit. */
export function CountCell({ revisionId, head }: { revisionId: number; head: number }) {
  const queries = useQueryClient()
  const count = useQuery({
    queryKey: keyOf(revisionId, head),
    queryFn: ({ signal }) => ask(client.POST('/api/revisions/{id}/count', { params: { path: { id: revisionId } }, body: { picks: [] }, signal })),
    staleTime: Infinity,
    gcTime: 3_600_000,
  })
  // The latest count of an earlier state that is known, where it was another one.
  const before = queries
    .getQueriesData<Count>({ queryKey: ['count', revisionId] })
    .flatMap(([key, data]) => (data && Number(key[2]) < head ? [{ head: Number(key[2]), data }] : []))
    .sort((a, b) => b.head - a.head)[0]?.data
  if (!count.data) return <span className="quiet">{count.error ? t('health.notCounted') : t('health.counting')}</span>
  return (
    <>
      <CountText count={count.data} />
      {before && before.number !== count.data.number && (
        <span className="quiet text-sm">
          {' '}
          {t('health.before')} <CountText count={before} />
        </span>
      )}
    </>
  )
}
