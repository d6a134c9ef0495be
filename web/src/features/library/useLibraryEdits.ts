import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { toast } from 'sonner'
import { ask, client, sentenceOf } from '../../api/client'
import type { CellChange, CellFault } from '../../ui/grid/types'
import type { TablePages } from './useTablePages'

/** Cells to be written, and what stood in them: what someone else has changed since is not overwritten. */
type Wish = { columns: string[]; rows: string[][]; before: string[][] | null }

/** What one did to the table, with what takes it back. */
type Done = { wish: Wish; back: Wish } | { removed: string[] } | { made: string[] }

const mostKept = 100

/** Edits of a table of the library, each sent as a whole, with undo and redo of this page's own. */
export function useLibraryEdits(table: string, { columns, found, rowAt }: TablePages) {
  const queries = useQueryClient()
  const [past, setPast] = useState<Done[]>([])
  const [undone, setUndone] = useState<Done[]>([])
  const [faults, setFaults] = useState<Record<string, CellFault>>({})
  /** What is typed in the last line until it says which row it is. */
  const [draft, setDraft] = useState<string[] | undefined>(undefined)
  const key = columns[0] ?? ''

  const store = useMutation({
    mutationFn: (wish: Wish) => ask(client.POST('/api/library/{table}/rows', { params: { path: { table } }, body: wish })),
    onSuccess: (done, wish) => {
      setFaults(Object.fromEntries(done.faults.map((f) => [`${wish.rows[f.row - 1]?.[0] ?? ''} ${f.column}`, { message: f.sentence, start: 0, length: 0, suggestion: null }])))
      if (done.faults.some((f) => f.isStale)) void queries.invalidateQueries({ queryKey: ['library', table] })
      if (!done.stored) toast.error(`Nothing was stored: ${done.faults[0]?.sentence ?? ''}`, { closeButton: true })
      else void queries.invalidateQueries({ predicate: (q) => ['library', 'items', 'item', 'revision', 'buildable'].includes(String(q.queryKey[0])) })
    },
    onError: (e) => toast.error(sentenceOf(e), { closeButton: true }),
  })
  const takeOut = useMutation({
    mutationFn: (row: string[]) => ask(client.POST('/api/library/{table}/removed', { params: { path: { table } }, body: { key: row[0]! } })),
    onSuccess: () => void queries.invalidateQueries({ queryKey: ['library'] }),
    onError: (e) => toast.error(sentenceOf(e), { closeButton: true, duration: 15_000 }),
  })

  const remember = (done: Done) => {
    setPast((p) => [...p, done].slice(-mostKept))
    setUndone([])
  }
  const whole = (row: string[]): Wish => ({ columns, rows: [row], before: null })

  /** New rows, each with those of its cells that were filled. */
  async function make(rows: string[][]) {
    const given = columns.flatMap((_, i) => (rows.some((r) => r[i] !== '') ? [i] : []))
    const done = await store.mutateAsync({ columns: given.map((i) => columns[i]!), rows: rows.map((r) => given.map((i) => r[i]!)), before: null }).catch(() => null)
    if (!done?.stored) return setDraft(rows.at(-1))
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
      const wish = { columns: names, rows: after, before }
      store.mutate(wish, { onSuccess: (done) => done.stored && remember({ wish, back: { columns: names, rows: before, before: after } }) })
    }
    const made = new Map<number, string[]>()
    for (const c of changes.filter((x) => x.row >= found)) {
      const row = made.get(c.row) ?? (c.row === found && draft ? [...draft] : columns.map(() => ''))
      row[c.column] = c.text.trim()
      made.set(c.row, row)
    }
    const rows = [...made.values()]
    if (rows.length === 0) return
    if (rows.every((r) => r[0] !== '')) void make(rows)
    else if (rows.length === 1) setDraft(rows[0]!.every((c) => c === '') ? undefined : rows[0])
    else toast.error(`Nothing was stored: of ${rows.filter((r) => r[0] === '').length} new rows the ${key} is missing.`, { closeButton: true })
  }

  async function remove(rows: number[]) {
    for (const row of rows.map(rowAt).filter((r) => r !== undefined)) {
      if (!(await takeOut.mutateAsync(row).then(() => true, () => false))) return
      remember({ removed: row })
    }
    toast(`${rows.length === 1 ? rowAt(rows[0]!)?.[0] : `${rows.length} rows`} taken out of the library; Ctrl+Z brings back what was taken out.`)
  }

  /** Does again what was done, or takes it back; tells whether that went well. */
  async function repeat(done: Done, isBack: boolean): Promise<boolean> {
    try {
      if ('wish' in done) return (await store.mutateAsync(isBack ? done.back : done.wish)).stored
      const [row, isRemoval] = 'removed' in done ? [done.removed, !isBack] : [done.made, isBack]
      if (isRemoval) await takeOut.mutateAsync(row)
      else return (await store.mutateAsync(whole(row))).stored
      return true
    } catch {
      return false
    }
  }
  async function step(from: Done[], isBack: boolean) {
    const done = from.at(-1)
    if (!done) return void toast(isBack ? 'Nothing was changed here that could be taken back.' : 'Nothing was taken back here.')
    if (!(await repeat(done, isBack))) return
    const [take, put] = isBack ? [setPast, setUndone] : [setUndone, setPast]
    take((p) => p.slice(0, -1))
    put((p) => [...p, done])
  }

  return {
    faults,
    draft,
    change,
    remove: (rows: number[]) => void remove(rows),
    undo: () => void step(past, true),
    redo: () => void step(undone, false),
    canUndo: past.length > 0 && !store.isPending,
  }
}
