import { useQueryClient } from '@tanstack/react-query'
import { useRef, useState } from 'react'
import { toast } from 'sonner'
import { ask, client, sentenceOf } from '../../api/client'
import type { CellChange, CellFault } from '../../ui/grid/types'
import type { TablePages } from './useTablePages'
import { t } from '../../texts'

/** Cells to be written, and what stood in them: what someone else has changed since is not overwritten. */
type Wish = { columns: string[]; rows: string[][]; before: string[][] | null }

/** What one did to the table, with what takes it back. */
type Done = { wish: Wish; back: Wish } | { removed: string[] } | { made: string[] }

const mostKept = 100

/** What shows something of the library, and is read again after a change. */
const readers = ['library', 'items', 'item', 'revision', 'buildable']

const cellKey = (row: string, column: string) => `${row} ${column}`

/** Edits of a table of the library, sent one after the other, with undo and redo of this page's own. */
export function useLibraryEdits(table: string, { columns, found, rowAt }: TablePages) {
  const queries = useQueryClient()
  const past = useRef<Done[]>([])
  const undone = useRef<Done[]>([])
  const line = useRef<Promise<unknown>>(Promise.resolve())
  const [steps, setSteps] = useState({ past: 0, waiting: 0 })
  const [faults, setFaults] = useState<Record<string, CellFault & { row: string }>>({})
  /** What is typed in the last line until it says which row it is. */
  const [draft, setDraft] = useState<string[] | undefined>(undefined)
  /** Texts of cells on their way to the server and back. */
  const [underWay, setUnderWay] = useState<ReadonlyMap<string, string>>(new Map())
  const key = columns[0] ?? ''
  const path = { table }

  /** Does a thing when all before it is done; keys that follow one another quickly do not overtake one another. */
  function inOrder(act: () => Promise<unknown>) {
    setSteps((s) => ({ ...s, waiting: s.waiting + 1 }))
    line.current = line.current
      .then(act)
      .catch((e: unknown) => toast.error(sentenceOf(e), { closeButton: true, duration: 15_000 }))
      .finally(() => setSteps((s) => ({ past: past.current.length, waiting: s.waiting - 1 })))
  }

  const readAgain = () => queries.invalidateQueries({ predicate: (q) => readers.includes(String(q.queryKey[0])) })

  /** Tells whether it was stored. */
  async function store(wish: Wish): Promise<boolean> {
    const cells = wish.rows.flatMap((row) => wish.columns.slice(1).map((c, i): [string, string] => [cellKey(row[0]!, c), row[i + 1] ?? '']))
    setUnderWay((u) => new Map([...u, ...cells]))
    try {
      const done = await ask(client.POST('/api/library/{table}/rows', { params: { path }, body: wish }))
      setFaults(
        Object.fromEntries(
          done.faults.map((f) => {
            const row = wish.rows[f.row - 1]?.[0] ?? ''
            return [cellKey(row, f.column), { row, message: f.sentence, start: 0, length: 0, suggestion: null }]
          }),
        ),
      )
      if (!done.stored) toast.error(t('library.nothingWasStoredSentence', { sentence: done.faults[0]?.sentence ?? '' }), { closeButton: true })
      if (done.stored || done.faults.some((f) => f.isStale)) await readAgain()
      return done.stored
    } finally {
      setUnderWay((u) => new Map([...u].filter(([cell, text]) => !cells.some(([c, t]) => c === cell && t === text))))
    }
  }
  async function takeOut(row: string[]) {
    await ask(client.POST('/api/library/{table}/removed', { params: { path }, body: { key: row[0]! } }))
    await readAgain()
  }
  function remember(done: Done) {
    past.current = [...past.current, done].slice(-mostKept)
    undone.current = []
  }

  /** New rows, each with those of its cells that were filled. */
  async function make(rows: string[][]) {
    const given = columns.flatMap((_, i) => (rows.some((r) => r[i] !== '') ? [i] : []))
    if (!(await store({ columns: given.map((i) => columns[i]!), rows: rows.map((r) => given.map((i) => r[i]!)), before: null })))
      return setDraft(rows.at(-1))
    setDraft(undefined)
    rows.forEach((row) => remember({ made: row }))
  }

  function change(changes: CellChange[]) {
    const there = changes.filter((c) => c.row < found)
    const touched = [...new Set(there.map((c) => c.row))]
    const used = [...new Set(there.map((c) => c.column))]
    const of = (text: (row: number, column: number) => string) => touched.map((r) => [rowAt(r)![0]!, ...used.map((c) => text(r, c))])
    const at = (r: number, c: number) => there.findLast((x) => x.row === r && x.column === c)
    const [before, after] = [of((r, c) => at(r, c)?.before ?? rowAt(r)![c]!), of((r, c) => at(r, c)?.text.trim() ?? rowAt(r)![c]!)]
    if (touched.length > 0) {
      const names = [key, ...used.map((c) => columns[c]!)]
      const done = { wish: { columns: names, rows: after, before }, back: { columns: names, rows: before, before: after } }
      inOrder(async () => {
        if (await store(done.wish)) remember(done)
      })
    }
    const made = new Map<number, string[]>()
    for (const c of changes.filter((x) => x.row >= found)) {
      const row = made.get(c.row) ?? (c.row === found && draft ? [...draft] : columns.map(() => ''))
      row[c.column] = c.text.trim()
      made.set(c.row, row)
    }
    const rows = [...made.values()]
    if (rows.length === 0) return
    if (rows.every((r) => r[0] !== '')) {
      setDraft(rows[0])
      inOrder(() => make(rows))
    } else if (rows.length === 1) setDraft(rows[0]!.every((c) => c === '') ? undefined : rows[0])
    else
      toast.error(t('library.keyIsMissing', { rows: rows.filter((r) => r[0] === '').length, key }), {
        closeButton: true,
      })
  }

  function remove(marked: number[]) {
    const rows = marked.map(rowAt).filter((r) => r !== undefined)
    inOrder(async () => {
      for (const row of rows) {
        await takeOut(row)
        remember({ removed: row })
      }
      toast(t('library.takenOut', { what: rows.length === 1 ? rows[0]![0] : t('library.manyRows', { n: rows.length }) }))
    })
  }

  /** Does again what was done, or takes it back; tells whether that went well. */
  async function repeat(done: Done, isBack: boolean): Promise<boolean> {
    if ('wish' in done) return await store(isBack ? done.back : done.wish)
    const [row, isRemoval] = 'removed' in done ? [done.removed, !isBack] : [done.made, isBack]
    if (!isRemoval) return await store({ columns, rows: [row], before: null })
    await takeOut(row)
    return true
  }
  const step = (isBack: boolean) =>
    inOrder(async () => {
      const [from, to] = isBack ? [past, undone] : [undone, past]
      const done = from.current.at(-1)
      if (!done) return void toast(isBack ? t('library.nothingWasChangedHereThatCould') : t('library.nothingWasTakenBackHere'))
      if (!(await repeat(done, isBack))) return
      from.current = from.current.slice(0, -1)
      to.current = [...to.current, done]
    })

  return {
    faults,
    /** The rows that faults were told of. */
    faultyKeys: new Set(Object.values(faults).map((f) => f.row)),
    draft,
    /** What stands in a cell, or is on its way there. */
    textOf: (row: string[], column: number) => underWay.get(cellKey(row[0]!, columns[column]!)) ?? row[column] ?? '',
    change,
    remove,
    undo: () => step(true),
    redo: () => step(false),
    canUndo: steps.past > 0 && steps.waiting === 0,
  }
}
