import { keepPreviousData, useInfiniteQuery, useMutation, useQueryClient } from '@tanstack/react-query'
import { ArrowUpRight, Download, Plus, Trash2, Upload } from 'lucide-react'
import { useState } from 'react'
import { Link, NavLink, useParams, useSearchParams } from 'react-router'
import { toast } from 'sonner'
import { ask, client, sentenceOf, type Schemas } from '../../api/client'
import { useRight } from '../../app/session'
import { grouped } from '../../ui/format'
import { SearchField } from '../../ui/SearchField'
import { TitleBlock } from '../../ui/TitleBlock'
import { CellGrid, type CellFault } from '../workshop/CellGrid'
import { LoadSheet } from './LoadSheet'

export const tables: Record<string, { label: string; one: string; hint: string }> = {
  items: { label: 'Items', one: 'item', hint: 'Part numbers: made, bought and services, with unit, cost, weight and where they are kept.' },
  'work-centres': { label: 'Work centres', one: 'work centre', hint: 'Where work is done: rates, crew, hours and overhead.' },
  sites: { label: 'Sites', one: 'site', hint: 'Sites with their stores.' },
  'standard-operations': { label: 'Standard operations', one: 'standard operation', hint: 'Operations that many products share, to start an operation line from.' },
  'customer-classes': { label: 'Customer classes', one: 'customer class', hint: 'The discount on list prices, by class; “discount CR %” where a product has another one.' },
}

/** Cells to be written, and what stood in them: what someone else has changed since is not overwritten. */
type Wish = { columns: string[]; rows: string[][]; before: string[][] | null }

/** One table of the library, edited like a spreadsheet, loaded from files and taken out again. */
export function LibraryPage() {
  const { table = 'items' } = useParams()
  return tables[table] ? <TablePage key={table} table={table} /> : <p className="p-8">There is no such table in the library.</p>
}

function TablePage({ table }: { table: string }) {
  const [query, setQuery] = useSearchParams()
  const search = query.get('search') ?? ''
  const mayEdit = useRight('editLibrary')
  const queries = useQueryClient()
  const [loading, setLoading] = useState(false)
  const [past, setPast] = useState<Wish[]>([])
  const [faults, setFaults] = useState<Record<string, CellFault>>({})
  const [fresh, setFresh] = useState<string[] | null>(null)
  const pages = useInfiniteQuery({
    queryKey: ['library', table, search],
    queryFn: ({ signal, pageParam }) => ask(client.GET('/api/library/{table}', { params: { path: { table }, query: { search, after: pageParam } }, signal })),
    initialPageParam: '',
    getNextPageParam: (last) => (last.rows.length >= 200 ? last.rows.at(-1)![0] : undefined),
    placeholderData: keepPreviousData,
  })
  // Pages have columns of their own where only some items carry a property.
  const columns = [...new Set((pages.data?.pages ?? []).flatMap((p) => p.columns))]
  const rows = (pages.data?.pages ?? []).flatMap((p) => p.rows.map((r) => columns.map((c) => (p.columns.includes(c) ? r[p.columns.indexOf(c)]! : ''))))
  const found = pages.data?.pages[0]?.found ?? 0

  const edit = useMutation({
    mutationFn: (wish: Wish) => ask(client.POST('/api/library/{table}/rows', { params: { path: { table } }, body: wish })),
    onSuccess: (done, wish) => {
      setFaults(Object.fromEntries(done.faults.map((f) => [`${wish.rows[f.row - 1]?.[0] ?? ''} ${f.column}`, { message: f.sentence, start: 0, length: 0, suggestion: null }])))
      if (done.faults.some((f) => f.isStale)) void queries.invalidateQueries({ queryKey: ['library', table] })
      if (!done.stored) return toast.error(`Nothing was stored: ${done.faults[0]?.sentence ?? ''}`, { closeButton: true })
      setFresh(null)
      void queries.invalidateQueries({ predicate: (q) => ['library', 'items', 'item', 'revision', 'buildable'].includes(String(q.queryKey[0])) })
    },
    onError: (e) => toast.error(sentenceOf(e), { closeButton: true }),
  })
  const remove = useMutation({
    mutationFn: (row: string[]) => ask(client.POST('/api/library/{table}/removed', { params: { path: { table } }, body: { key: row[0]! } })),
    onSuccess: (_, row) => {
      setPast((p) => [...p, { columns, rows: [row], before: null }].slice(-100))
      void queries.invalidateQueries({ queryKey: ['library'] })
      toast(`${row[0]} is taken out of the library; Undo brings it back.`)
    },
    onError: (e) => toast.error(sentenceOf(e), { closeButton: true, duration: 15_000 }),
  })
  const key = columns[0] ?? ''
  function write(changes: { row: number; column: number; text: string; before?: string }[]) {
    const touched = [...new Set(changes.map((c) => c.row))]
    const used = [...new Set(changes.map((c) => c.column))].filter((c) => c > 0)
    const of = (text: (row: number, column: number) => string) => touched.map((r) => [rows[r]![0]!, ...used.map((c) => text(r, c))])
    const change = (r: number, c: number) => changes.findLast((x) => x.row === r && x.column === c)
    const [before, after] = [of((r, c) => change(r, c)?.before ?? rows[r]![c]!), of((r, c) => change(r, c)?.text ?? rows[r]![c]!)]
    const at = [key, ...used.map((c) => columns[c]!)]
    setPast((p) => [...p, { columns: at, rows: before, before: after }].slice(-100))
    edit.mutate({ columns: at, rows: after, before })
  }

  return (
    <div className="flex h-full flex-col gap-3 p-4">
      <TitleBlock
        title={tables[table]!.label}
        sub={tables[table]!.hint}
        cells={[{ label: 'found', value: found > 100_000 ? 'more than 100 000' : grouped(String(found)) }]}
        actions={
          <>
            {mayEdit && (
              <>
                <button className="act" disabled={past.length === 0 || edit.isPending} onClick={() => (edit.mutate(past.at(-1)!), setPast(past.slice(0, -1)))}>
                  Undo
                </button>
                <button className="act" onClick={() => setFresh(columns.map(() => ''))}>
                  <Plus className="size-3.5" /> New {tables[table]!.one}
                </button>
                <button className="act" onClick={() => setLoading(true)}>
                  <Upload className="size-3.5" /> Load a file
                </button>
              </>
            )}
            {['csv', 'xlsx'].map((format) => (
              <a key={format} className="act" href={`/api/library/${table}/file.${format}`} download>
                <Download className="size-3.5" /> {format.toUpperCase()}
              </a>
            ))}
          </>
        }
      />
      <div className="flex flex-wrap items-end gap-4">
        <nav aria-label="Tables of the library" className="flex gap-4 border-b hair">
          {Object.entries(tables).map(([to, { label }]) => (
            <NavLink key={to} to={`/library/${to}`} className={({ isActive }) => `-mb-px border-b-2 py-1 ${isActive ? 'border-primary font-semibold' : 'border-transparent quiet'}`}>
              {label}
            </NavLink>
          ))}
        </nav>
        {table === 'items' && <SearchField label="Search items" value={search} onChange={(s) => setQuery(s ? { search: s } : {}, { replace: true })} />}
      </div>
      {pages.error && <p className="fault">{sentenceOf(pages.error)}</p>}
      {fresh && (
        <form
          className="flex flex-wrap items-end gap-2 border hair p-2"
          aria-label={`New ${tables[table]!.one}`}
          onSubmit={(e) => {
            e.preventDefault()
            const given = columns.flatMap((_, i) => (i === 0 || fresh[i]!.trim() !== '' ? [i] : []))
            edit.mutate({ columns: given.map((i) => columns[i]!), rows: [given.map((i) => fresh[i]!)], before: null })
          }}
        >
          {columns.slice(0, 8).map((c, i) => (
            <label key={c} className="grid gap-0.5">
              <span className="quiet text-sm italic">{c}</span>
              <input className="field w-32" autoFocus={i === 0} required={i === 0} value={fresh[i]} onChange={(e) => setFresh(fresh.map((x, k) => (k === i ? e.target.value : x)))} />
            </label>
          ))}
          <button className="act act-main" disabled={edit.isPending}>
            Add
          </button>
          <button type="button" className="act" onClick={() => setFresh(null)}>
            Cancel
          </button>
          {Object.entries(faults)
            .filter(([at]) => at.startsWith(`${fresh[0]} `))
            .map(([at, f]) => (
              <p key={at} className="fault w-full text-sm">
                {f.message}
              </p>
            ))}
        </form>
      )}
      <div className="min-h-0 flex-1">
        {pages.data && rows.length === 0 && <p className="quiet">{search ? `Nothing has “${search}” in its number or description.` : `No ${tables[table]!.one} yet. Add the first one, or load a file.`}</p>}
        {rows.length > 0 && (
          <CellGrid
            label={tables[table]!.label}
            columns={columns.map((c) => ({ key: c, head: c, label: c, className: c === 'description' || c === 'label' || c === 'instructions' ? 'w-72' : /cost|weight|rate|days|multiple|crew|hours|overhead|discount|per unit/.test(c) ? 'w-24 text-right' : c === 'unit' || c === 'kind' || c === 'active' ? 'w-18' : 'w-28' }))}
            rows={rows.map((r) => ({
              key: r[0]!,
              cells: r,
              faults: columns.map((c) => faults[`${r[0]} ${c}`]),
              tail: mayEdit && (
                <button className="act-bare" aria-label={`Take ${r[0]} out`} title="Take it out of the library; what is in use stays" disabled={remove.isPending} onClick={() => remove.mutate(r)}>
                  <Trash2 className="size-3.5" />
                </button>
              ),
              lead: table === 'items' && (
                <Link className="act-bare" aria-label={`${r[0]} and where it is used`} title="The item and where it is used" to={`/items/${encodeURIComponent(r[0]!)}`}>
                  <ArrowUpRight className="size-4" />
                </Link>
              ),
            }))}
            disabled={!mayEdit}
            height="h-full"
            tailInSight
            onEnd={() => {
              if (pages.hasNextPage && !pages.isFetchingNextPage) void pages.fetchNextPage()
            }}
            onCommit={(row, column, text, before) => {
              if (column > 0) write([{ row, column, text: text.trim(), before }])
              else toast.error('The first column says which one a row is about; it stays as it is. Add a new one instead.')
            }}
            onPaste={(row, column, cells) =>
              write(cells.flatMap((line, i) => line.flatMap((text, j) => (row + i < rows.length && column + j < columns.length && column + j > 0 ? [{ row: row + i, column: column + j, text: text.trim() }] : []))))
            }
          />
        )}
      </div>
      {loading && <LoadSheet table={table} label={tables[table]!.label} onClose={() => setLoading(false)} />}
    </div>
  )
}

export type Loaded = Schemas['LoadView']
