import { ArrowUp, Plus, Trash2 } from 'lucide-react'
import { useState } from 'react'
import { newId } from '../../api/ids'
import { TextField } from '../../ui/TextField'
import { CellGrid } from './CellGrid'
import { FaultLine } from './Field'
import { add, everyAssembly, move, remove, set, type Step, valueAt, type ValueList } from './model'
import { useWorkshop } from './Workshop'

const emptyAsNull = (text: string) => (text === '' ? null : text)

/** Codes of sites as they are typed into one cell. */
const siteCodes = (text: string) => text.split(/[\s,;]+/).filter((code) => code !== '')

/** A value list with its values and their properties, edited like a spreadsheet. */
export function ListEditor({ list }: { list: ValueList }) {
  const { model, mayEdit, findings, document, language, goToRow } = useWorkshop()
  const faults = findings.filter((f) => f.rowId === list.id)
  const users = everyAssembly(document).flatMap((a) => a.topics.flatMap((t) => t.rows.flatMap((r) => (r.kind === 'attribute' && r.listId === list.id ? [{ assembly: a, row: r }] : []))))
  const [wide, setWide] = useState(list.values.some((v) => v.from || v.to || v.note || v.sites.length > 0))
  const fields = ['code', `label/${language}`, 'color', ...list.properties.map((p) => `properties/${p.id}`), ...(wide ? ['from', 'to', 'sites', 'note'] : [])]
  const nullable = (field: string) => ['color', 'from', 'to', 'note'].includes(field) || field.startsWith('properties/')

  function cell(valueId: string, field: string, text: string, before: unknown): Step {
    const value = text.trim()
    if (field === 'sites') return set(valueId, field, siteCodes(value), before ?? [])
    return set(valueId, field, nullable(field) ? emptyAsNull(value) : value, before ?? null)
  }

  function paste(row: number, column: number, pasted: string[][]) {
    const steps: Step[] = []
    let last = list.values.at(-1)?.id ?? null
    pasted.forEach((cells, i) => {
      const value = list.values[row + i]
      if (value) cells.forEach((c, j) => fields[column + j] && steps.push(cell(value.id, fields[column + j]!, c, valueAt(value, fields[column + j]!))))
      else {
        const made: Record<string, unknown> = { id: newId(), code: '', label: {}, properties: {} }
        cells.forEach((c, j) => {
          const [member, key] = (fields[column + j] ?? '').split('/')
          if (!member || c === '') return
          if (key) (made[member] as Record<string, string>)[key] = c
          else made[member] = member === 'sites' ? siteCodes(c) : c
        })
        steps.push(add(list.id, 'values', last, made))
        last = made.id as string
      }
    })
    model.edit(...steps)
  }

  return (
    <div className="grid gap-3">
      <div className="flex flex-wrap gap-3">
        <label className="grid gap-0.5">
          <span className="quiet text-sm italic">Name in expressions</span>
          <TextField disabled={!mayEdit} value={list.name} onCommit={(text, before) => model.edit(set(list.id, 'name', text.trim(), before))} />
        </label>
        <label className="grid gap-0.5">
          <span className="quiet text-sm italic">Label</span>
          <TextField disabled={!mayEdit} value={list.label[language] ?? ''} onCommit={(text, before) => model.edit(set(list.id, `label/${language}`, text, before))} />
        </label>
        {mayEdit && (
          <button className="act-bare ml-auto self-end" onClick={() => model.edit(remove(list.id))}>
            <Trash2 className="size-4" /> Delete list
          </button>
        )}
      </div>
      {faults
        .filter((f) => !f.field.startsWith('values/'))
        .map((f) => (
          <FaultLine key={f.field + f.message} fault={f} />
        ))}
      <CellGrid
        label={`Values of ${list.name}`}
        columns={[
          { key: 'code', head: 'Code', label: 'Code', className: 'w-28' },
          { key: 'label', head: `Label (${language})`, label: 'Label', className: 'w-48' },
          { key: 'color', head: 'Colour', label: 'Colour', className: 'w-20' },
          ...list.properties.map((p) => ({
            key: p.id,
            label: p.name,
            className: `w-28 ${p.type === 'number' ? 'text-right' : ''}`,
            head: (
              <span className="flex items-center gap-1 font-normal">
                <TextField className="w-24 border-0 bg-transparent font-semibold" aria-label={`Name of property ${p.name}`} disabled={!mayEdit} value={p.name} onCommit={(text, before) => model.edit(set(p.id, 'name', text.trim(), before))} />
                {p.type === 'number' && (
                  <TextField className="w-14 border-0 bg-transparent" aria-label={`Unit of property ${p.name}`} placeholder="unit" disabled={!mayEdit} value={p.unit} onCommit={(text, before) => model.edit(set(p.id, 'unit', text.trim(), before))} />
                )}
                {mayEdit && (
                  <button className="act-bare" aria-label={`Delete property ${p.name}`} onClick={() => model.edit(remove(p.id))}>
                    <Trash2 className="size-3" />
                  </button>
                )}
              </span>
            ),
          })),
          ...(wide
            ? [
                { key: 'from', head: 'Holds from', label: 'Holds from', className: 'w-24' },
                { key: 'to', head: 'until', label: 'until', className: 'w-24' },
                { key: 'sites', head: 'Only at sites', label: 'Only at sites', className: 'w-28' },
                { key: 'note', head: 'Note', label: 'Note', className: 'w-48' },
              ]
            : []),
        ]}
        rows={list.values.map((v, i) => ({
          key: v.id,
          lead: v.color ? <span aria-hidden className="ml-1 size-3 shrink-0 border border-black/25" style={{ background: v.color }} /> : undefined,
          cells: fields.map((f) => (f === 'sites' ? v.sites.join(', ') : String(valueAt(v, f) ?? ''))),
          faults: fields.map((f) => faults.find((x) => x.field === `values/${v.id}/${f}`)),
          tail: mayEdit && (
            <span className="flex">
              <button className="act-bare" aria-label={`Move ${v.code} up`} disabled={i === 0} onClick={() => model.edit(move(v.id, list.id, 'values', list.values[i - 2]?.id ?? null))}>
                <ArrowUp className="size-3.5" />
              </button>
              <button className="act-bare" aria-label={`Delete ${v.code}`} onClick={() => model.edit(remove(v.id))}>
                <Trash2 className="size-3.5" />
              </button>
            </span>
          ),
        }))}
        disabled={!mayEdit}
        onCommit={(i, j, text, before) => model.edit(cell(list.values[i]!.id, fields[j]!, text, fields[j] === 'sites' ? siteCodes(before) : nullable(fields[j]!) ? emptyAsNull(before) : before))}
        onPaste={paste}
      />
      <div className="flex flex-wrap gap-2">
        {mayEdit && (
          <>
            <button className="act" onClick={() => model.edit(add(list.id, 'values', list.values.at(-1)?.id ?? null, { id: newId(), code: `value_${list.values.length + 1}`, label: {} }))}>
              <Plus className="size-4" /> Value
            </button>
            {(['number', 'text', 'yesNo'] as const).map((type) => (
              <button
                key={type}
                className="act"
                onClick={() => model.edit(add(list.id, 'properties', list.properties.at(-1)?.id ?? null, { id: newId(), name: `property_${list.properties.length + 1}`, type, unit: '' }))}
              >
                <Plus className="size-4" /> {type === 'number' ? 'Number' : type === 'text' ? 'Text' : 'Yes/no'} property
              </button>
            ))}
          </>
        )}
        <button className="act-bare" aria-pressed={wide} onClick={() => setWide(!wide)}>
          {wide ? 'Hide' : 'Show'} dates, sites and notes
        </button>
      </div>
      <p className="quiet text-sm">
        {users.length === 0 ? (
          'No attribute uses this list yet.'
        ) : (
          <>
            Used by{' '}
            {users.map(({ assembly, row }, i) => (
              <span key={row.id}>
                {i > 0 && ', '}
                <button className="link" onClick={() => goToRow(assembly.id, row.id)}>
                  {row.name}
                </button>
              </span>
            ))}
          </>
        )}
      </p>
    </div>
  )
}
