import { CellGrid } from './CellGrid'
import { fieldsOf, kindLabels, type FieldSpec } from './fields'
import { rowsOf, set, valueAt, type Assembly, type Kind, type Row, type Step } from './model'
import { useWorkshop } from './Workshop'

const typed: FieldSpec['as'][] = ['text', 'local', 'expression', 'item', 'unit', 'whole']

const rank = (kind: Kind, spec: FieldSpec) => (['sequence', 'name', 'item', ...(kind === 'price' ? ['label'] : [])].includes(spec.field) ? 0 : spec.field === 'appliesWhen' ? 2 : spec.as === 'expression' ? 1 : 3)

/** All rows of one kind of an assembly as a table that is edited like a spreadsheet. */
export function KindTable({ assembly, kind }: { assembly: Assembly; kind: Kind }) {
  const { model, mayEdit, findings, language, goToRow } = useWorkshop()
  const rows = rowsOf(assembly).filter((r) => r.kind === kind)
  const specs = fieldsOf[kind].filter((s, i, all) => typed.includes(s.as) && all.findIndex((o) => o.field === s.field) === i)
  // What a row is about stands first, then what it says.
  specs.sort((a, b) => rank(kind, a) - rank(kind, b))
  const fieldOf = (spec: FieldSpec) => (spec.as === 'local' ? `${spec.field}/${language}` : spec.field)
  const optional = ['min', 'max', 'step', 'suggestion']

  function write(row: Row, spec: FieldSpec, text: string): Step[] {
    const before = valueAt(row, fieldOf(spec)) ?? null
    const value = text.trim()
    if (spec.as === 'whole') return /^\d{1,6}$/.test(value) ? [set(row.id, spec.field, Number(value), before)] : []
    return String(before ?? '') === value ? [] : [set(row.id, fieldOf(spec), value === '' && optional.includes(spec.field) ? null : value, before)]
  }

  if (rows.length === 0) return <p className="quiet">This assembly has no rows of this kind: {kindLabels[kind].toLowerCase()}.</p>
  return (
    <CellGrid
      label={kindLabels[kind]}
      columns={specs.map((s) => ({ key: s.field, head: s.label, label: s.label, className: s.as === 'expression' ? 'w-56 font-mono text-[0.8125rem]' : s.as === 'local' ? 'w-52' : 'w-28' }))}
      rows={rows.map((r) => ({
        key: r.id,
        cells: specs.map((s) => String(valueAt(r, fieldOf(s)) ?? '')),
        faults: specs.map((s) => findings.find((f) => f.rowId === r.id && f.field === s.field)),
        tail: (
          <button className="link px-1.5 text-sm" onClick={() => goToRow(assembly.id, r.id)}>
            open
          </button>
        ),
      }))}
      disabled={!mayEdit}
      onCommit={(i, j, text) => {
        const steps = write(rows[i]!, specs[j]!, text)
        if (steps.length > 0) model.edit(...steps)
      }}
      onPaste={(row, column, cells) => {
        const steps = cells.flatMap((line, i) => line.flatMap((text, j) => (rows[row + i] && specs[column + j] ? write(rows[row + i]!, specs[column + j]!, text) : [])))
        if (steps.length > 0) model.edit(...steps)
      }}
    />
  )
}
