import { keepPreviousData, replaceEqualDeep, useQuery, useQueryClient } from '@tanstack/react-query'
import { useCallback, useEffect, useMemo, useRef, useState } from 'react'
import { askAnswer, withPart, type Answer, type Part } from '../../api/answer'
import { useStable } from '../../ui/useStable'
import type { Pick, Question } from '../../api/question'

type Questions = { past: Question[]; now: Question; future: Question[] }

export const nothingAsked: Question = { picks: [], site: null, date: null, customerClass: null }

/** Whether nobody picked it, but completion filled it in: it stands as a suggestion. */
export const isFilledIn = (p: Pick): boolean => p.filledIn != null

/** The picks of a person with what completion fills in beside them, in place of what it filled in before. */
export const withFillIns = (picks: Pick[], fillIns: Pick[]): Pick[] => {
  const own = picks.filter((p) => !isFilledIn(p))
  return [...own, ...fillIns.filter((f) => own.every((p) => p.path !== f.path))]
}

/** One more answer of a person; an attribute that was picked before keeps its place in the order. */
export function withPick(all: Pick[], path: string, value: string | null): Pick[] {
  const picks = all.filter((p) => !isFilledIn(p) || p.path !== path)
  if (value === null) return picks.filter((p) => p.path !== path)
  return picks.some((p) => p.path === path) ? picks.map((p) => (p.path === path ? { path, value } : p)) : [...picks, { path, value }]
}

const mostSteps = 200

const triedAs = (keptAs: string) => `${keptAs}.tried`

/** Lets a bench that is opened next start from a question; what was there before is one undo away. */
export const tryNext = (keptAs: string, question: Question): void => localStorage.setItem(triedAs(keptAs), JSON.stringify(question))

/** Where the picks of a revision's bench in the workshop are kept. */
export const benchKey = (revisionId: number): string => `juniperfall.picks.bench.${revisionId}`

/**
 * A question with its own undo, kept over a reload under a name; and the answer to it.
 * @param scope What its questions are told apart by from those of another bench on the same page.
 * @param setAside The ids of the rules that are set aside for a question; it is no part of what is kept.
 */
export function useBench(
  revisionId: number,
  head: number | undefined,
  keptAs: string,
  initial: Question = nothingAsked,
  scope = '',
  setAside?: (question: Question) => string[] | undefined,
) {
  const [asked, setAsked] = useState<Questions>(() => {
    const [kept, tried] = [keptQuestion(keptAs) ?? initial, keptQuestion(triedAs(keptAs))]
    return tried ? { past: [kept], now: tried, future: [] } : { past: [], now: kept, future: [] }
  })

  const queries = useQueryClient()
  useEffect(() => {
    localStorage.removeItem(triedAs(keptAs))
    localStorage.setItem(keptAs, JSON.stringify(asked.now))
  }, [keptAs, asked.now])

  const change = useCallback((to: (now: Question) => Question) => {
    setAsked((a) => ({ past: [...a.past, a.now].slice(-mostSteps), now: to(a.now), future: [] }))
  }, [])

  const changePicks = (to: (picks: Pick[]) => Pick[]) => change((now) => ({ ...now, picks: to(now.picks) }))
  const acts = useStable({
    pick: (path: string, value: string | null) => changePicks((now) => withPick(now, path, value)),
    pickAll: (changes: { path: string; value: string | null }[]) => changePicks((now) => changes.reduce((p, c) => withPick(p, c.path, c.value), now)),
    /** Fills in as suggestions, in place of what was filled in before; with nothing, drops that. */
    fillIn: (values: Pick[]) => changePicks((now) => withFillIns(now, values)),
    /** Another set of picks in one step. */
    change: changePicks,
    clear: () => changePicks(() => []),
    /** Asks for another site, day or customer class; the picks stay as they are. */
    askFor: (of: Partial<Omit<Question, 'picks'>>) => change((now) => ({ ...now, ...of })),
    undo: () => setAsked((a) => (a.past.length === 0 ? a : { past: a.past.slice(0, -1), now: a.past.at(-1)!, future: [a.now, ...a.future] })),
    redo: () => setAsked((a) => (a.future.length === 0 ? a : { past: [...a.past, a.now], now: a.future[0]!, future: a.future.slice(1) })),
  })

  const resting = setAside?.(asked.now)?.join(' ')
  const question = useMemo(
    () => (resting === undefined || resting === '' ? asked.now : { ...asked.now, setAside: resting.split(' ') }),
    [asked.now, resting],
  )
  const latest = useRef<Answer>(undefined)
  const [part, setPart] = useState<{ of: Question; part: Part } | null>(null)
  const answer = useQuery({
    queryKey: ['answer', revisionId, head, question],
    queryFn: async ({ signal }) => {
      const answer = await askAnswer(queries, revisionId, question, signal, (part) => setPart({ of: question, part }))
      // What a pick leaves as it was stays the same object, so that it is not drawn again.
      return (latest.current = replaceEqualDeep(latest.current, answer))
    },
    placeholderData: keepPreviousData,
    enabled: head !== undefined,
    staleTime: Infinity,
    gcTime: 60_000,
  })

  const working = answer.isPlaceholderData || answer.isPending
  // While the answer is worked out, what is known of it stands in that of the picks before.
  const shown = useMemo(
    () => (working && answer.data && part?.of === question ? withPart(answer.data, part.part) : answer.data),
    [working, answer.data, part, question],
  )

  return {
    scope,
    question,
    /** What a person picked. */
    picks: asked.now.picks.filter((p) => !isFilledIn(p)),
    /** What completion filled in beside it. */
    fillIns: asked.now.picks.filter(isFilledIn),
    answer: shown,
    error: answer.error,
    /** The answer shown is that of the picks before; the new one is on its way. */
    working,
    ...acts,
    canUndo: asked.past.length > 0,
    canRedo: asked.future.length > 0,
  }
}

export type Bench = ReturnType<typeof useBench>

/** A question that is kept under a name; null where there is none that can be read. */
export function keptQuestion(keptAs: string): Question | null {
  try {
    const kept = JSON.parse(localStorage.getItem(keptAs) ?? 'null') as Partial<Question> | null
    const text = (value: unknown) => (typeof value === 'string' && value !== '' ? value : null)
    return Array.isArray(kept?.picks) &&
      kept.picks.every((p) => typeof p?.path === 'string' && typeof p?.value === 'string' && (p.filledIn == null || typeof p.filledIn === 'string'))
      ? { picks: kept.picks, site: text(kept.site), date: text(kept.date), customerClass: text(kept.customerClass) }
      : null
  } catch {
    return null
  }
}
