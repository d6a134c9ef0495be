import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { ask, client, sentenceOf } from '../../../api/client'
import { useRight } from '../../../session/session'
import type { Finding, Row } from '../model'
import { t } from '../../../texts'

/** What the register does not have yet, and a row names. */
type Missing = { table: 'items' | 'work-centres'; code: string }

const unknownItem = 'JF085'
const unknownWorkCentre = 'JF086'

/** Codes that a row names and the register does not have. */
export function missingOf(row: Row, findings: Finding[]): Missing[] {
  const of = findings.filter((f) => f.rowId === row.id)
  const item =
    'item' in row &&
    row.item !== '' &&
    of.some((f) => f.id === unknownItem && f.field === 'item' && f.message.includes(row.item) && f.message.startsWith('There is no'))
      ? [{ table: 'items' as const, code: row.item }]
      : []
  const centre =
    row.kind === 'operation' && row.workCentre !== '' && of.some((f) => f.id === unknownWorkCentre && f.field === 'workCentre')
      ? [{ table: 'work-centres' as const, code: row.workCentre }]
      : []
  return [...item, ...centre]
}

const fields = {
  items: [
    ['description', t('workshop.description'), ''],
    ['unit', t('workshop.unitEmptyPieces'), ''],
    ['kind', t('workshop.kind'), 'bought'],
    ['cost', t('workshop.cost'), ''],
  ],
  'work-centres': [
    ['label', t('workshop.name'), ''],
    ['site', t('workshop.site'), ''],
    ['labour rate', t('workshop.labourAnHour'), ''],
    ['machine rate', t('workshop.machineAnHour'), ''],
  ],
} as const

/** Makes what a row names and the register does not have, without leaving the row. */
export function MakeMissing({ table, code }: Missing) {
  const mayMake = useRight('editLibrary')
  const queries = useQueryClient()
  const [values, setValues] = useState<Record<string, string> | null>(null)
  const make = useMutation({
    mutationFn: async (given: Record<string, string>) => {
      const columns = Object.keys(given).filter((c) => given[c]!.trim() !== '')
      const key = table === 'items' ? 'number' : 'code'
      const done = await ask(
        client.POST('/api/library/{table}/rows', {
          params: { path: { table } },
          body: { columns: [key, ...columns], rows: [[code, ...columns.map((c) => given[c]!.trim())]], before: null },
        }),
      )
      if (!done.stored) throw new Error(done.faults.map((f) => `${f.column}: ${f.sentence}`).join(' '))
    },
    onSuccess: () =>
      queries.invalidateQueries({ predicate: (q) => ['library', 'items', 'item', 'revision', 'buildable'].includes(String(q.queryKey[0])) }),
  })
  if (!mayMake) return null
  const what = table === 'items' ? t('workshop.item') : t('workshop.workCentre')
  if (!values)
    return (
      <button className="link ml-12 py-0.5 text-sm" onClick={() => setValues(Object.fromEntries(fields[table].map(([c, , given]) => [c, given])))}>
        {t('workshop.makeWhatCode', { what, code })}
      </button>
    )
  return (
    <form
      aria-label={t('workshop.makeWhatCode2', { what, code })}
      className="ml-12 flex flex-wrap items-end gap-2 py-1"
      onKeyDown={(e) => {
        if (e.key !== 'Escape') return
        e.stopPropagation()
        setValues(null)
      }}
      onSubmit={(e) => {
        e.preventDefault()
        make.mutate(values)
      }}
    >
      <b className="self-center font-semibold">{code}</b>
      {fields[table].map(([column, label], i) => (
        <label key={column} className="grid gap-0.5">
          <span className="quiet text-sm italic">{label}</span>
          {column === 'kind' ? (
            <select className="select w-28" value={values[column]} onChange={(e) => setValues({ ...values, [column]: e.target.value })}>
              {['bought', 'made', 'service'].map((k) => (
                <option key={k}>{k}</option>
              ))}
            </select>
          ) : (
            <input
              className={`input ${i === 0 ? 'w-56' : 'w-28'}`}
              autoFocus={i === 0}
              value={values[column]}
              onChange={(e) => setValues({ ...values, [column]: e.target.value })}
            />
          )}
        </label>
      ))}
      <button className="btn btn-primary" disabled={make.isPending}>
        {t('workshop.makeIt')}
      </button>
      <button type="button" className="btn" onClick={() => setValues(null)}>
        {t('workshop.cancel')}
      </button>
      {make.error && (
        <p role="alert" className="fault w-full text-sm">
          {sentenceOf(make.error)}
        </p>
      )}
    </form>
  )
}
