import { useQuery } from '@tanstack/react-query'
import { Plus, Trash2 } from 'lucide-react'
import { useId } from 'react'
import { Link } from 'react-router'
import { ask, client } from '../../api/client'
import { newId } from '../../api/ids'
import { Expression, FaultLine } from './Field'
import { add, move, remove, set, type Row, type Step } from './model'
import { TextField } from '../../ui/TextField'
import { Grid } from '../../ui/grid/Grid'
import type { CellChange } from '../../ui/grid/types'
import { useEditsHere } from './useEditsHere'
import { useWorkshop } from './Workshop'
import { t } from '../../texts'

type CombinationGrid = Extract<Row, { kind: 'grid' }>

/** The rows of a combination grid, with its columns above: each compared with an expression, or a figure that expressions can read. */
export function GridEditor({ grid, assemblyId }: { grid: CombinationGrid; assemblyId: string }) {
  const { model, mayEdit, findings, revisionId, bench } = useWorkshop()
  const properties = useId()
  const here = useEditsHere(model)
  const drawn = useQuery({
    queryKey: ['drawn', revisionId, grid.id, bench.answer?.head, grid.drawnFrom, grid.columns],
    queryFn: ({ signal }) =>
      ask(client.GET('/api/revisions/{id}/grids/{rowId}/drawn', { params: { path: { id: revisionId, rowId: grid.id } }, signal })),
    enabled: bench.answer !== undefined,
    placeholderData: (before) => before,
  })
  const drawnFaults = findings.filter((f) => f.rowId === grid.id && f.field === 'drawnFrom')
  const faultAt = (row: number, column: number) => findings.find((f) => f.rowId === grid.id && f.field === `rows/${row}/cells/${column}`)
  const padded = (cells: string[]) => grid.columns.map((_, i) => cells[i] ?? '')

  function write(rowIndex: number, cells: string[]): Step {
    const row = grid.rows[rowIndex]!
    return set(row.id, 'cells', cells, row.cells)
  }

  function change(changes: CellChange[]) {
    const rows = new Map<number, string[]>()
    /** The cells as they stood when they were seen: what someone else has changed since is not overwritten unseen. */
    const seen = new Map<number, string[]>()
    for (const { row, column, text, before } of changes) {
      const now = grid.rows[row]?.cells ?? []
      const cells = rows.get(row) ?? padded(now)
      cells[column] = text.trim()
      rows.set(row, cells)
      if (before === (now[column] ?? '')) continue
      const then = seen.get(row) ?? padded(now)
      then[column] = before
      seen.set(row, then)
    }
    let last = grid.rows.at(-1)?.id ?? null
    const steps: Step[] = []
    for (const [row, cells] of rows)
      if (row < grid.rows.length) steps.push(set(grid.rows[row]!.id, 'cells', cells, seen.get(row) ?? grid.rows[row]!.cells))
      else {
        const id = newId()
        steps.push(add(grid.id, 'rows', last, { id, cells }))
        last = id
      }
    here.edit(...steps)
  }

  function place(rows: number[], before: number | null) {
    let last = grid.rows.slice(0, before ?? grid.rows.length).findLast((_, i) => !rows.includes(i))?.id ?? null
    const steps: Step[] = []
    for (const row of rows) {
      steps.push(move(grid.rows[row]!.id, grid.id, 'rows', last))
      last = grid.rows[row]!.id
    }
    here.edit(...steps)
  }

  function addColumn() {
    const last = grid.columns.at(-1)?.id ?? null
    const name = `column_${grid.columns.length + 1}`
    model.edit(
      add(grid.id, 'columns', last, { id: newId(), name, reference: '' }),
      ...grid.rows.map((_, i) => write(i, [...padded(grid.rows[i]!.cells), ''])),
    )
  }

  function removeColumn(at: number) {
    const column = grid.columns[at]!
    model.edit(
      remove(column.id),
      ...grid.rows.map((_, i) =>
        write(
          i,
          padded(grid.rows[i]!.cells).filter((__, j) => j !== at),
        ),
      ),
    )
  }

  return (
    <div className="grid gap-2">
      <p className="quiet text-sm italic">{t('workshop.columns')}</p>
      <div className="grid gap-1">
        {grid.columns.map((c, i) => (
          <div key={c.id} className="grid grid-cols-[8rem_minmax(0,1fr)_auto] items-start gap-x-2 gap-y-1 border-b hair pb-1">
            <TextField
              aria-label={t('workshop.nameOfColumn', { column: i + 1 })}
              disabled={!mayEdit}
              value={c.name}
              onCommit={(text, before) => model.edit(set(c.id, 'name', text.trim(), before))}
            />
            <Expression
              row={grid}
              field={`columns/${i}/reference`}
              label={t('workshop.columnNameCompares', { name: c.name })}
              assemblyId={assemblyId}
              faults={findings.filter((f) => f.rowId === grid.id && f.field === `columns/${i}/reference`)}
            />
            {mayEdit && (
              <button
                className="btn btn-ghost btn-sm"
                aria-label={t('workshop.deleteColumnName', { name: c.name })}
                disabled={grid.columns.length === 1}
                onClick={() => removeColumn(i)}
              >
                <Trash2 className="size-4" />
              </button>
            )}
            <div className="col-start-2 flex flex-wrap items-center gap-x-3 gap-y-1 text-sm">
              {c.reference === '' && (
                <>
                  <span className="quiet italic">{t('workshop.aFigure')}</span>
                  <select
                    className="select w-auto"
                    aria-label={t('workshop.typeOfColumn', { column: i + 1 })}
                    disabled={!mayEdit}
                    value={c.type}
                    onChange={(e) => model.edit(set(c.id, 'type', e.target.value, c.type))}
                  >
                    <option value="number">{t('workshop.number')}</option>
                    <option value="text">{t('workshop.text')}</option>
                    <option value="yesNo">{t('workshop.yesNo')}</option>
                  </select>
                  {c.type === 'number' && (
                    <TextField
                      className="w-20"
                      aria-label={t('workshop.unitOfColumn', { column: i + 1 })}
                      disabled={!mayEdit}
                      placeholder={t('workshop.unit')}
                      value={c.unit}
                      onCommit={(text, before) => model.edit(set(c.id, 'unit', text.trim(), before))}
                    />
                  )}
                </>
              )}
              {grid.drawnFrom !== '' && (
                <label className="flex items-center gap-1.5">
                  <span className="quiet italic">{t('workshop.ofAnItemIts')}</span>
                  <TextField
                    className="w-32"
                    aria-label={t('workshop.itemPropertyOfColumn', { column: i + 1 })}
                    disabled={!mayEdit}
                    placeholder={c.reference === '' ? t('workshop.property') : t('workshop.anything')}
                    list={properties}
                    value={c.itemProperty}
                    onCommit={(text, before) => model.edit(set(c.id, 'itemProperty', text.trim(), before))}
                  />
                </label>
              )}
            </div>
          </div>
        ))}
        {mayEdit && (
          <div>
            <button className="btn btn-ghost btn-sm" onClick={addColumn}>
              <Plus className="size-4" /> {t('workshop.column')}
            </button>
          </div>
        )}
      </div>
      <datalist id={properties}>
        {drawn.data?.properties.map((p) => (
          <option key={p} value={p} />
        ))}
      </datalist>
      {findings
        .filter((f) => f.rowId === grid.id && /^columns\/\d+\/itemProperty$/.test(f.field))
        .map((f) => (
          <FaultLine key={f.field} fault={f} />
        ))}
      <label className="grid grid-cols-[auto_minmax(0,1fr)] items-center gap-2">
        <span className="quiet text-sm italic">{t('workshop.alsoARowForEachItem')}</span>
        <TextField
          aria-label={t('workshop.rowsDrawnFromItemsWhere')}
          className="font-mono text-[0.8125rem]"
          disabled={!mayEdit}
          placeholder={t('workshop.familyCoolingUnitAndWeight60')}
          value={grid.drawnFrom}
          onCommit={(text, before) => model.edit(set(grid.id, 'drawnFrom', text.trim(), before))}
        />
      </label>
      {drawnFaults.map((f) => (
        <FaultLine key={f.message} fault={f} />
      ))}
      {grid.drawnFrom !== '' && drawn.data && (
        <details className="text-sm">
          <summary className="cursor-pointer">
            {t('workshop.rowsDrawnLive', {
              count: drawn.data.found,
              n: drawn.data.found,
              more: drawn.data.found > drawn.data.rows.length ? t('workshop.theFirstOfThem', { n: drawn.data.rows.length }) : '',
            })}
          </summary>
          <div className="mt-1 max-h-72 overflow-auto">
            <table aria-label={t('workshop.rowsOfNameDrawnFromThe', { name: grid.name })}>
              <thead className="quiet text-left">
                <tr className="[&>th]:pr-4 [&>th]:font-normal [&>th]:italic">
                  <th>{t('workshop.item')}</th>
                  {grid.columns.map((c) => (
                    <th key={c.id}>{c.name}</th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {drawn.data.rows.map((r) => (
                  <tr key={r.item} className="border-t hair [&>td]:pr-4">
                    <td>
                      <Link className="link" to={`/items/${encodeURIComponent(r.item)}`} title={r.description}>
                        {r.item}
                      </Link>
                    </td>
                    {grid.columns.map((c, i) => (
                      <td key={c.id}>{r.cells[i]}</td>
                    ))}
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
        </details>
      )}
      <p className="quiet text-sm italic">{t('workshop.allowedCombinationsAValueSeveralWith')}</p>
      <Grid
        name="grid"
        label={t('workshop.rowsOfName', { name: grid.name })}
        one="row"
        columns={grid.columns.map((c) => ({ key: c.id, name: c.name, width: 150 }))}
        count={grid.rows.length}
        faulty={[
          ...new Set(findings.flatMap((f) => (f.rowId === grid.id ? (/^rows\/(\d+)\/cells\//.exec(f.field)?.[1] ?? []) : [])).map(Number)),
        ].sort((a, b) => a - b)}
        rowAt={(i) => {
          const r = grid.rows[i]
          return r && { key: r.id, cells: padded(r.cells), faults: grid.columns.map((_, j) => faultAt(i, j)) }
        }}
        disabled={!mayEdit}
        takesNew
        onChange={change}
        onAdd={(after) =>
          here.edit(
            add(grid.id, 'rows', (grid.rows[after ?? Infinity] ?? grid.rows.at(-1))?.id ?? null, { id: newId(), cells: grid.columns.map(() => '*') }),
          )
        }
        onRemove={(rows) => here.edit(...rows.map((i) => remove(grid.rows[i]!.id)))}
        onMove={place}
        onUndo={here.undo}
        onRedo={here.redo}
      />
    </div>
  )
}
