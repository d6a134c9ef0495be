import { useQuery } from '@tanstack/react-query'
import { ask, client, type Schemas } from '../../api/client'
import type { Answer } from '../../api/answer'
import type { Pick, Question } from '../../api/question'
import type { Bench } from './useBench'

export type WhatIf = Schemas['WhatIfView']

/** The values that nobody picked, each as filled in: they stay where they can, and yield where they must. */
export function keptValues(answer: Answer, picks: Pick[]): Pick[] {
  const own = new Set(picks.map((p) => p.path))
  const values = answer.sections
    .flatMap((s) => s.asked)
    .flatMap((a): Pick[] =>
      a.several
        ? a.several.flatMap((m) => (m.state === 'suggested' && m.chosen !== null ? [{ path: m.path, value: m.chosen ? 'yes' : 'no' }] : []))
        : a.state === 'suggested' && a.value !== null
          ? [{ path: a.path, value: a.value }]
          : [],
    )
  return values.filter((v) => !own.has(v.path)).map((v) => ({ ...v, filledIn: 'kept' }))
}

/** Everything that stands on a bench: what was picked, and what is suggested beside it, to be kept. */
export const allThatStands = (bench: Bench): Pick[] =>
  bench.answer ? [...bench.picks, ...keptValues(bench.answer, bench.picks)] : bench.question.picks

/** What would be different with other picks. */
/** @param refill Whether what is still needed then is filled in, so that there is a price to tell. */
export function useWhatIf(revisionId: number, head: number | undefined, question: Question, then: Pick[], { isWanted = true, refill = false }) {
  return useQuery({
    queryKey: ['what-if', revisionId, head, question, then, refill],
    queryFn: ({ signal }) =>
      ask(client.POST('/api/revisions/{id}/what-if', { params: { path: { id: revisionId } }, body: { ...question, then, refill }, signal })),
    enabled: isWanted,
    staleTime: Infinity,
    gcTime: 60_000,
  })
}
