import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { ask, client, type Schemas } from '../../api/client'
import { t } from '../../texts'

export type Concession = Schemas['ConcessionView']

/** How it stands with a concession, in words. */
export const stateOf = (c: Concession): string =>
  ({
    asked: t('concessions.askedFor'),
    holds: t('concessions.signed'),
    usedUp: t('concessions.usedUp'),
    ranOut: t('concessions.ranOut'),
    changedSince: t('concessions.changedSince'),
    refused: t('concessions.refused'),
    takenBack: t('concessions.takenBack'),
    withdrawn: t('concessions.withdrawn'),
  })[c.state]

/** The concessions of a configuration, the latest first. */
export const useConcessions = (configurationId: string | undefined) =>
  useQuery({
    queryKey: ['concessions', 'of', configurationId],
    queryFn: ({ signal }) => ask(client.GET('/api/configurations/{id}/concessions', { params: { path: { id: configurationId! } }, signal })),
    enabled: configurationId !== undefined,
    refetchInterval: 60_000,
  })

/** Something is done with concessions; all that tells of them is asked anew. */
export function useAct<T>(act: (given: T) => Promise<Concession>) {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: act,
    onSettled: () => queries.invalidateQueries({ predicate: (q) => ['concessions', 'concession', 'waiting'].includes(String(q.queryKey[0])) }),
  })
}
