import { useMutation, useQueryClient } from '@tanstack/react-query'
import { ask, client } from '../../api/client'

/** Moving what is saved to a revision: those that are named, or (null) all that stay the same. */
export function useMoveSaved(revisionId: number) {
  const queries = useQueryClient()
  const move = useMutation({
    mutationFn: (ids: string[] | null) =>
      ask(client.POST('/api/revisions/{id}/impact/move', { params: { path: { id: revisionId } }, body: { ids } })),
    onSuccess: () =>
      queries.invalidateQueries({
        predicate: (q) => ['impact', 'configurations', 'configuration', 'revisions'].includes(String(q.queryKey[0])),
      }),
  })
  return { move, moved: move.data }
}
