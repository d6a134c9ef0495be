import { useQuery } from '@tanstack/react-query'
import { ask, client } from '../../api/client'

/** The latest review of a revision: nothing where its release was never asked for. */
export function useReview(revisionId: number | undefined) {
  const review = useQuery({
    queryKey: ['review', revisionId],
    queryFn: async ({ signal }) => (await ask(client.GET('/api/revisions/{id}/review', { params: { path: { id: revisionId! } }, signal }))) ?? null,
    enabled: revisionId !== undefined,
  })
  return review.data
}
