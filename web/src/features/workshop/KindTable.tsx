import { useState } from 'react'
import { Grid } from '../../ui/grid/Grid'
import type { CellChange, GridRow } from '../../ui/grid/types'
import { isWhole, kindLabel, type FieldSpec } from './fields'
import { cellFields, emptyRow, fieldTexts } from './fieldTexts'
import { add, nextNumber, remove, rowsOf, set, valueAt, type Assembly, type Kind, type Row, type Step } from './model'
import { useEditsHere } from './useEditsHere'
import { highestOnItsWay } from './useModel'
import { useWorkshop } from './Workshop'
import { t } from '../../texts'

const cellKey = (row: Row, spec: FieldSpec) => `${row.id} ${spec.field}`

/** All rows of one kind of an assembly as a table that is edited like a spreadsheet. */
export function KindTable({ assembly, kind }: { assembly: Assembly; kind: Kind }) {
  const { model, mayEdit, findings, language, goToRow, document, library, revisionId } = useWorkshop()
  const here = useEditsHere(model)
  /** What was typed where it can stand for nothing; it stays there until something else is typed. */
  const [wrong, setWrong] = useState<ReadonlyMap<string, string>>(new Map())
  const rows = rowsOf(assembly).filter((r) => r.kind === kind)
  const specs = cellFields(kind)
  const texts = fieldTexts({ document, library, assemblyId: assembly.id, language })
  const topic = assembly.topics.find((t) => t.rows.some((r) => r.id === rows.at(-1)?.id)) ?? assembly.topics.at(-1)
  const takesNew = mayEdit && isWhole(kind) && topic !== undefined

  function change(changes: CellChange[]) {
    const steps: Step[] = []
    const made = new Map<number, Row>()
    let number = Math.max(nextNumber(document), highestOnItsWay(revisionId) + 1)
    const untold = new Map(wrong)
    for (const { row: at, column, text, before: seen } of changes) {
      const [there, spec] = [rows[at], specs[column]!]
      const row = there ?? made.get(at) ?? emptyRow(kind, number++)
      untold.delete(cellKey(row, spec))
      if (!there) {
        made.set(at, row)
        if (!texts.write(row, spec, text)) untold.set(cellKey(row, spec), text)
        continue
      }
      const value = texts.valueOf(row, spec, text)
      // What stood there when typing began: what someone else has changed since is not overwritten unseen.
      const now = valueAt(row, texts.pathOf(spec)) ?? null
      const before = seen === (wrong.get(cellKey(row, spec)) ?? texts.textOf(row, spec)) ? now : (texts.valueOf(row, spec, seen) ?? null)
      if (value === undefined) untold.set(cellKey(row, spec), text)
      else if (String(before ?? '') !== String(value ?? '')) steps.push(set(row.id, texts.pathOf(spec), value, before))
    }
    let last = rows.at(-1)?.id ?? topic?.rows.at(-1)?.id ?? null
    for (const row of made.values()) {
      steps.push(add(topic!.id, 'rows', last, row))
      last = row.id
    }
    setWrong(untold)
    here.edit(...steps)
  }

  const cellsOf = (row: Row): GridRow => ({
    key: row.id,
    cells: specs.map((s) => wrong.get(cellKey(row, s)) ?? texts.textOf(row, s)),
    faults: specs.map((s) => {
      const text = wrong.get(cellKey(row, s))
      if (text === undefined) return findings.find((f) => f.rowId === row.id && f.field === s.field)
      return { message: texts.refusal(row, s, text), start: 0, length: text.length, suggestion: null }
    }),
  })

  return (
    <>
      {rows.length === 0 && (
        <p className="quiet">
          {t('workshop.noRowsOfKind', { kind: kindLabel(kind).toLowerCase() })}
          {takesNew && t('workshop.typeTheFirstOneOrPaste')}
        </p>
      )}
      {(rows.length > 0 || takesNew) && (
        <Grid
          name={`kind.${kind}`}
          label={kindLabel(kind)}
          one="row"
          columns={specs.map((s) => ({
            key: s.field,
            name: s.label,
            width: s.form === 'expression' ? 240 : s.form === 'local' ? 210 : s.form === 'flag' || s.form === 'whole' ? 90 : 140,
            look: s.form === 'expression' ? 'font-mono text-[0.8125rem]' : s.form === 'whole' ? 'text-right' : '',
          }))}
          count={rows.length}
          faulty={rows.flatMap((r, i) => (findings.some((f) => f.rowId === r.id) || specs.some((spec) => wrong.has(cellKey(r, spec))) ? [i] : []))}
          rowAt={(i) => rows[i] && cellsOf(rows[i])}
          disabled={!mayEdit}
          takesNew={takesNew}
          onChange={change}
          onRemove={(marked) => here.edit(...marked.map((i) => remove(rows[i]!.id)))}
          onOpen={(i) => goToRow(assembly.id, rows[i]!.id)}
          onUndo={here.undo}
          onRedo={here.redo}
        />
      )}
    </>
  )
}
