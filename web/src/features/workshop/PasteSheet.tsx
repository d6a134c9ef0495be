import { useState } from 'react'
import { Sheet } from '../../ui/Sheet'
import { allKinds, isWhole, kindLabel } from './fields'
import { cellFields, emptyRow, fieldTexts } from './fieldTexts'
import { add, inEdits, nextNumber, type Assembly, type Kind, type Row, type Topic } from './model'
import { highestOnItsWay } from './useModel'
import { useWorkshop } from './Workshop'
import { t } from '../../texts'

const kinds = allKinds.filter(isWhole)
const mostShown = 12

const plain = (text: string) => text.toLowerCase().replace(/[^\p{L}\p{N}]/gu, '')

/** The field that a head of a spreadsheet names, by its caption or its name; nothing where none does. */
function fieldNamed(kind: Kind, head: string): string {
  const wanted = plain(head)
  const fields = cellFields(kind)
  return (
    (
      fields.find((f) => plain(f.label) === wanted || plain(f.field) === wanted) ??
      fields.find((f) => wanted !== '' && (plain(f.label).startsWith(wanted) || wanted.startsWith(plain(f.label))))
    )?.field ?? ''
  )
}

/** How many heads of the first row name fields of a kind. */
const named = (kind: Kind, heads: string[]) => heads.filter((h) => fieldNamed(kind, h) !== '').length

/** A block from a spreadsheet before it becomes rows: which kind they are, what each column says, and what would be made. */
export function PasteSheet({ block, topic, assembly, onClose }: { block: string[][]; topic: Topic; assembly: Assembly; onClose: () => void }) {
  const { document, library, language, model, revisionId } = useWorkshop()
  const heads = block[0] ?? []
  const best = kinds.reduce((a, b) => (named(b, heads) > named(a, heads) ? b : a), 'part' as Kind)
  const [kind, setKind] = useState<Kind>(best)
  const [hasHead, setHasHead] = useState(named(best, heads) >= Math.min(2, heads.length))
  const [chosen, setChosen] = useState<Record<number, string>>({})
  const width = Math.max(...block.map((r) => r.length))
  const fields = cellFields(kind)
  const fieldAt = (column: number) => chosen[column] ?? (hasHead ? fieldNamed(kind, heads[column] ?? '') : (fields[column]?.field ?? ''))
  const lines = hasHead ? block.slice(1) : block
  const texts = fieldTexts({ document, library, assemblyId: assembly.id, language })

  const first = Math.max(nextNumber(document), highestOnItsWay(revisionId) + 1)
  const faults: { row: number; column: number; message: string }[] = []
  const rows: Row[] = lines.map((cells, i) => {
    const row = emptyRow(kind, first + i)
    // The kind of an attribute decides what the other fields can be.
    const columns = Array.from({ length: width }, (_, c) => c).sort(
      (a, b) => Number(fieldAt(b) === 'attributeKind') - Number(fieldAt(a) === 'attributeKind'),
    )
    for (const c of columns) {
      const spec = fields.find((f) => f.field === fieldAt(c))
      const text = cells[c] ?? ''
      if (spec && text !== '' && !texts.write(row, spec, text)) faults.push({ row: i, column: c, message: texts.refusal(row, spec, text) })
    }
    return row
  })
  const isUsed = Array.from({ length: width }, (_, c) => fieldAt(c) !== '')

  function make() {
    let last = topic.rows.at(-1)?.id ?? null
    const steps = rows.map((row) => {
      const step = add(topic.id, 'rows', last, row)
      last = row.id
      return step
    })
    for (const some of inEdits(steps)) model.edit(...some)
    onClose()
  }

  return (
    <Sheet title={t('workshop.rowsFromASpreadsheet')} onClose={onClose} wide>
      <div className="grid gap-3">
        <div className="flex flex-wrap items-end gap-4">
          <label className="grid gap-0.5">
            <span className="quiet text-sm italic">{t('workshop.theyBecome')}</span>
            <select className="select" value={kind} onChange={(e) => (setKind(e.target.value as Kind), setChosen({}))}>
              {kinds.map((k) => (
                <option key={k} value={k}>
                  {kindLabel(k)}
                </option>
              ))}
            </select>
          </label>
          <label className="flex items-center gap-2 py-1">
            <input type="checkbox" className="size-4 accent-primary" checked={hasHead} onChange={(e) => setHasHead(e.target.checked)} />{' '}
            {t('workshop.theFirstRowNamesTheColumns')}
          </label>
        </div>
        <div className="overflow-x-auto">
          <table aria-label={t('workshop.whatWouldBecomeRows')}>
            <thead>
              <tr>
                {isUsed.map((_, c) => (
                  <th key={c} className="border hair bg-base-200 p-1 text-left">
                    <select
                      className="select min-w-32 font-normal"
                      aria-label={t('workshop.columnIs', { column: c + 1 })}
                      value={fieldAt(c)}
                      onChange={(e) => setChosen({ ...chosen, [c]: e.target.value })}
                    >
                      <option value="">{t('workshop.leftOut')}</option>
                      {fields.map((f) => (
                        <option key={f.field} value={f.field}>
                          {f.label}
                        </option>
                      ))}
                    </select>
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {lines.slice(0, mostShown).map((cells, i) => (
                <tr key={i}>
                  {isUsed.map((used, c) => {
                    const fault = faults.find((f) => f.row === i && f.column === c)
                    return (
                      <td
                        key={c}
                        className={`border hair px-1.5 py-0.5 ${used ? '' : 'quiet line-through'} ${fault ? 'text-warning underline decoration-wavy' : ''}`}
                        title={fault?.message}
                      >
                        {cells[c] ?? ''}
                      </td>
                    )
                  })}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
        {lines.length > mostShown && <p className="quiet text-sm">{t('workshop.andMore', { more: lines.length - mostShown })}</p>}
        {faults.slice(0, 6).map((f) => (
          <p key={`${f.row} ${f.column}`} role="alert" className="fault text-sm">
            {t('workshop.rowRowMessage', { row: f.row + 1, message: f.message })}
          </p>
        ))}
        {faults.length > 6 && <p className="fault text-sm">{t('workshop.andMoreCellsThatSayNothing', { more: faults.length - 6 })}</p>}
        <div className="flex gap-2">
          <button className="btn btn-primary" disabled={faults.length > 0 || rows.length === 0 || !isUsed.some(Boolean)} onClick={make}>
            {t('workshop.makeRows', { count: rows.length, n: rows.length })}
          </button>
          <button className="btn" onClick={onClose}>
            {t('workshop.cancel')}
          </button>
        </div>
      </div>
    </Sheet>
  )
}
