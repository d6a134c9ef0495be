import { ArrowDown, ArrowUp, Copy, Trash2, TriangleAlert } from 'lucide-react'
import { useEffect, useRef, type KeyboardEvent } from 'react'
import { Link } from 'react-router'
import { inEnglish } from '../../ui/format'
import { StateMark } from '../../ui/StateMark'
import { HealthMark } from '../health/HealthMark'
import { RemovedByRule } from '../health/RemovedByRule'
import { fieldsOf, moreFields } from './fields'
import { Expression, Field } from './Field'
import { GridEditor } from './GridEditor'
import { KindMark } from './KindMark'
import { add, copyOf, isRule, move, nameOf, remove, summaryOf, type Assembly, type Row, type Topic } from './model'
import { SubassemblyInputs } from './SubassemblyInputs'
import { useWorkshop } from './Workshop'

export const rowElementId = (rowId: string) => `row-${rowId}`

/** A row of a worksheet: one line, which opens in place to be edited. */
export function RowLine({ row, topic, assembly, open }: { row: Row; topic: Topic; assembly: Assembly; open: boolean }) {
  const { goToRow, findings, health, document } = useWorkshop()
  const line = useRef<HTMLDivElement>(null)
  const faults = findings.filter((f) => f.rowId === row.id)
  const message = 'message' in row ? inEnglish(row.message) : ''
  const name = row.kind === 'operation' ? `${row.sequence} ${inEnglish(row.label) || row.name}` : row.kind === 'price' ? inEnglish(row.label) : nameOf(row)

  useEffect(() => {
    if (open) line.current?.scrollIntoView({ block: 'nearest' })
  }, [open])

  return (
    <div ref={line} id={rowElementId(row.id)} className={`border-b hair ${open ? 'border-l-2 border-l-primary bg-base-200/60' : ''}`}>
      <button
        className={`grid w-full grid-cols-[3rem_minmax(0,1fr)_auto] items-center gap-2 py-1 pr-2 text-left hover:bg-base-200 ${open ? 'pl-1' : 'pl-1.5'}`}
        aria-expanded={open}
        data-row
        onClick={() => goToRow(assembly.id, open ? null : row.id)}
        onKeyDown={walk}
      >
        <span className="grid place-items-center">
          <KindMark row={row} />
        </span>
        <span className="min-w-0 truncate">
          {name && <b className="mr-2 font-semibold">{name}</b>}
          <span className={row.kind === 'attribute' || row.kind === 'subassembly' ? 'quiet' : 'font-mono text-[0.8125rem]'}>{summaryOf(row, document)}</span>
          {row.appliesWhen && (
            <span className="quiet">
              {' '}
              <i>when</i> <span className="font-mono text-[0.8125rem]">{row.appliesWhen}</span>
            </span>
          )}
          {message && <i className="quiet ml-2">{message}</i>}
        </span>
        <span className="flex items-center gap-2">
          {faults.length > 0 && (
            <span className="fault flex items-center gap-1 text-sm" title={faults.map((f) => f.message).join('\n')}>
              <TriangleAlert className="size-3.5" aria-label={`${faults.length} faults`} /> {faults.length > 1 && faults.length}
            </span>
          )}
          <HealthMark findings={health.filter((f) => f.rowId === row.id)} />
          <Present row={row} />
        </span>
      </button>
      {open && <OpenRow row={row} topic={topic} assembly={assembly} />}
    </div>
  )
}

/** Arrow keys go from row to row. */
function walk(event: KeyboardEvent<HTMLButtonElement>) {
  if (event.altKey || (event.key !== 'ArrowDown' && event.key !== 'ArrowUp')) return
  const rows = [...document.querySelectorAll<HTMLElement>('[data-row]')]
  const next = rows[rows.indexOf(event.currentTarget) + (event.key === 'ArrowDown' ? 1 : -1)]
  if (next) {
    event.preventDefault()
    next.focus()
  }
}

/** What the row comes to on the bench. */
function Present({ row }: { row: Row }) {
  const { bench } = useWorkshop()
  const answer = bench.answer
  if (!answer) return null
  if (row.kind === 'attribute') {
    const asked = answer.sections.flatMap((s) => s.asked).find((a) => a.rowId === row.id)
    return asked ? (
      <span className="flex items-center gap-1 text-sm">
        {asked.valueLabel ?? ''} <StateMark state={asked.missing ? 'needed' : asked.state} clash={asked.clash} />
      </span>
    ) : null
  }
  if (row.kind === 'computed') return <span className="text-sm whitespace-nowrap">{answer.figures.find((f) => f.rowId === row.id)?.suggested}</span>
  if (row.kind === 'part' || row.kind === 'operation') {
    const line = answer.lines.find((l) => l.rowId === row.id)
    return line ? <span className={`text-sm whitespace-nowrap ${line.suggested === 'out' ? 'quiet italic' : ''}`}>{line.suggested === 'out' ? 'not now' : line.suggestedQuantity}</span> : null
  }
  const clash = answer.clashes.find((c) => c.reason.causes.some((x) => x.rowId === row.id))
  return clash ? <StateMark state="clash" clash={clash.number} /> : null
}

function OpenRow({ row, topic, assembly }: { row: Row; topic: Topic; assembly: Assembly }) {
  const { model, document, mayEdit, goToRow, findings, health, revisionId } = useWorkshop()
  const index = topic.rows.findIndex((r) => r.id === row.id)
  const specs = fieldsOf[row.kind].filter((s) => s.when?.(row) ?? true)
  const hasMore = row.note || row.from || row.to || row.sites.length > 0
  const others = findings.filter((f) => f.rowId === row.id && !specs.concat(moreFields).some((s) => f.field === s.field || f.field.startsWith(`${s.field}/`)) && !/^(columns|rows|inputs)/.test(f.field))

  const up = () => index > 0 && model.edit(move(row.id, topic.id, 'rows', topic.rows[index - 2]?.id ?? null))
  const down = () => index < topic.rows.length - 1 && model.edit(move(row.id, topic.id, 'rows', topic.rows[index + 1]!.id))

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
          <Field key={spec.field + spec.as} row={row} spec={spec} assemblyId={assembly.id} />
        ))}
      </div>
      {row.kind === 'grid' && <GridEditor grid={row} assemblyId={assembly.id} />}
      {row.kind === 'subassembly' && <SubassemblyInputs place={row} render={(field, label) => <Expression row={row} field={field} label={label} assemblyId={assembly.id} faults={findings.filter((f) => f.rowId === row.id && f.field === field)} />} />}
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
              why
            </Link>
          </p>
        ))}
      {isRule(row) && model.revision && <RemovedByRule key={model.revision.head} revisionId={revisionId} head={model.revision.head} rowId={row.id} />}
      <details open={hasMore ? true : undefined}>
        <summary className="quiet cursor-pointer text-sm">Note, dates and sites</summary>
        <div className="grid grid-cols-[repeat(auto-fill,minmax(9rem,1fr))] gap-x-3 gap-y-1.5 pt-1">
          {moreFields.map((spec) => (
            <Field key={spec.field} row={row} spec={spec} assemblyId={assembly.id} />
          ))}
        </div>
      </details>
      {mayEdit && (
        <div className="flex flex-wrap items-center gap-1">
          <button className="act-bare" disabled={index === 0} onClick={up} title="Alt+↑">
            <ArrowUp className="size-4" /> Up
          </button>
          <button className="act-bare" disabled={index === topic.rows.length - 1} onClick={down} title="Alt+↓">
            <ArrowDown className="size-4" /> Down
          </button>
          <label className="quiet flex items-center gap-1 text-sm">
            to topic
            <select
              className="field w-auto"
              value={topic.id}
              onChange={(e) => {
                const target = assembly.topics.find((t) => t.id === e.target.value)
                if (target) model.edit(move(row.id, target.id, 'rows', target.rows.at(-1)?.id ?? null))
              }}
            >
              {assembly.topics.map((t) => (
                <option key={t.id} value={t.id}>
                  {inEnglish(t.label)}
                </option>
              ))}
            </select>
          </label>
          <button
            className="act-bare"
            onClick={() => {
              const copy = copyOf(document, assembly, row)
              model.edit(add(topic.id, 'rows', row.id, copy))
              goToRow(assembly.id, copy.id)
            }}
          >
            <Copy className="size-4" /> Copy
          </button>
          <button className="act-bare ml-auto" onClick={() => model.edit(remove(row.id))}>
            <Trash2 className="size-4" /> Delete
          </button>
        </div>
      )}
    </div>
  )
}
