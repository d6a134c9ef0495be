import { useQuery } from '@tanstack/react-query'
import { ask, client, type Schemas } from '../../api/client'
import { grouped } from '../../ui/format'

const superscripts = '⁰¹²³⁴⁵⁶⁷⁸⁹'

/** A count as people read it: its digits, or of a very long one the first and how many there are. */
export function inWords(count: Schemas['CountView']): string {
  const digits = count.number
  const text = digits.length <= 9 ? grouped(digits) : `${digits[0]}.${digits[1]} × 10${[...String(digits.length - 1)].map((d) => superscripts[Number(d)]).join('')}`
  return count.exact ? text : digits === '0' ? 'not counted in time' : `more than ${text}`
}

/** How many valid configurations a revision has as it stands, and how many it had before the last edit. */
export function CountCell({ revisionId, head }: { revisionId: number; head: number }) {
  const count = useQuery({
    queryKey: ['count', revisionId, head],
    queryFn: ({ signal }) => ask(client.POST('/api/revisions/{id}/count', { params: { path: { id: revisionId } }, body: { picks: [] }, signal })),
    staleTime: Infinity,
    gcTime: 3_600_000,
  })
  if (!count.data) return <span className="quiet">{count.error ? 'not counted' : 'counting …'}</span>
  return <span title={count.data.exact ? grouped(count.data.number) : 'Counting took too long; there are at least so many'}>{inWords(count.data)}</span>
}
