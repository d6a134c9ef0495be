import { useQuery } from '@tanstack/react-query'
import { Plus, Trash2 } from 'lucide-react'
import { useId, useRef, useState } from 'react'
import { ask, client } from '../../api/client'
import { newId } from '../../api/ids'
import { ExpressionField, type Checked } from '../../ui/ExpressionField'
import { TextField } from '../../ui/TextField'
import { choicesOf } from './choices'
import type { FieldSpec } from './fields'
import { isLocal } from './fieldTexts'
import type { Answer } from '../../api/answer'
import { FilledBy } from './FilledBy'
import { namedRow } from './namedRow'
import { lineFor } from './rows/lineOf'
import { useRowsIfAny } from './rows/useRowActions'
import { add, assemblyOf, listOf, mostInstances, nameOf, remove, resized, set, valueAt, type Document, type Finding, type Row } from './model'
import { useWorkshop } from './Workshop'
import { t } from '../../texts'

type Props = { row: Row; spec: FieldSpec; assemblyId: string; autoFocus?: boolean }

/** One field of a row, with its label and what is wrong with it. */
export function Field({ row, spec, assemblyId, autoFocus }: Props) {
  const { findings } = useWorkshop()
  const id = useId()
  const faults = findings.filter((f) => f.rowId === row.id && (f.field === spec.field || f.field.startsWith(`${spec.field}/`)))
  return (
    <div className={`grid min-w-0 content-start gap-0.5 ${spec.wide ? 'col-span-full' : ''}`}>
      {spec.form === 'flag' ? null : (
        <label htmlFor={id} className="quiet text-sm italic">
          {spec.label}
        </label>
      )}
      <Input row={row} spec={spec} assemblyId={assemblyId} id={id} faults={faults} autoFocus={autoFocus} />
      {spec.form !== 'expression' && faults.map((f) => <FaultLine key={f.id + f.message} fault={f} />)}
    </div>
  )
}

export const FaultLine = ({ fault }: { fault: Pick<Finding, 'message'> }) => (
  <p role="alert" className="fault text-sm">
    {fault.message}
  </p>
)

function Input({ row, spec, assemblyId, id, faults, autoFocus }: Props & { id: string; faults: Finding[] }) {
  const { model, mayEdit, language, document, library } = useWorkshop()
  const field = isLocal(spec) ? `${spec.field}/${language}` : spec.field
  const held = valueAt(row, field)
  const common = { id, disabled: !mayEdit, 'aria-invalid': faults.length > 0, 'aria-label': spec.label }
  const change = (value: unknown, before: unknown = held) => model.edit(set(row.id, field, value, before))

  switch (spec.form) {
    case 'flag':
      return (
        <label className="mt-4 flex items-center gap-2">
          <input type="checkbox" {...common} className="size-4 accent-primary" checked={held === true} onChange={(e) => change(e.target.checked)} />
          {spec.label}
        </label>
      )
    case 'whole':
      return (
        <TextField
          {...common}
          className="text-right"
          inputMode="numeric"
          value={String(held ?? 0)}
          onCommit={(text, before) => {
            if (/^\d{1,6}$/.test(text.trim())) change(Number(text), Number(before))
          }}
        />
      )
    case 'expression':
      return <Expression row={row} field={spec.field} label={spec.label} assemblyId={assemblyId} faults={faults} />
    case 'assembly':
      return row.kind === 'subassembly' ? <FilledBy place={row} {...common} /> : null
    case 'choice':
      return <Select row={row} spec={spec} assemblyId={assemblyId} {...common} />
    case 'item':
      return <ItemField value={String(held ?? '')} onCommit={(text, before) => change(text.trim(), before)} {...common} />
    case 'unit':
      return (
        <>
          <TextField
            {...common}
            value={String(held ?? '')}
            list={`${id}-units`}
            autoFocus={autoFocus}
            onCommit={(text, before) => change(text.trim(), before)}
          />
          <datalist id={`${id}-units`}>
            {library?.units.map((u) => (
              <option key={u} value={u} />
            ))}
          </datalist>
        </>
      )
    case 'date':
      return <input type="date" {...common} className="input" value={String(held ?? '')} onChange={(e) => change(e.target.value || null)} />
    case 'members': {
      const chosen = String(held ?? '')
        .split(' ')
        .filter(Boolean)
      const list = row.kind === 'attribute' ? listOf(document, row.listId) : undefined
      return (
        <Ticks
          options={(list?.values ?? []).map((v) => [v.id, v.label?.en ?? v.code])}
          chosen={chosen}
          disabled={!mayEdit}
          onChange={(now) => change(now.join(' ') || null)}
        />
      )
    }
    case 'instances': {
      const instances = (held as { id: string }[] | undefined) ?? []
      return (
        <TextField
          {...common}
          className="text-right"
          inputMode="numeric"
          value={String(Math.max(1, instances.length))}
          onCommit={(text) => {
            const wanted = Number(text.trim())
            // Ids last: those that go and come back are the same again.
            if (Number.isInteger(wanted) && wanted >= 1 && wanted <= mostInstances && wanted !== instances.length) change(resized(instances, wanted))
          }}
        />
      )
    }
    case 'figures':
      return row.kind === 'part' ? <LineFigures row={row} assemblyId={assemblyId} /> : null
    case 'site':
      return (
        <select {...common} className="select" value={String(held ?? '')} onChange={(e) => change(e.target.value)}>
          <option value="">{t('workshop.whereTheParentIsMade')}</option>
          {(library?.sites ?? []).map((s) => (
            <option key={s.code} value={s.code}>
              {s.label}
            </option>
          ))}
        </select>
      )
    case 'sites': {
      const chosen = (held as string[] | undefined) ?? []
      return (
        <Ticks
          options={(library?.sites ?? []).map((s) => [s.code, s.label])}
          chosen={chosen}
          disabled={!mayEdit}
          onChange={(now) => change(now, chosen)}
        />
      )
    }
    default:
      return (
        <TextField
          {...common}
          autoFocus={autoFocus}
          value={String(held ?? '')}
          placeholder={isLocal(spec) && language !== 'en' ? String(valueAt(row, `${spec.field}/en`) ?? '') : undefined}
          onCommit={(text, before) => {
            const value = spec.nullable && text.trim() === '' ? null : isLocal(spec) ? text : text.trim()
            change(value, before === '' && spec.nullable === true ? null : before)
          }}
        />
      )
  }
}

/** The named numbers of a part line: each with its formula, unit and decimals. */
function LineFigures({ row, assemblyId }: { row: Extract<Row, { kind: 'part' }>; assemblyId: string }) {
  const { model, mayEdit, findings } = useWorkshop()
  return (
    <div className="grid gap-1.5">
      {row.figures.map((figure, i) => (
        <div key={figure.id} className="grid grid-cols-[9rem_minmax(0,1fr)_5rem_4rem_auto] items-start gap-2">
          <TextField
            aria-label={t('workshop.nameOfFigure', { figure: i + 1 })}
            disabled={!mayEdit}
            placeholder={t('workshop.name2')}
            value={figure.name}
            onCommit={(text, before) => model.edit(set(figure.id, 'name', text.trim(), before))}
          />
          <Expression
            row={row}
            field={`figures/${i}/expression`}
            label={t('workshop.figureName', { name: figure.name || i + 1 })}
            assemblyId={assemblyId}
            faults={findings.filter((f) => f.rowId === row.id && f.field === `figures/${i}/expression`)}
          />
          <TextField
            aria-label={t('workshop.unitOfFigure', { figure: i + 1 })}
            disabled={!mayEdit}
            placeholder={t('workshop.unit')}
            value={figure.unit}
            onCommit={(text, before) => model.edit(set(figure.id, 'unit', text.trim(), before))}
          />
          <TextField
            aria-label={t('workshop.decimalsOfFigure', { figure: i + 1 })}
            className="text-right"
            inputMode="numeric"
            disabled={!mayEdit}
            value={String(figure.decimals)}
            onCommit={(text, before) => {
              if (/^\d$/.test(text.trim())) model.edit(set(figure.id, 'decimals', Number(text), Number(before)))
            }}
          />
          {mayEdit && (
            <button
              className="btn btn-ghost btn-sm"
              aria-label={t('workshop.deleteFigureName', { name: figure.name || i + 1 })}
              onClick={() => model.edit(remove(figure.id))}
            >
              <Trash2 className="size-4" />
            </button>
          )}
        </div>
      ))}
      {mayEdit && (
        <div>
          <button
            className="btn btn-ghost btn-sm"
            onClick={() =>
              model.edit(
                add(row.id, 'figures', row.figures.at(-1)?.id ?? null, {
                  id: newId(),
                  name: t('workshop.size', { n: row.figures.length + 1 }),
                  expression: '',
                  unit: 'mm',
                  decimals: 0,
                }),
              )
            }
          >
            <Plus className="size-4" /> {t('workshop.figure')}
          </button>
        </div>
      )}
    </div>
  )
}

/** Some of a few, each with a box to tick. */
function Ticks({
  options,
  chosen,
  disabled,
  onChange,
}: {
  options: [string, string][]
  chosen: string[]
  disabled: boolean
  onChange: (chosen: string[]) => void
}) {
  return (
    <div className="flex flex-wrap gap-3">
      {options.map(([value, text]) => (
        <label key={value} className="flex items-center gap-1.5">
          <input
            type="checkbox"
            className="size-4 accent-primary"
            disabled={disabled}
            checked={chosen.includes(value)}
            onChange={(e) => onChange(e.target.checked ? [...chosen, value] : chosen.filter((c) => c !== value))}
          />
          {text}
        </label>
      ))}
    </div>
  )
}

function Select({
  row,
  spec,
  assemblyId,
  ...common
}: {
  row: Row
  spec: FieldSpec
  assemblyId: string
  id: string
  disabled: boolean
  'aria-label': string
}) {
  const { model, document, library, goToList } = useWorkshop()
  const held = valueAt(row, spec.field)
  const options = choicesOf(spec, row, { document, library, assemblyId })
  const known = options.some(([value]) => value === (held ?? ''))
  return (
    <span className="flex gap-1">
      <select
        {...common}
        className="select min-w-0"
        value={String(held ?? '')}
        onChange={(e) => model.edit(set(row.id, spec.field, e.target.value === '' && spec.nullable ? null : e.target.value, held))}
      >
        {!known && <option value={String(held ?? '')}>{String(held)}</option>}
        {options.map(([value, text]) => (
          <option key={value} value={value}>
            {text}
          </option>
        ))}
      </select>
      {spec.from === 'lists' && typeof held === 'string' && (
        <button className="btn shrink-0" onClick={() => goToList(held)}>
          {t('workshop.open')}
        </button>
      )}
    </span>
  )
}

function ItemField({
  value,
  onCommit,
  ...common
}: {
  value: string
  onCommit: (text: string, before: string) => void
  id: string
  disabled: boolean
}) {
  const [search, setSearch] = useState('')
  const items = useQuery({
    queryKey: ['items', search],
    queryFn: ({ signal }) => ask(client.GET('/api/items', { params: { query: { search } }, signal })),
    enabled: search !== '',
    staleTime: 60_000,
  })
  return (
    <>
      <TextField {...common} value={value} list={`${common.id}-items`} onCommit={onCommit} onInput={(e) => setSearch(e.currentTarget.value)} />
      <datalist id={`${common.id}-items`}>
        {items.data?.map((i) => (
          <option key={i.number} value={i.number}>
            {i.description}
          </option>
        ))}
      </datalist>
    </>
  )
}

/** What an attribute of an assembly, or what it computes, comes to on the bench; nothing where the assembly stands in several places. */
export function presentValue(answer: Answer | undefined, document: Document, assemblyId: string, name: string): string | undefined {
  const row = assemblyOf(document, assemblyId)
    ?.topics.flatMap((t) => t.rows)
    .find((r) => nameOf(r).toLowerCase() === name.toLowerCase())
  if (!answer || !row) return undefined
  const texts = [
    ...answer.sections
      .flatMap((s) => s.asked)
      .filter((a) => a.rowId === row.id)
      .map((a) => a.valueLabel ?? t('workshop.open2')),
    ...answer.figures.filter((f) => f.rowId === row.id).map((f) => f.suggested),
  ]
  return texts.length === 1 ? texts[0] : undefined
}

const unknownName = 'JF020'

/** An expression of a row: the editor, what is wrong with it, and what it comes to on the bench. */
export function Expression({
  row,
  field,
  label,
  assemblyId,
  faults,
}: {
  row: Row
  field: string
  label: string
  assemblyId: string
  faults: Finding[]
}) {
  const { model, mayEdit, revisionId, bench, document, goToRow, showUses } = useWorkshop()
  const rows = useRowsIfAny()
  const [checked, setChecked] = useState<Checked | null>(null)
  const writer = useRef<((text: string) => void) | null>(null)
  const [shown, setShown] = useState(String(valueAt(row, field) ?? ''))
  const value = String(valueAt(row, field) ?? '')
  const params = { path: { id: revisionId } }
  // Circles and what depends on other faults are seen only in the whole model.
  const wider = faults.filter((f) => checked?.findings.every((c) => c.message !== f.message) ?? true)
  return (
    <div className="min-w-0">
      <ExpressionField
        label={label}
        value={value}
        readOnly={!mayEdit}
        check={(text) => {
          setShown(text)
          return ask(client.POST('/api/revisions/{id}/expression', { params, body: { assemblyId, rowId: row.id, field, text, ...bench.question } }))
        }}
        complete={(text, position) => ask(client.POST('/api/revisions/{id}/completion', { params, body: { assemblyId, text, position } }))}
        valueNow={(name) => presentValue(bench.answer, document, assemblyId, name)}
        onChecked={setChecked}
        onName={(what, text, end) => {
          const named = namedRow(document, assemblyId, text, end)
          if (!named) return false
          if (what === 'uses') showUses(named.row.id, nameOf(named.row))
          else goToRow(named.assembly.id, named.row.id, what === 'rename')
          return true
        }}
        writer={writer}
        onCommit={(text, before) => model.edit(set(row.id, field, text, before))}
      />
      {checked?.findings.map((f, i) => (
        <div key={f.start + f.message} className="flex flex-wrap items-baseline gap-x-2">
          <FaultLine fault={f} />
          {mayEdit && rows && f.id === unknownName && (
            <button
              className="link text-sm"
              onMouseDown={(e) => e.preventDefault()}
              onClick={() => rows.propose(row, lineFor(shown, f.start, f.length))}
            >
              {t('workshop.makeAttributeSlice', { slice: shown.slice(f.start, f.start + f.length) })}
            </button>
          )}
          {mayEdit &&
            f.fixes?.map((fix, k) => (
              <button
                key={fix.text}
                className="link text-sm"
                title={`${fix.text}${i + k === 0 ? t('workshop.altEnter') : ''}`}
                onMouseDown={(e) => e.preventDefault()}
                onClick={() => writer.current?.(fix.text)}
              >
                {t('workshop.writeLabel', { label: fix.label })}
              </button>
            ))}
        </div>
      ))}
      {(checked === null || checked.findings.length === 0) && wider.map((f) => <FaultLine key={f.id + f.message} fault={f} />)}
      {checked?.type && (
        <p className="quiet text-sm">
          {checked.example !== null && (
            <>
              {checked.final ? t('workshop.now') : t('workshop.forInstance')} <b className="font-semibold">{checked.example}</b> ·{' '}
            </>
          )}
          {checked.type}
        </p>
      )}
    </div>
  )
}
