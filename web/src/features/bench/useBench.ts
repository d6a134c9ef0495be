import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { useCallback, useEffect, useState } from 'react'
import { ask, client, type Schemas } from '../../api/client'

export type Pick = Schemas['PickRequest']
export type Answer = Schemas['AnswerView']

type Picks = { past: Pick[][]; now: Pick[]; future: Pick[][] }

/** One more answer of a person; an attribute that was picked before keeps its place in the order. */
export function withPick(picks: Pick[], path: string, value: string | null): Pick[] {
  if (value === null) return picks.filter((p) => p.path !== path)
  return picks.some((p) => p.path === path) ? picks.map((p) => (p.path === path ? { path, value } : p)) : [...picks, { path, value }]
}

const mostSteps = 200

/** Picks with their own undo, kept over a reload under a name; and the answer to them. */
export function useBench(revisionId: number, head: number | undefined, keptAs: string, initial: Pick[] = []) {
  const [picks, setPicks] = useState<Picks>(() => ({ past: [], now: read(keptAs) ?? initial, future: [] }))

  useEffect(() => {
    localStorage.setItem(keptAs, JSON.stringify(picks.now))
  }, [keptAs, picks.now])

  const change = useCallback((to: (now: Pick[]) => Pick[]) => {
    setPicks((p) => ({ past: [...p.past, p.now].slice(-mostSteps), now: to(p.now), future: [] }))
  }, [])

  const answer = useQuery({
    queryKey: ['answer', revisionId, head, picks.now],
    queryFn: ({ signal }) => ask(client.POST('/api/revisions/{id}/answer', { params: { path: { id: revisionId } }, body: { picks: picks.now }, signal })),
    placeholderData: keepPreviousData,
    enabled: head !== undefined,
    staleTime: Infinity,
    gcTime: 60_000,
  })

  return {
    picks: picks.now,
    answer: answer.data,
    error: answer.error,
    /** The answer shown is that of the picks before; the new one is on its way. */
    working: answer.isPlaceholderData || answer.isPending,
    pick: (path: string, value: string | null) => change((now) => withPick(now, path, value)),
    pickAll: (changes: { path: string; value: string | null }[]) => change((now) => changes.reduce((p, c) => withPick(p, c.path, c.value), now)),
    replace: (next: Pick[]) => change(() => next),
    undo: () => setPicks((p) => (p.past.length === 0 ? p : { past: p.past.slice(0, -1), now: p.past.at(-1)!, future: [p.now, ...p.future] })),
    redo: () => setPicks((p) => (p.future.length === 0 ? p : { past: [...p.past, p.now], now: p.future[0]!, future: p.future.slice(1) })),
    canUndo: picks.past.length > 0,
    canRedo: picks.future.length > 0,
  }
}

export type Bench = ReturnType<typeof useBench>

function read(keptAs: string): Pick[] | null {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(keptAs) ?? 'null')
    return Array.isArray(kept) && kept.every((p) => typeof p?.path === 'string' && typeof p?.value === 'string') ? kept : null
  } catch {
    return null
  }
}
