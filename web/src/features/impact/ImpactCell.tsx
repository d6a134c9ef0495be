import { Link } from 'react-router'
import { impactInShort, useImpact } from './useImpact'

/** What a draft does to what is saved, as a link to it. */
export function ImpactCell({ revisionId, head }: { revisionId: number; head: number | undefined }) {
  const impact = useImpact(revisionId, head, true)
  return (
    <Link className={`link ${(impact.data?.counts.breaks ?? 0) > 0 ? 'fault font-semibold' : ''}`} to={`/workshop/${revisionId}/impact`}>
      {impactInShort(impact.data)}
    </Link>
  )
}
