import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useCallback, useEffect, useRef, useState } from 'react'
import { toast } from 'sonner'
import { ask, client, isPassing, ProblemError, type Problem, type Schemas } from '../../api/client'
import { newId } from '../../api/ids'
import type { Step } from './model'
import { afterEdit } from './since'
import type { Present } from './usePresence'
import { t } from '../../texts'

type Task = { id: string; do: 'edit' | 'undo' | 'redo'; steps: Step[]; of?: string | undefined }

/** An edit that was not stored, with what was wanted. */
export type Refusal = { task: Task; problem: Problem }

export type Stored = { state: 'stored'; at: Date | null } | { state: 'storing' } | { state: 'waiting'; edits: number }

const keyOf = (revisionId: number) => `juniperfall.edits.${revisionId}`

/** The highest number of a rule that is still on its way to be stored: the next one is beyond it. */
export const highestOnItsWay = (revisionId: number): number =>
  Math.max(
    0,
    ...pending(revisionId)
      .flatMap((t) => t.steps)
      .flatMap((s) => (s.do === 'add' && typeof s.row === 'object' && s.row !== null && 'number' in s.row ? [Number(s.row.number)] : [])),
  )

function pending(revisionId: number): Task[] {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(keyOf(revisionId)) ?? '[]')
    return Array.isArray(kept) ? (kept as Task[]) : []
  } catch {
    return []
  }
}

/** Answers can overtake one another: an edit's answer and what is read again after an edit of someone else. */
const newer = (known: Schemas['RevisionView'] | undefined, read: Schemas['RevisionView']) => (known && known.head > read.head ? known : read)

/** Someone else has made the very same edit meanwhile: nothing is left to tell. */
const isThereAlready = (task: Task, problem: Problem) =>
  problem.fault === 'changed' &&
  task.steps.length === 1 &&
  task.steps[0]!.do === 'set' &&
  JSON.stringify(task.steps[0]!.value ?? null) === JSON.stringify(problem.current ?? null)

/**
 * A revision and the edits on their way to it. Edits go out one after the other, each under an id of its own; they are
 * kept in the browser until the server has them, are tried again while it cannot be reached, and outlast a reload.
 */
export function useModel(revisionId: number) {
  const queries = useQueryClient()
  const [stored, setStored] = useState<Stored>({ state: 'stored', at: null })
  const [refusals, setRefusals] = useState<Refusal[]>([])
  const [here, setHere] = useState<Present[]>([])
  const [held, setHeld] = useState<Record<string, number>>({})
  const queue = useRef<Task[]>(pending(revisionId))
  const running = useRef(false)
  const wake = useRef<() => void>(() => undefined)

  const revision = useQuery({
    queryKey: ['revision', revisionId],
    queryFn: async ({ signal }) => {
      const read = await ask(client.GET('/api/revisions/{id}', { params: { path: { id: revisionId } }, signal }))
      return newer(queries.getQueryData<Schemas['RevisionView']>(['revision', revisionId]), read)
    },
  })

  const keep = useCallback(() => {
    if (queue.current.length === 0) localStorage.removeItem(keyOf(revisionId))
    else localStorage.setItem(keyOf(revisionId), JSON.stringify(queue.current))
  }, [revisionId])

  const send = useCallback(
    (task: Task): Promise<Schemas['EditAnswer']> => {
      const params = { path: { id: revisionId } }
      if (task.do === 'edit') return ask(client.POST('/api/revisions/{id}/edits', { params, body: { id: task.id, steps: task.steps } }))
      const body = { id: task.id, of: task.of ?? null }
      return ask(
        task.do === 'undo' ? client.POST('/api/revisions/{id}/undo', { params, body }) : client.POST('/api/revisions/{id}/redo', { params, body }),
      )
    },
    [revisionId],
  )

  /** Puts what an edit has changed into the revision shown; where it was not known as it stood before, it is read again. */
  const take = useCallback(
    (answer: Schemas['EditAnswer']) => {
      const key = ['revision', revisionId]
      const now = queries.getQueryData<Schemas['RevisionView']>(key)
      if (now && now.head >= answer.sequence) return
      const document = now && answer.document && now.head === answer.from ? afterEdit(now.document, answer.document) : null
      if (now && document && answer.findings)
        queries.setQueryData<Schemas['RevisionView']>(key, {
          ...now,
          head: answer.sequence,
          changedAt: answer.changedAt,
          document,
          findings: answer.findings,
        })
      else void queries.invalidateQueries({ queryKey: key })
    },
    [queries, revisionId],
  )

  const run = useCallback(async () => {
    if (running.current) return
    running.current = true
    let wait = 500
    while (queue.current.length > 0) {
      const task = queue.current[0]!
      setStored((s) => (s.state === 'waiting' ? { state: 'waiting', edits: queue.current.length } : { state: 'storing' }))
      try {
        const answer = await send(task)
        take(answer)
        void queries.invalidateQueries({ queryKey: ['history', revisionId] })
        setStored({ state: 'stored', at: new Date() })
        wait = 500
      } catch (e) {
        if (isPassing(e) || (e instanceof ProblemError && e.problem.status === 401)) {
          setStored({ state: 'waiting', edits: queue.current.length })
          await new Promise<void>((done) => {
            wake.current = done
            setTimeout(done, wait)
          })
          wait = Math.min(wait * 2, 5_000)
          continue
        }
        const problem = e instanceof ProblemError ? e.problem : { status: 0, detail: t('workshop.somethingWentWrong') }
        if (isThereAlready(task, problem)) setStored({ state: 'stored', at: new Date() })
        else if (task.do !== 'edit' && problem.fault === 'gone') toast(problem.detail)
        else setRefusals((r) => [...r, { task, problem }])
        void queries.invalidateQueries({ queryKey: ['revision', revisionId] })
        setStored((s) => (s.state === 'stored' ? s : { state: 'stored', at: null }))
      }
      queue.current = queue.current.slice(1)
      keep()
    }
    running.current = false
  }, [keep, queries, revisionId, send, take])

  const put = useCallback(
    (task: Task) => {
      queue.current = [...queue.current, task]
      keep()
      void run()
      return task.id
    },
    [keep, run],
  )

  useEffect(() => {
    // What an earlier page could not send any more.
    if (queue.current.length > 0) void run()
    const online = () => wake.current()
    addEventListener('online', online)
    return () => removeEventListener('online', online)
  }, [run])

  useEffect(() => {
    const changes = new EventSource(`/api/revisions/${revisionId}/changes`)
    changes.addEventListener('changed', (event) => {
      const head = queries.getQueryData<Schemas['RevisionView']>(['revision', revisionId])?.head ?? 0
      const told = Number((event as MessageEvent<string>).data)
      if (told === 0 || told > head) {
        void queries.invalidateQueries({ queryKey: ['revision', revisionId] })
        void queries.invalidateQueries({ queryKey: ['history', revisionId] })
        // Told without an edit, its state or its remarks have changed.
        if (told === 0)
          void queries.invalidateQueries({
            predicate: (q) => ['review', 'remarks'].includes(String(q.queryKey[0])) && q.queryKey[1] === revisionId,
          })
      }
    })
    changes.addEventListener('here', (event) => setHere(JSON.parse((event as MessageEvent<string>).data) as Present[]))
    return () => changes.close()
  }, [queries, revisionId])

  return {
    revision: revision.data,
    error: revision.error,
    /** Not all is stored while something that was entered has not become an edit yet. */
    stored: stored.state === 'stored' && Object.values(held).some((n) => n > 0) ? ({ state: 'storing' } as Stored) : stored,
    /** Tells how much of what was entered somewhere is still to become edits. */
    hold: useCallback((where: string, count: number) => setHeld((h) => ((h[where] ?? 0) === count ? h : { ...h, [where]: count })), []),
    /** The pages that look at this revision, this one among them. */
    here,
    refusals,
    edit: useCallback((...steps: Step[]) => put({ id: newId(), do: 'edit', steps }), [put]),
    /** Takes back the latest edit of this person, or the one of an id; what comes back is the id under which `redo` knows it. */
    undo: useCallback((of?: string) => put({ id: newId(), do: 'undo', steps: [], of }), [put]),
    redo: useCallback((of?: string) => put({ id: newId(), do: 'redo', steps: [], of }), [put]),
    dismiss: useCallback((refusal: Refusal) => setRefusals((r) => r.filter((x) => x !== refusal)), []),
  }
}

export type Model = ReturnType<typeof useModel>
