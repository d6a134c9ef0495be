import { Link } from 'react-router'
import { casesInShort, useCases } from './useCases'

/** How the test cases of a revision stand, as a link to them. */
export function CasesCell({ revisionId, head }: { revisionId: number; head: number | undefined }) {
  const cases = useCases(revisionId, head, true)
  return (
    <Link className={`link ${(cases.data?.failed ?? 0) > 0 ? 'fault font-semibold' : ''}`} to={`/workshop/${revisionId}/cases`}>
      {casesInShort(cases.data)}
    </Link>
  )
}
