import { ArrowUpRight, Download, Upload } from 'lucide-react'
import { useState } from 'react'
import { Link, NavLink, useNavigate, useParams, useSearchParams } from 'react-router'
import { sentenceOf, type Schemas } from '../../api/client'
import { useRight } from '../../app/session'
import { grouped } from '../../ui/format'
import { Grid } from '../../ui/grid/Grid'
import type { Filters, Sorting } from '../../ui/grid/types'
import { SearchField } from '../../ui/SearchField'
import { TitleBlock } from '../../ui/TitleBlock'
import { useDelayed } from '../../ui/useDelayed'
import { LoadSheet } from './LoadSheet'
import { useLibraryEdits } from './useLibraryEdits'
import { useTablePages } from './useTablePages'

export const tables: Record<string, { label: string; one: string; hint: string }> = {
  items: { label: 'Items', one: 'item', hint: 'Part numbers: made, bought and services, with unit, cost, weight and where they are kept.' },
  'work-centres': { label: 'Work centres', one: 'work centre', hint: 'Where work is done: rates, crew, hours and overhead.' },
  sites: { label: 'Sites', one: 'site', hint: 'Sites with their stores.' },
  'standard-operations': {
    label: 'Standard operations',
    one: 'standard operation',
    hint: 'Operations that many products share, to start an operation line from.',
  },
  'customer-classes': {
    label: 'Customer classes',
    one: 'customer class',
    hint: 'The discount on list prices, by class; “discount CR %” where a product has another one.',
  },
}

/** One table of the library, edited like a spreadsheet, loaded from files and taken out again. */
export function LibraryPage() {
  const { table = 'items' } = useParams()
  return tables[table] ? <TablePage key={table} table={table} /> : <p className="p-8">There is no such table in the library.</p>
}

function TablePage({ table }: { table: string }) {
  const [query, setQuery] = useSearchParams()
  const search = query.get('search') ?? ''
  const mayEdit = useRight('editLibrary')
  const [loading, setLoading] = useState(false)
  const [sorting, setSorting] = useState<Sorting>(null)
  const [filters, setFilters] = useState<Filters>({})
  const pages = useTablePages(table, { search, sorting, filters: useDelayed(filters, 150) })
  const edits = useLibraryEdits(table, pages)
  const { columns, found } = pages
  const go = useNavigate()

  return (
    <div className="flex h-full flex-col gap-3 p-4">
      <TitleBlock
        title={tables[table]!.label}
        sub={tables[table]!.hint}
        cells={[{ label: 'found', value: grouped(String(found)) }]}
        actions={
          <>
            {mayEdit && (
              <>
                <button className="act" disabled={!edits.canUndo} onClick={edits.undo}>
                  Undo
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
            <NavLink
              key={to}
              to={`/library/${to}`}
              className={({ isActive }) => `-mb-px border-b-2 py-1 ${isActive ? 'border-primary font-semibold' : 'border-transparent quiet'}`}
            >
              {label}
            </NavLink>
          ))}
        </nav>
        {table === 'items' && (
          <SearchField label="Search items" value={search} onChange={(s) => setQuery(s ? { search: s } : {}, { replace: true })} />
        )}
      </div>
      {pages.error && <p className="fault">{sentenceOf(pages.error)}</p>}
      <div className="min-h-0 flex-1">
        {pages.isThere && found === 0 && (
          <p className="quiet pb-2">
            {search || sorting || Object.values(filters).some((f) => f !== '')
              ? `Nothing in the library is like that${search ? `: no number or description has “${search}”` : ''}.`
              : `No ${tables[table]!.one} yet. Type the first one, or load a file.`}
          </p>
        )}
        {pages.isThere && (
          <Grid
            name={`library.${table}`}
            label={tables[table]!.label}
            one={tables[table]!.one}
            columns={columns.map((c, i) => ({
              key: c,
              name: c,
              width: /^(description|label|instructions)/.test(c)
                ? 280
                : pages.numberColumns.includes(c)
                  ? 116
                  : c === 'unit' || c === 'kind' || c === 'active'
                    ? 80
                    : 130,
              look: pages.numberColumns.includes(c) ? 'text-right' : '',
              ...(i === 0 && {
                fixed: 'The first column says which one a row is about; it stays as it is. Type a new one in the last line instead.',
              }),
            }))}
            count={found}
            faulty={edits.faultyKeys.size > 0 ? pages.indicesOf(edits.faultyKeys) : []}
            rowAt={(i) => {
              const r = i === found ? edits.draft : pages.rowAt(i)
              return (
                r && {
                  key: i === found ? '' : r[0]!,
                  cells: i === found ? r : columns.map((_, c) => edits.textOf(r, c)),
                  faults: columns.map((c) => edits.faults[`${r[0]} ${c}`]),
                  lead: table === 'items' && i < found && (
                    <Link
                      className="act-bare min-h-0 p-0"
                      tabIndex={-1}
                      aria-label={`${r[0]} and where it is used`}
                      title="The item and where it is used"
                      to={`/items/${encodeURIComponent(r[0]!)}`}
                    >
                      <ArrowUpRight className="size-4" />
                    </Link>
                  ),
                }
              )
            }}
            disabled={!mayEdit}
            takesNew
            height="h-full"
            onSight={pages.see}
            arranged={{ sorting, filters, onSort: setSorting, onFilter: setFilters }}
            onChange={edits.change}
            onRemove={edits.remove}
            onUndo={edits.undo}
            onRedo={edits.redo}
            {...(table === 'items' && { onOpen: (i: number) => void go(`/items/${encodeURIComponent(pages.rowAt(i)![0]!)}`) })}
          />
        )}
      </div>
      {loading && <LoadSheet table={table} label={tables[table]!.label} onClose={() => setLoading(false)} />}
    </div>
  )
}

export type Loaded = Schemas['LoadView']
