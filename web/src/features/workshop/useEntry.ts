import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { useEffect, useEffectEvent, useLayoutEffect, useRef, useState } from 'react'
import { ask, client, isPassing, sentenceOf, type Schemas } from '../../api/client'
import type { Assembly, Topic } from './model'
import { highestOnItsWay } from './useModel'
import { useDelayed } from '../../ui/useDelayed'
import { useWorkshop } from './Workshop'

export type LineFinding = Schemas['EntryFindingView']

/** A line that made no row, with what is to be mended. */
export type Unmade = { line: string; findings: LineFinding[] }

type Kept = { text: string; waiting: string[]; unmade: Unmade[] }

const keyOf = (revisionId: number, topicId: string) => `juniperfall.entry.${revisionId}.${topicId}`

/** Each tab has lines of its own: what waits in one must not become rows twice. */
function kept(key: string): Kept {
  try {
    const read = JSON.parse(sessionStorage.getItem(key) ?? 'null') as Partial<Kept> | null
    return { text: read?.text ?? '', waiting: read?.waiting ?? [], unmade: read?.unmade ?? [] }
  } catch {
    return { text: '', waiting: [], unmade: [] }
  }
}

const mostLines = 200

/**
 * The entry line of a topic. The server reads what is typed, with the model at hand. Lines that were entered go there in order and wait while it
 * cannot be reached; what is typed outlasts a reload.
 */
export function useEntry(topic: Topic, assembly: Assembly) {
  const { model, revisionId } = useWorkshop()
  const key = keyOf(revisionId, topic.id)
  const [text, setText] = useState(() => kept(key).text)
  const [position, setPosition] = useState<number | null>(null)
  const [waiting, setWaiting] = useState(() => kept(key).waiting)
  const [unmade, setUnmade] = useState(() => kept(key).unmade)
  const [findings, setFindings] = useState<LineFinding[]>([])
  const [trouble, setTrouble] = useState<string | null>(null)
  const latest = useRef<string | null>(null)
  const busy = useRef(false)
  /** What stands in the line when an answer comes, which may be long after it was asked for. */
  const standing = useRef(text)

  useEffect(() => {
    if (text === '' && waiting.length === 0 && unmade.length === 0) sessionStorage.removeItem(key)
    else sessionStorage.setItem(key, JSON.stringify({ text, waiting, unmade } satisfies Kept))
  }, [key, text, waiting, unmade])

  // Before anything is painted: at no moment all is stored while a line has not become a row.
  const { hold } = model
  useLayoutEffect(() => hold(topic.id, waiting.length), [hold, topic.id, waiting.length])
  useLayoutEffect(() => () => hold(topic.id, 0), [hold, topic.id])

  const read = (lines: string[], at: number | null, signal?: AbortSignal) => {
    // A row that is on its way stands before this one already.
    const afterId = latest.current ?? topic.rows.at(-1)?.id ?? null
    const body = { assemblyId: assembly.id, topicId: topic.id, afterId, lines, numbered: highestOnItsWay(revisionId), position: at }
    return ask(client.POST('/api/revisions/{id}/entry', { params: { path: { id: revisionId } }, body, ...(signal && { signal }) }))
  }

  const typed = useDelayed(position === null ? null : `${position} ${text}`, 70)
  const live = useQuery({
    queryKey: ['entry', revisionId, topic.id, typed],
    queryFn: ({ signal }) => read([typed!.slice(typed!.indexOf(' ') + 1)], Number(typed!.slice(0, typed!.indexOf(' '))), signal),
    enabled: typed !== null,
    placeholderData: keepPreviousData,
    staleTime: 0,
    gcTime: 0,
    retry: false,
  })
  const isOfNow = typed === `${position} ${text}` && !live.isPlaceholderData

  const make = useEffectEvent(async () => {
    if (busy.current || waiting.length === 0) return
    busy.current = true
    const lines = waiting.slice(0, mostLines)
    try {
      const answer = await read(lines, null)
      const left = answer.lines.flatMap((l, i) => (l.steps.length === 0 ? [{ line: lines[i]!, findings: l.findings }] : []))
      for (const l of answer.lines) {
        if (l.steps.length === 0) continue
        model.edit(...l.steps)
        latest.current = l.rowId ?? latest.current
      }
      setTrouble(null)
      // What made no row comes back into the line, unless something else stands there by now.
      if (left.length === 1 && standing.current === '') {
        standing.current = left[0]!.line
        setText(left[0]!.line)
        setFindings(left[0]!.findings)
      } else setUnmade((u) => [...u, ...left])
      setWaiting((w) => w.slice(lines.length))
    } catch (e) {
      setTrouble(sentenceOf(e))
      if (isPassing(e)) await new Promise((done) => setTimeout(done, 1_000))
      else {
        setUnmade((u) => [...u, ...lines.map((line) => ({ line, findings: [{ start: 0, length: 0, message: sentenceOf(e), fixes: [] }] }))])
        setWaiting((w) => w.slice(lines.length))
      }
    } finally {
      busy.current = false
      // Asks again after a while where the server could not be reached, and for what came meanwhile.
      setWaiting((w) => [...w])
    }
  })
  useEffect(() => {
    if (waiting.length > 0) void make()
  }, [waiting])
  useEffect(() => {
    if (latest.current !== null && topic.rows.some((r) => r.id === latest.current)) latest.current = null
  }, [topic.rows])

  const change = (to: string, at: number | null) => {
    standing.current = to
    setText(to)
    setPosition(at)
    setFindings([])
  }
  const enter = (lines: string[]) => setWaiting((w) => [...w, ...lines.filter((l) => l.trim() !== '')])
  const line = isOfNow ? live.data?.lines[0] : undefined
  const isSlow = useDelayed(waiting.length > 0, 1_500)

  return {
    text,
    /** Lines that are not read yet though some time has passed: the server cannot be reached, or takes long. */
    waiting: isSlow || trouble !== null ? waiting : [],
    unmade,
    /** How such a line is written, once its first word is known. */
    shape: (text.trim() !== '' && (line ?? live.data?.lines[0])) || undefined,
    offers: isOfNow && position !== null ? (live.data?.completion ?? null) : null,
    /** What was told of the line when it was entered; while it is typed, what is not understood in what is behind the cursor already. */
    findings: findings.length > 0 ? findings : (line?.findings ?? []).filter((f) => f.length > 0 && (position ?? 0) > f.start + f.length),
    isEntered: findings.length > 0,
    change,
    clear: () => change('', null),
    /** Where the cursor stands; null outside of the line. */
    at: setPosition,
    enter: () => {
      enter([text])
      change('', null)
    },
    enterAll: (lines: string[]) => enter(lines),
    propose: (line: string) => {
      if (text.trim() !== '') setUnmade((u) => [...u, { line: text, findings }])
      change(line, line.length)
    },
    /** Takes a line that made no row back into the entry line. */
    takeBack: (of: Unmade) => {
      setUnmade((u) => u.filter((x) => x !== of))
      if (text.trim() !== '') setUnmade((u) => [...u, { line: text, findings }])
      change(of.line, of.line.length)
      setFindings(of.findings)
    },
    drop: (of: Unmade) => setUnmade((u) => u.filter((x) => x !== of)),
  }
}
