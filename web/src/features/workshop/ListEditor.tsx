import { Plus, Trash2 } from 'lucide-react'
import { useState } from 'react'
import { newId } from '../../api/ids'
import { TextField } from '../../ui/TextField'
import { Grid } from '../../ui/grid/Grid'
import { FaultLine } from './Field'
import { add, everyAssembly, move, remove, set, type Step, valueAt, type ValueList } from './model'
import type { CellChange } from '../../ui/grid/types'
import { useEditsHere } from './useEditsHere'
import { useWorkshop } from './Workshop'
import { t } from '../../texts'

const emptyAsNull = (text: string) => (text === '' ? null : text)

/** Codes of sites as they are typed into one cell. */
const siteCodes = (text: string) => text.split(/[\s,;]+/).filter((code) => code !== '')

/** A code that no value of a list has. */
function freeCode(list: ValueList): string {
  const taken = new Set(list.values.map((v) => v.code.toLowerCase()))
  for (let n = list.values.length + 1; ; n++) if (!taken.has(`value_${n}`)) return `value_${n}`
}

/** The head of a property's column: its name, its unit, and the way to be rid of it. */
function PropertyHead({ property: p }: { property: ValueList['properties'][number] }) {
  const { model, mayEdit } = useWorkshop()
  return (
    <span className="flex items-center gap-0.5 font-normal">
      <TextField
        className="min-h-6 min-w-0 border-0 bg-transparent px-0 font-semibold"
        aria-label={t('workshop.nameOfPropertyName', { name: p.name })}
        disabled={!mayEdit}
        value={p.name}
        onCommit={(text, before) => model.edit(set(p.id, 'name', text.trim(), before))}
      />
      {p.type === 'number' && (
        <TextField
          className="min-h-6 w-10 min-w-0 border-0 bg-transparent px-0"
          aria-label={t('workshop.unitOfPropertyName', { name: p.name })}
          placeholder={t('workshop.unit')}
          disabled={!mayEdit}
          value={p.unit}
          onCommit={(text, before) => model.edit(set(p.id, 'unit', text.trim(), before))}
        />
      )}
      {mayEdit && (
        <button
          className="btn btn-ghost btn-sm"
          aria-label={t('workshop.deletePropertyName', { name: p.name })}
          onClick={() => model.edit(remove(p.id))}
        >
          <Trash2 className="size-3" />
        </button>
      )}
    </span>
  )
}

/** A value list with its values and their properties, edited like a spreadsheet. */
export function ListEditor({ list }: { list: ValueList }) {
  const { model, mayEdit, findings, document, language, goToRow } = useWorkshop()
  const faults = findings.filter((f) => f.rowId === list.id)
  const users = everyAssembly(document).flatMap((a) =>
    a.topics.flatMap((t) => t.rows.flatMap((r) => (r.kind === 'attribute' && r.listId === list.id ? [{ assembly: a, row: r }] : []))),
  )
  const here = useEditsHere(model)
  const [wide, setWide] = useState(list.values.some((v) => v.from || v.to || v.note || v.sites.length > 0))
  const fields = [
    'code',
    `label/${language}`,
    'color',
    ...list.properties.map((p) => `properties/${p.id}`),
    ...(wide ? ['from', 'to', 'sites', 'note'] : []),
  ]
  const nullable = (field: string) => ['color', 'from', 'to', 'note'].includes(field) || field.startsWith('properties/')

  function cell(valueId: string, field: string, text: string, before: unknown): Step {
    const value = text.trim()
    if (field === 'sites') return set(valueId, field, siteCodes(value), before ?? [])
    return set(valueId, field, nullable(field) ? emptyAsNull(value) : value, before ?? null)
  }

  function change(changes: CellChange[]) {
    const steps: Step[] = []
    const made = new Map<number, Record<string, unknown>>()
    for (const { row, column, text, before } of changes) {
      const [value, field] = [list.values[row], fields[column]!]
      if (value) {
        steps.push(cell(value.id, field, text, field === 'sites' ? siteCodes(before) : nullable(field) ? emptyAsNull(before) : before))
        continue
      }
      const row_ = made.get(row) ?? { id: newId(), code: '', label: {}, properties: {} }
      made.set(row, row_)
      const [member, key] = field.split('/')
      if (text.trim() === '') continue
      if (key) (row_[member!] as Record<string, string>)[key] = text.trim()
      else row_[member!] = member === 'sites' ? siteCodes(text) : text.trim()
    }
    let last = list.values.at(-1)?.id ?? null
    for (const value of made.values()) {
      steps.push(add(list.id, 'values', last, value))
      last = value.id as string
    }
    here.edit(...steps)
  }

  /** Values one after the other, the first of them after the one before a place. */
  function place(rows: number[], before: number | null) {
    let last = list.values.slice(0, before ?? list.values.length).findLast((_, i) => !rows.includes(i))?.id ?? null
    const steps: Step[] = []
    for (const row of rows) {
      steps.push(move(list.values[row]!.id, list.id, 'values', last))
      last = list.values[row]!.id
    }
    here.edit(...steps)
  }

  return (
    <div className="grid gap-3">
      <div className="flex flex-wrap gap-3">
        <label className="grid gap-0.5">
          <span className="quiet text-sm italic">{t('workshop.nameInExpressions')}</span>
          <TextField disabled={!mayEdit} value={list.name} onCommit={(text, before) => model.edit(set(list.id, 'name', text.trim(), before))} />
        </label>
        <label className="grid gap-0.5">
          <span className="quiet text-sm italic">{t('workshop.label')}</span>
          <TextField
            disabled={!mayEdit}
            value={list.label[language] ?? ''}
            onCommit={(text, before) => model.edit(set(list.id, `label/${language}`, text, before))}
          />
        </label>
        {mayEdit && (
          <button className="btn btn-ghost btn-sm ml-auto self-end" onClick={() => model.edit(remove(list.id))}>
            <Trash2 className="size-4" /> {t('workshop.deleteList')}
          </button>
        )}
      </div>
      {faults
        .filter((f) => !f.field.startsWith('values/'))
        .map((f) => (
          <FaultLine key={f.field + f.message} fault={f} />
        ))}
      <Grid
        name="values"
        label={t('workshop.valuesOfName', { name: list.name })}
        one="value"
        columns={[
          { key: 'code', name: t('workshop.code'), width: 150 },
          { key: 'label', name: t('workshop.label'), head: t('workshop.labelLanguage', { language }), width: 190, grows: true },
          { key: 'color', name: t('workshop.colour'), width: 90 },
          ...list.properties.map((p) => ({
            key: p.id,
            name: p.name,
            width: 120,
            look: p.type === 'number' ? 'text-right' : '',
            head: <PropertyHead property={p} />,
          })),
          ...(wide
            ? [
                { key: 'from', name: t('workshop.holdsFrom'), width: 110 },
                { key: 'to', name: t('workshop.until'), width: 110 },
                { key: 'sites', name: t('workshop.onlyAtSites'), width: 120 },
                { key: 'note', name: t('workshop.note'), width: 200 },
              ]
            : []),
        ]}
        count={list.values.length}
        faulty={list.values.flatMap((v, i) => (faults.some((f) => f.field.startsWith(`values/${v.id}/`)) ? [i] : []))}
        rowAt={(i) => {
          const v = list.values[i]
          return (
            v && {
              key: v.id,
              lead: v.color ? <span aria-hidden className="size-3 shrink-0 border border-black/25" style={{ background: v.color }} /> : undefined,
              cells: fields.map((f) => (f === 'sites' ? v.sites.join(', ') : String(valueAt(v, f) ?? ''))),
              faults: fields.map((f) => faults.find((x) => x.field === `values/${v.id}/${f}`)),
            }
          )
        }}
        disabled={!mayEdit}
        takesNew
        onChange={change}
        onAdd={(after) =>
          here.edit(
            add(list.id, 'values', (list.values[after ?? Infinity] ?? list.values.at(-1))?.id ?? null, {
              id: newId(),
              code: freeCode(list),
              label: {},
            }),
          )
        }
        onRemove={(rows) => here.edit(...rows.map((i) => remove(list.values[i]!.id)))}
        onMove={place}
        onUndo={here.undo}
        onRedo={here.redo}
      />
      <div className="flex flex-wrap gap-2">
        {mayEdit && (
          <>
            {(['number', 'text', 'yesNo'] as const).map((type) => (
              <button
                key={type}
                className="btn"
                onClick={() =>
                  model.edit(
                    add(list.id, 'properties', list.properties.at(-1)?.id ?? null, {
                      id: newId(),
                      name: `property_${list.properties.length + 1}`,
                      type,
                      unit: '',
                    }),
                  )
                }
              >
                <Plus className="size-4" />{' '}
                {t('workshop.typeProperty', {
                  type: type === 'number' ? t('workshop.number2') : type === 'text' ? t('workshop.text2') : t('workshop.yesNo2'),
                })}
              </button>
            ))}
          </>
        )}
        <button className="btn btn-ghost btn-sm" aria-pressed={wide} onClick={() => setWide(!wide)}>
          {t('workshop.wideDatesSitesAndNotes', { wide: wide ? t('workshop.hide') : t('workshop.show') })}
        </button>
      </div>
      <p className="quiet text-sm">
        {users.length === 0 ? (
          t('workshop.noAttributeUsesThisListYet')
        ) : (
          <>
            {t('workshop.usedBy')}{' '}
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
