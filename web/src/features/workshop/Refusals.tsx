import { X } from 'lucide-react'
import { inEnglish } from '../../ui/format'
import { fieldsOf, moreFields } from './fields'
import { assemblyOf, everyList, listOf, nameOf, placeOf, set, type Document, type Row } from './model'
import type { Refusal } from './useModel'
import { useWorkshop } from './Workshop'
import { t } from '../../texts'

/** A field's value as a person reads it: names instead of ids, texts instead of lists and maps. */
function shown(value: unknown, document: Document): string {
  if (value === null || value === undefined || value === '') return t('workshop.nothing')
  if (typeof value === 'boolean') return value ? t('workshop.yes') : t('workshop.no')
  if (Array.isArray(value)) return value.length === 0 ? t('workshop.nothing') : value.map((v) => shown(v, document)).join(', ')
  if (typeof value === 'object')
    return (
      Object.values(value)
        .map((v) => shown(v, document))
        .join(' / ') || t('workshop.nothing')
    )
  const id = String(value)
  const listValue = everyList(document)
    .flatMap((l) => l.values)
    .find((v) => v.id === id)
  const row = placeOf(document, id)?.row
  return (
    listOf(document, id)?.name ??
    assemblyOf(document, id)?.name ??
    (listValue && (inEnglish(listValue.label) || listValue.code)) ??
    (row && nameOf(row)) ??
    id
  )
}

/** What a field is called on the worksheet. */
function labelOf(field: string, row: Row | undefined): string {
  const name = field.split('/')[0]!
  return (row && [...fieldsOf[row.kind], ...moreFields].find((s) => s.field === name)?.label) ?? name
}

/** Edits that were not stored: why, what stands there now, and what was wanted; nothing is overwritten unseen. */
export function Refusals() {
  const { model } = useWorkshop()
  return model.refusals.map((r) => <RefusalNotice key={r.task.id} refusal={r} />)
}

function RefusalNotice({ refusal }: { refusal: Refusal }) {
  const { model, document, goToRow } = useWorkshop()
  const { problem, task } = refusal
  const step = task.steps.find((s) => s.do === 'set' && s.rowId === problem.rowId && s.field === problem.field)
  const place = problem.rowId ? placeOf(document, problem.rowId) : undefined
  const dismiss = () => model.dismiss(refusal)
  return (
    <div role="alert" className="hatched mb-2 flex items-start justify-between gap-3 border hair py-2 pr-2">
      <div className="grid gap-1">
        <p>
          <b className="font-semibold">{t('workshop.notStored')} </b>
          {problem.detail}
        </p>
        {problem.fault === 'changed' && (
          <p>
            {place && <b className="font-semibold">{'name' in place.row ? place.row.name : ''} </b>}
            {t('workshop.labelOfItIsNow', { labelOf: labelOf(problem.field ?? '', place?.row) })} <b>{shown(problem.current, document)}</b>
            {step?.do === 'set' && (
              <>
                {t('workshop.yoursIs')} <b>{shown(step.value, document)}</b>
              </>
            )}
          </p>
        )}
        {problem.places && problem.places.length > 0 && (
          <p>
            {t('workshop.inUseBy')}{' '}
            {problem.places.map((p, i) => {
              const at = placeOf(document, p.rowId)
              return (
                <span key={p.rowId + p.field}>
                  {i > 0 && ', '}
                  {at ? (
                    <button className="link" onClick={() => goToRow(at.assembly.id, p.rowId)}>
                      {p.name}
                    </button>
                  ) : (
                    p.name
                  )}
                </span>
              )
            })}
          </p>
        )}
        {problem.fault === 'changed' && step?.do === 'set' && (
          <span className="flex gap-1.5">
            <button
              className="btn"
              onClick={() => {
                model.edit(...task.steps.map((s) => (s === step ? set(step.rowId, step.field, step.value, problem.current) : s)))
                dismiss()
              }}
            >
              {t('workshop.putMine')}
            </button>
            <button className="btn" onClick={dismiss}>
              {t('workshop.keepWhatIsThere')}
            </button>
          </span>
        )}
      </div>
      <button className="btn btn-ghost btn-sm" aria-label={t('workshop.close')} onClick={dismiss}>
        <X className="size-4" />
      </button>
    </div>
  )
}
