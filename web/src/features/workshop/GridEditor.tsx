import { Plus, Trash2 } from 'lucide-react'
import { newId } from '../../api/ids'
import { CellGrid } from './CellGrid'
import { pastedCells } from './cells'
import { Expression } from './Field'
import { add, remove, set, type Row, type Step } from './model'
import { TextField } from '../../ui/TextField'
import { useWorkshop } from './Workshop'

type Grid = Extract<Row, { kind: 'grid' }>

/** The rows of a combination grid, with its columns above: each compared with an expression, or a figure that expressions can read. */
export function GridEditor({ grid, assemblyId }: { grid: Grid; assemblyId: string }) {
  const { model, mayEdit, findings } = useWorkshop()
  const faultAt = (row: number, column: number) => findings.find((f) => f.rowId === grid.id && f.field === `rows/${row}/cells/${column}`)
  const padded = (cells: string[]) => grid.columns.map((_, i) => cells[i] ?? '')

  function write(rowIndex: number, cells: string[]): Step {
    const row = grid.rows[rowIndex]!
    return set(row.id, 'cells', cells, row.cells)
  }

  function paste(row: number, column: number, pasted: string[][]) {
    const steps: Step[] = []
    let last = grid.rows.at(-1)?.id ?? null
    pasted.forEach((cells, i) => {
      const into = padded(grid.rows[row + i]?.cells ?? [])
      cells.forEach((c, j) => {
        if (column + j < grid.columns.length) into[column + j] = c
      })
      if (row + i < grid.rows.length) steps.push(write(row + i, into))
      else {
        const id = newId()
        steps.push(add(grid.id, 'rows', last, { id, cells: into }))
        last = id
      }
    })
    model.edit(...steps)
  }

  function addColumn() {
    const last = grid.columns.at(-1)?.id ?? null
    const name = `column_${grid.columns.length + 1}`
    model.edit(add(grid.id, 'columns', last, { id: newId(), name, reference: '' }), ...grid.rows.map((_, i) => write(i, [...padded(grid.rows[i]!.cells), ''])))
  }

  function removeColumn(at: number) {
    const column = grid.columns[at]!
    model.edit(remove(column.id), ...grid.rows.map((_, i) => write(i, padded(grid.rows[i]!.cells).filter((__, j) => j !== at))))
  }

  return (
    <div className="grid gap-2">
      <p className="quiet text-sm italic">Columns</p>
      <div className="grid gap-1">
        {grid.columns.map((c, i) => (
          <div key={c.id} className="grid grid-cols-[8rem_minmax(0,1fr)_5rem_auto] items-start gap-2">
            <TextField aria-label={`Name of column ${i + 1}`} disabled={!mayEdit} value={c.name} onCommit={(text, before) => model.edit(set(c.id, 'name', text.trim(), before))} />
            <Expression
              row={grid}
              field={`columns/${i}/reference`}
              label={`Column ${c.name} compares`}
              assemblyId={assemblyId}
              faults={findings.filter((f) => f.rowId === grid.id && f.field === `columns/${i}/reference`)}
            />
            <TextField aria-label={`Unit of column ${i + 1}`} disabled={!mayEdit || c.reference !== ''} placeholder="unit" value={c.unit} onCommit={(text, before) => model.edit(set(c.id, 'unit', text.trim(), before))} />
            {mayEdit && (
              <button className="act-bare" aria-label={`Delete column ${c.name}`} disabled={grid.columns.length === 1} onClick={() => removeColumn(i)}>
                <Trash2 className="size-4" />
              </button>
            )}
          </div>
        ))}
        {mayEdit && (
          <div>
            <button className="act-bare" onClick={addColumn}>
              <Plus className="size-4" /> Column
            </button>
          </div>
        )}
      </div>
      <p className="quiet text-sm italic">
        Allowed combinations: a value, several with |, a range such as 1 m .. 3 m, or * for any. Cells can be pasted from a spreadsheet.
      </p>
      <CellGrid
        label={`Rows of ${grid.name}`}
        columns={grid.columns.map((c) => ({ key: c.id, head: c.name, label: c.name, className: 'w-32' }))}
        rows={grid.rows.map((r, i) => ({
          key: r.id,
          cells: padded(r.cells),
          faults: grid.columns.map((_, j) => faultAt(i, j)),
          tail: mayEdit && (
            <button className="act-bare" aria-label={`Delete row ${i + 1}`} onClick={() => model.edit(remove(r.id))}>
              <Trash2 className="size-3.5" />
            </button>
          ),
        }))}
        disabled={!mayEdit}
        onCommit={(i, j, text) => model.edit(write(i, padded(grid.rows[i]!.cells).map((c, k) => (k === j ? text.trim() : c))))}
        onPaste={paste}
      />
      {mayEdit && (
        <div className="flex gap-2">
          <button className="act-bare" onClick={() => model.edit(add(grid.id, 'rows', grid.rows.at(-1)?.id ?? null, { id: newId(), cells: grid.columns.map(() => '*') }))}>
            <Plus className="size-4" /> Row
          </button>
          <textarea
            className="field h-7 w-56 resize-none"
            aria-label="Paste rows here"
            placeholder="Paste rows here"
            value=""
            onChange={() => undefined}
            onPaste={(e) => {
              e.preventDefault()
              paste(grid.rows.length, 0, pastedCells(e.clipboardData.getData('text/plain')))
            }}
          />
        </div>
      )}
    </div>
  )
}
