import { ArrowUpRight, Download, Upload } from 'lucide-react'
import { useState } from 'react'
import { Link, NavLink, useNavigate, useParams, useSearchParams } from 'react-router'
import { sentenceOf, type Schemas } from '../../api/client'
import { useRight } from '../../session/session'
import { grouped, thing, type Thing } from '../../ui/format'
import { Grid } from '../../ui/grid/Grid'
import type { Filters, Sorting } from '../../ui/grid/types'
import { SearchField } from '../../ui/SearchField'
import { TitleBlock } from '../../ui/TitleBlock'
import { useDelayed } from '../../ui/useDelayed'
import { LoadSheet } from './LoadSheet'
import { useLibraryEdits } from './useLibraryEdits'
import { useTablePages } from './useTablePages'
import { t } from '../../texts'

export const tables: Record<string, { label: string; one: Thing; hint: string }> = {
  items: { label: t('library.items'), one: 'item', hint: t('library.partNumbersMadeBoughtAndServices') },
  'work-centres': { label: t('library.workCentres'), one: 'workCentre', hint: t('library.whereWorkIsDoneRatesCrew') },
  sites: { label: t('library.sites'), one: 'site', hint: t('library.sitesWithTheirStores') },
  'standard-operations': {
    label: t('library.standardOperations'),
    one: 'standardOperation',
    hint: t('library.operationsThatManyProductsShareTo'),
  },
  'customer-classes': {
    label: t('library.customerClasses'),
    one: 'customerClass',
    hint: t('library.theDiscountOnListPricesBy'),
  },
}

/** One table of the library, edited like a spreadsheet, loaded from files and taken out again. */
export function LibraryPage() {
  const { table = 'items' } = useParams()
  return tables[table] ? <TablePage key={table} table={table} /> : <p className="p-8">{t('library.thereIsNoSuchTableIn')}</p>
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
        cells={[{ label: t('library.found'), value: grouped(String(found)) }]}
        actions={
          <>
            {mayEdit && (
              <>
                <button className="btn" disabled={!edits.canUndo} onClick={edits.undo}>
                  {t('library.undo')}
                </button>
                <button className="btn" onClick={() => setLoading(true)}>
                  <Upload className="size-3.5" /> {t('library.loadAFile')}
                </button>
              </>
            )}
            {['csv', 'xlsx'].map((format) => (
              <a key={format} className="btn" href={`/api/library/${table}/file.${format}`} download>
                <Download className="size-3.5" /> {format.toUpperCase()}
              </a>
            ))}
          </>
        }
      />
      <div className="flex flex-wrap items-end gap-4">
        <nav aria-label={t('library.tablesOfTheLibrary')} className="tabs tabs-border">
          {Object.entries(tables).map(([to, { label }]) => (
            <NavLink key={to} to={`/library/${to}`} className={({ isActive }) => `tab ${isActive ? 'tab-active' : ''}`}>
              {label}
            </NavLink>
          ))}
        </nav>
        {table === 'items' && (
          <SearchField label={t('library.searchItems')} value={search} onChange={(s) => setQuery(s ? { search: s } : {}, { replace: true })} />
        )}
      </div>
      {pages.error && <p className="fault">{sentenceOf(pages.error)}</p>}
      <div className="min-h-0 flex-1">
        {pages.isThere && found === 0 && (
          <p className="quiet pb-2">
            {search || sorting || Object.values(filters).some((f) => f !== '')
              ? t('library.nothingInTheLibraryIsLike', { search: search ? t('library.noNumberOrDescriptionHasSearch', { search }) : '' })
              : t('library.noOneYetTypeTheFirst', { one: thing(tables[table]!.one) })}
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
                fixed: t('library.theFirstColumnSaysWhichOne'),
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
                      className="btn btn-ghost btn-sm min-h-0 p-0"
                      tabIndex={-1}
                      aria-label={t('library.itemAndUses', { item: r[0] })}
                      title={t('library.theItemAndWhereItIs')}
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
