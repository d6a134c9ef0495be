import { ArrowDown, ArrowUp, Copy, Trash2 } from 'lucide-react'
import { Link } from 'react-router'
import { inEnglish } from '../../../ui/format'
import { RemovedByRule } from '../../health'
import { Remarks } from '../../reviews'
import { Expression, Field } from '../Field'
import { fieldsOf, moreFields } from '../fields'
import { GridEditor } from '../GridEditor'
import { isRule, placeOf, type Row } from '../model'
import { SubassemblyInputs } from '../SubassemblyInputs'
import { useWorkshop } from '../Workshop'
import { useRows } from './useRowActions'
import { t } from '../../../texts'

/** A row that is open: its fields, what is wrong with it, and what can be done with it. */
export function OpenRow({ row }: { row: Row }) {
  const { document, model, mayEdit, goToRow, findings, health, revisionId } = useWorkshop()
  const rows = useRows()
  const { topic, assembly } = placeOf(document, row.id)!
  const specs = fieldsOf[row.kind].filter((s) => s.isOf(row))
  const hasMore = row.note || row.from || row.to || row.sites.length > 0
  const others = findings.filter(
    (f) =>
      f.rowId === row.id &&
      !specs.concat(moreFields).some((s) => f.field === s.field || f.field.startsWith(`${s.field}/`)) &&
      !/^(columns|rows|inputs)/.test(f.field),
  )

  const up = () => rows.moveBy(row, -1)
  const down = () => rows.moveBy(row, 1)

  return (
    <div
      className="grid gap-2 px-3 pt-1 pb-3"
      onKeyDown={(e) => {
        if (!e.altKey || !mayEdit) return
        if (e.key === 'ArrowUp') up()
        if (e.key === 'ArrowDown') down()
      }}
    >
      <div className="grid grid-cols-[repeat(auto-fill,minmax(9rem,1fr))] gap-x-3 gap-y-1.5">
        {specs.map((spec) => (
          <Field key={spec.field + spec.form} row={row} spec={spec} assemblyId={assembly.id} />
        ))}
      </div>
      {row.kind === 'grid' && <GridEditor grid={row} assemblyId={assembly.id} />}
      {row.kind === 'subassembly' && (
        <SubassemblyInputs
          place={row}
          render={(field, label) => (
            <Expression
              row={row}
              field={field}
              label={label}
              assemblyId={assembly.id}
              faults={findings.filter((f) => f.rowId === row.id && f.field === field)}
            />
          )}
        />
      )}
      {others.map((f) => (
        <p key={f.message} className="fault text-sm">
          {f.message}
        </p>
      ))}
      {health
        .filter((f) => f.rowId === row.id)
        .map((f) => (
          <p key={f.key} className="text-sm text-warning">
            {f.sentence}{' '}
            <Link className="link" to={`/workshop/${revisionId}/health`}>
              {t('workshop.why')}
            </Link>
          </p>
        ))}
      {isRule(row) && model.revision && <RemovedByRule key={model.revision.head} revisionId={revisionId} head={model.revision.head} rowId={row.id} />}
      <details open={hasMore ? true : undefined}>
        <summary className="quiet cursor-pointer text-sm">{t('workshop.noteDatesAndSites')}</summary>
        <div className="grid grid-cols-[repeat(auto-fill,minmax(9rem,1fr))] gap-x-3 gap-y-1.5 pt-1">
          {moreFields.map((spec) => (
            <Field key={spec.field} row={row} spec={spec} assemblyId={assembly.id} />
          ))}
        </div>
      </details>
      {mayEdit && (
        <div className="flex flex-wrap items-center gap-1">
          <button className="btn btn-ghost btn-sm" onClick={up} title="Alt+↑">
            <ArrowUp className="size-4" /> {t('workshop.up')}
          </button>
          <button className="btn btn-ghost btn-sm" onClick={down} title="Alt+↓">
            <ArrowDown className="size-4" /> {t('workshop.down')}
          </button>
          <label className="quiet flex items-center gap-1 text-sm">
            {t('workshop.toTopic')}
            <select
              className="select w-auto"
              value={topic.id}
              onChange={(e) => {
                const target = assembly.topics.find((t) => t.id === e.target.value)
                if (target) rows.moveToTopic(row, target)
              }}
            >
              {assembly.topics.map((t) => (
                <option key={t.id} value={t.id}>
                  {inEnglish(t.label)}
                </option>
              ))}
            </select>
          </label>
          <button className="btn btn-ghost btn-sm" title="Ctrl+D" onClick={() => goToRow(assembly.id, rows.duplicate(row)?.[0] ?? row.id)}>
            <Copy className="size-4" /> {t('workshop.copy')}
          </button>
          <button className="btn btn-ghost btn-sm ml-auto" onClick={() => rows.remove(row)}>
            <Trash2 className="size-4" /> {t('workshop.delete')}
          </button>
        </div>
      )}
      <Remarks revisionId={revisionId} rowId={row.id} />
    </div>
  )
}
