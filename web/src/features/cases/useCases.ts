import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { ask, client, type Schemas } from '../../api/client'
import { t } from '../../texts'

export type Cases = Schemas['CasesView']
export type Case = Schemas['CaseView']
export type Expected = Schemas['CaseExpectationView']
export type Fact = Schemas['CaseFactView']
type Steps = Schemas['ModelEdit']['steps']

const pollEvery = 700

/** The test cases of a revision as it stands; while they are asked after an edit, those that are known come first. */
export const useCases = (revisionId: number, head: number | undefined, counts = false) =>
  useQuery({
    queryKey: ['cases', revisionId, head, counts],
    queryFn: ({ signal }) => ask(client.GET('/api/revisions/{id}/cases', { params: { path: { id: revisionId }, query: { counts } }, signal })),
    enabled: head !== undefined,
    placeholderData: keepPreviousData,
    refetchInterval: (query) => (query.state.data?.running ? pollEvery : false),
    staleTime: Infinity,
  })

/** Cases are edited as rows are: stored at once, told to every open page, undone by their edit. */
export function useCaseEdits(revisionId: number) {
  const queries = useQueryClient()
  const again = () =>
    Promise.all([
      queries.invalidateQueries({ queryKey: ['revision', revisionId] }),
      queries.invalidateQueries({ queryKey: ['cases', revisionId] }),
      queries.invalidateQueries({ queryKey: ['caseCoverage', revisionId] }),
      queries.invalidateQueries({ queryKey: ['history', revisionId] }),
    ])
  const edit = useMutation({
    mutationFn: async (steps: Steps) => {
      const id = crypto.randomUUID()
      await ask(client.POST('/api/revisions/{id}/edits', { params: { path: { id: revisionId } }, body: { id, steps } }))
      await again()
      return id
    },
  })
  const undo = useMutation({
    mutationFn: async (of: string) => {
      await ask(client.POST('/api/revisions/{id}/undo', { params: { path: { id: revisionId } }, body: { id: crypto.randomUUID(), of } }))
      await again()
    },
  })
  return { edit, undo }
}

/** How the cases stand, in a few words. */
export function casesInShort(cases: Cases | undefined): string {
  if (!cases) return '…'
  const { passed, failed, open, all } = cases
  if (all === 0) return t('cases.none')
  if (failed > 0) return t('cases.failOf', { failed, all })
  return open > 0 && cases.running ? t('cases.passedSoFar', { passed, all }) : t('cases.passOf', { passed, all })
}
