import { useQueryClient } from '@tanstack/react-query'
import { useRef, useState } from 'react'
import { toast } from 'sonner'
import { ask, client, sentenceOf } from '../../api/client'
import type { CellChange, CellFault } from '../../ui/grid/types'
import type { TablePages } from './useTablePages'
import { t } from '../../texts'

/** Cells to be written, and what stood in them: what someone else has changed since is not overwritten. */
type Wish = { columns: string[]; rows: string[][]; before: string[][] | null }

/** What one did to the table, with what takes it back; what was refused has nothing to take back. */
type Done = ({ wish: Wish; back: Wish } | { removed: string[] } | { made: string[] }) & { isRefused?: boolean }

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
  const [canUndo, setCanUndo] = useState(false)
  const [faults, setFaults] = useState<Record<string, CellFault & { row: string }>>({})
  /** What is typed in the last line until it says which row it is. */
  const [draft, setDraft] = useState<string[] | undefined>(undefined)
  /** Texts of cells on their way to the server and back: of each cell the last one that was wished for. */
  const [underWay, setUnderWay] = useState<ReadonlyMap<string, { text: string; wish: Wish }>>(new Map())
  const key = columns[0] ?? ''
  const path = { table }

  /** Does a thing when all before it is done; keys that follow one another quickly do not overtake one another. */
  function inOrder(act: () => Promise<unknown>) {
    line.current = line.current
      .then(act)
      .catch((e: unknown) => toast.error(sentenceOf(e), { closeButton: true, duration: 15_000 }))
      .finally(() => setCanUndo(last(past) !== undefined))
  }

  const readAgain = async () => {
    await queries.invalidateQueries({ predicate: (q) => readers.includes(String(q.queryKey[0])) })
    // What was read is told to those who show it in a timer of its own; until then they show what stood there before.
    await new Promise((told) => setTimeout(told, 0))
  }

  /** Shows at once what is going to be stored, also where other things are stored before it. */
  function showing(wish: Wish): Wish {
    const texts = wish.rows.flatMap((row) => wish.columns.slice(1).map((c, i) => [cellKey(row[0]!, c), { text: row[i + 1] ?? '', wish }] as const))
    setUnderWay((u) => new Map([...u, ...texts]))
    return wish
  }
  const shown = (wish: Wish) => setUnderWay((u) => new Map([...u].filter(([, cell]) => cell.wish !== wish)))

  /** Tells whether it was stored. */
  async function store(wish: Wish): Promise<boolean> {
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
      shown(wish)
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
      const done: Done = { wish: showing({ columns: names, rows: after, before }), back: { columns: names, rows: before, before: after } }
      remember(done)
      inOrder(async () => {
        let isStored = false
        try {
          isStored = await store(done.wish)
        } finally {
          done.isRefused = !isStored
        }
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
  async function repeat(done: Done, isBack: boolean, wish: Wish | null): Promise<boolean> {
    if ('wish' in done) return await store(wish!)
    const [row, isRemoval] = 'removed' in done ? [done.removed, !isBack] : [done.made, isBack]
    if (!isRemoval) return await store({ columns, rows: [row], before: null })
    await takeOut(row)
    return true
  }
  const last = (of: { current: Done[] }) => of.current.findLast((d) => !d.isRefused)
  const move = (done: Done, from: { current: Done[] }, to: { current: Done[] }) => {
    from.current = from.current.filter((d) => d !== done)
    to.current = [...to.current, done]
  }
  /** What is taken back, or done again, is known and shown at once; it is stored when all before it is. */
  function step(isBack: boolean) {
    const [from, to] = isBack ? [past, undone] : [undone, past]
    const done = last(from)
    if (!done)
      return inOrder(async () => {
        // Rows that were made or taken out are known only once they are.
        if (last(from)) step(isBack)
        else toast(isBack ? t('library.nothingWasChangedHereThatCould') : t('library.nothingWasTakenBackHere'))
      })
    move(done, from, to)
    // Each time a wish of its own: one that was done, taken back and done again is shown until its last time is stored.
    const wish = 'wish' in done ? showing({ ...(isBack ? done.back : done.wish) }) : null
    inOrder(async () => {
      if (done.isRefused) return wish ? shown(wish) : undefined
      let isDone = false
      try {
        isDone = await repeat(done, isBack, wish)
      } finally {
        if (!isDone) move(done, to, from)
      }
    })
  }

  return {
    faults,
    /** The rows that faults were told of. */
    faultyKeys: new Set(Object.values(faults).map((f) => f.row)),
    draft,
    /** What stands in a cell, or is on its way there. */
    textOf: (row: string[], column: number) => underWay.get(cellKey(row[0]!, columns[column]!))?.text ?? row[column] ?? '',
    change,
    remove,
    undo: () => step(true),
    redo: () => step(false),
    canUndo,
  }
}
