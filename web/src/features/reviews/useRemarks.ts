import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { ask, client, type Schemas } from '../../api/client'
import { newId } from '../../api/ids'

export type Remark = Schemas['RemarkView']

/** The remarks on a revision, in the order they were made. */
export const useRemarks = (revisionId: number) =>
  useQuery({
    queryKey: ['remarks', revisionId],
    queryFn: ({ signal }) => ask(client.GET('/api/revisions/{id}/remarks', { params: { path: { id: revisionId } }, signal })),
  })

/** Writing, answering and closing them; every open page is told. */
export function useRemarkActs(revisionId: number) {
  const queries = useQueryClient()
  const path = { id: revisionId }
  const onSuccess = () => queries.invalidateQueries({ predicate: (q) => ['remarks', 'waiting', 'release'].includes(String(q.queryKey[0])) })
  const write = useMutation({
    mutationFn: ({ rowId, text }: { rowId: string; text: string }) =>
      ask(client.POST('/api/revisions/{id}/remarks', { params: { path }, body: { id: newId(), rowId, text } })),
    onSuccess,
  })
  const answer = useMutation({
    mutationFn: ({ remarkId, text }: { remarkId: string; text: string }) =>
      ask(client.POST('/api/revisions/{id}/remarks/{remarkId}/answers', { params: { path: { ...path, remarkId } }, body: { id: newId(), text } })),
    onSuccess,
  })
  const close = useMutation({
    mutationFn: ({ remarkId, close }: { remarkId: string; close: boolean }) =>
      ask(client.PUT('/api/revisions/{id}/remarks/{remarkId}/closed', { params: { path: { ...path, remarkId } }, body: { close } })),
    onSuccess,
  })
  return { write, answer, close }
}
