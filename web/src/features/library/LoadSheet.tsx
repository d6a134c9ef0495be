import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { toast } from 'sonner'
import { ProblemError, sentenceOf, type Schemas } from '../../api/client'
import { grouped } from '../../ui/format'
import { Sheet } from '../../ui/Sheet'
import { t } from '../../texts'

type Loaded = Schemas['LoadView']

/** What of the way a file is read a person has said otherwise than it was recognised. */
type Said = { sheet?: string; separator?: string; decimalComma?: string }

/** A file goes as it is, so that nothing of it is lost on the way. */
async function load(table: string, mode: 'check' | 'all' | 'good', file: File, said: Said): Promise<Loaded> {
  let response: Response
  try {
    response = await fetch(`/api/library/${table}/load?${String(new URLSearchParams({ mode, ...said }))}`, {
      method: 'POST',
      body: file,
      headers: { 'X-Juniperfall': '1', 'Content-Type': 'application/octet-stream' },
    })
  } catch {
    throw new ProblemError({
      status: 0,
      detail: t('library.theServerCannotBeReachedJust'),
    })
  }
  const body: unknown = await response.json().catch(() => null)
  if (response.ok) return body as Loaded
  throw new ProblemError({ detail: t('library.theFileCouldNotBeRead'), ...(typeof body === 'object' ? body : {}), status: response.status })
}

/** Loading a file: first it is looked at, then the person says whether all of it is taken or only its sound rows. */
export function LoadSheet({ table, label, onClose }: { table: string; label: string; onClose: () => void }) {
  const [file, setFile] = useState<File | null>(null)
  const queries = useQueryClient()
  const [said, setSaid] = useState<Said>({})
  const check = useMutation({ mutationFn: ({ chosen, as }: { chosen: File; as: Said }) => load(table, 'check', chosen, as) })
  const readAs = (more: Said) => {
    const as = { ...said, ...more }
    setSaid(as)
    take.reset()
    check.mutate({ chosen: file!, as })
  }
  const take = useMutation({
    mutationFn: (mode: 'all' | 'good') => load(table, mode, file!, said),
    onSuccess: (done) => {
      void queries.invalidateQueries()
      if (!done.stored) return
      toast.success(t('library.addedAddedChangedChanged', { added: grouped(String(done.added)), changed: grouped(String(done.changed)) }))
      onClose()
    },
  })
  const seen = take.data && !take.data.stored ? take.data : check.data
  const n = (x: number) => grouped(String(x))
  return (
    <Sheet title={t('library.loadTable', { table: label.toLowerCase() })} onClose={onClose}>
      <div className="grid gap-3">
        <p>{t('library.aCSVOrXLSXFileWhose')}</p>
        <input
          type="file"
          aria-label={t('library.fileToLoad')}
          accept=".csv,.xlsx,.txt"
          onChange={(e) => {
            const chosen = e.target.files?.[0] ?? null
            setFile(chosen)
            setSaid({})
            take.reset()
            if (chosen) check.mutate({ chosen, as: {} })
          }}
        />
        {check.isPending && <p className="quiet">{t('library.lookingThroughIt')}</p>}
        {(check.error ?? take.error) && <p className="fault">{sentenceOf(check.error ?? take.error)}</p>}
        {file && (seen?.readAs ?? said.sheet ?? said.separator) !== undefined && <ReadAs as={seen?.readAs ?? null} said={said} onSay={readAs} />}
        {file && seen && (
          <>
            <p>
              <b>{n(seen.rows)}</b>{' '}
              {t('library.rowsAddedNewChangedChangedSame', { added: n(seen.added), changed: n(seen.changed), same: n(seen.same) })}
              {seen.faultyRows > 0 && (
                <>
                  , <b className="fault">{t('library.faultyRowsWithFaults', { faultyRows: n(seen.faultyRows) })}</b>
                </>
              )}
              .
            </p>
            {seen.faults.length > 0 && (
              <div className="max-h-72 overflow-auto border hair">
                <table className="w-full text-sm">
                  <thead className="quiet text-left">
                    <tr className="border-b hair [&>th]:px-2 [&>th]:font-normal [&>th]:italic">
                      <th className="text-right">{t('library.row')}</th>
                      <th>{t('library.column')}</th>
                      <th>{t('library.cell')}</th>
                      <th>{t('library.whatIsWrong')}</th>
                    </tr>
                  </thead>
                  <tbody>
                    {seen.faults.map((f, i) => (
                      <tr key={i} className="border-b hair align-top [&>td]:px-2">
                        <td className="text-right">{n(f.row)}</td>
                        <td>{f.column}</td>
                        <td className="max-w-40 truncate font-mono">{f.text}</td>
                        <td>{f.sentence}</td>
                      </tr>
                    ))}
                  </tbody>
                </table>
                {seen.faultCount > seen.faults.length && (
                  <p className="quiet px-2">{t('library.andMore', { more: n(seen.faultCount - seen.faults.length) })}</p>
                )}
              </div>
            )}
            <Changes loaded={seen} />
            <div className="flex flex-wrap gap-2">
              <button
                className="btn btn-primary"
                disabled={seen.faultCount > 0 || take.isPending || seen.added + seen.changed === 0}
                onClick={() => take.mutate('all')}
              >
                {t('library.loadAllOfIt')}
              </button>
              {seen.faultCount > 0 && (
                <button className="btn" disabled={take.isPending || seen.added + seen.changed === 0} onClick={() => take.mutate('good')}>
                  {seen.added + seen.changed === 1
                    ? t('library.loadTheOneSoundRowOnly')
                    : t('library.loadTheAddedSoundRowsOnly', { added: n(seen.added + seen.changed) })}
                </button>
              )}
              {take.isPending && <span className="quiet">{t('library.storing')}</span>}
            </div>
          </>
        )}
      </div>
    </Sheet>
  )
}

const separators: Record<string, { name: string; label: string }> = {
  ',': { name: 'comma', label: t('library.aComma') },
  ';': { name: 'semicolon', label: t('library.aSemicolon') },
  '\t': { name: 'tab', label: t('library.aTab') },
}

/** How the file is read, as it was recognised; each part can be said otherwise. */
function ReadAs({ as, said, onSay }: { as: Schemas['ReadAsView'] | null; said: Said; onSay: (more: Said) => void }) {
  const text = as?.separator != null || said.separator !== undefined
  if (text)
    return (
      <p className="flex flex-wrap items-center gap-2">
        {t('library.betweenTheCellsStands')}
        <select
          className="select w-auto"
          aria-label={t('library.betweenTheCells')}
          value={said.separator ?? separators[as?.separator ?? ',']!.name}
          onChange={(e) => onSay({ separator: e.target.value })}
        >
          {Object.values(separators).map((s) => (
            <option key={s.name} value={s.name}>
              {s.label}
            </option>
          ))}
        </select>
        {t('library.decimalsHave')}
        <select
          className="select w-auto"
          aria-label={t('library.decimals')}
          value={said.decimalComma ?? String(as?.decimalComma ?? false)}
          onChange={(e) => onSay({ decimalComma: e.target.value })}
        >
          <option value="false">{t('library.aPoint')}</option>
          <option value="true">{t('library.aComma')}</option>
        </select>
      </p>
    )
  if (!as || as.sheets.length < 2) return null
  return (
    <p className="flex flex-wrap items-center gap-2">
      {t('library.sheetsRead', { sheets: as.sheets.length })}
      <select className="select w-auto" aria-label={t('library.sheet')} value={as.sheet ?? ''} onChange={(e) => onSay({ sheet: e.target.value })}>
        {as.sheets.map((s) => (
          <option key={s.name} value={s.name}>
            {s.hidden ? t('library.nameHidden', { name: s.name }) : s.name}
          </option>
        ))}
      </select>
    </p>
  )
}

/** What would stand where, cell by cell. */
function Changes({ loaded }: { loaded: Loaded }) {
  const changed = loaded.cells.filter((c) => !c.isNew)
  const fresh = loaded.cells.filter((c) => c.isNew)
  if (loaded.cells.length === 0) return null
  return (
    <div className="max-h-72 overflow-auto border hair">
      <table className="w-full text-sm" aria-label={t('library.whatWouldChange')}>
        <thead className="quiet text-left">
          <tr className="border-b hair [&>th]:px-2 [&>th]:font-normal [&>th]:italic">
            <th className="text-right">{t('library.row')}</th>
            <th>{t('library.of')}</th>
            <th>{t('library.column')}</th>
            <th>{t('library.now')}</th>
            <th>{t('library.then')}</th>
          </tr>
        </thead>
        <tbody>
          {[...changed, ...fresh].map((c) => (
            <tr key={`${c.row} ${c.column}`} className="border-b hair align-top [&>td]:px-2">
              <td className="text-right">{grouped(String(c.row))}</td>
              <td className="whitespace-nowrap">{c.key}</td>
              <td className="whitespace-nowrap">{c.column}</td>
              <td className="max-w-48 truncate" title={c.before}>
                {c.isNew ? (
                  <span className="quiet italic">{t('library.new')}</span>
                ) : c.before === '' ? (
                  <span className="quiet italic">{t('library.empty')}</span>
                ) : (
                  c.before
                )}
              </td>
              <td className="max-w-48 truncate" title={c.after}>
                {c.after === '' ? <span className="quiet italic">{t('library.empty')}</span> : c.after}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {loaded.cellCount > loaded.cells.length && (
        <p className="quiet px-2">{t('library.andMoreCells', { more: grouped(String(loaded.cellCount - loaded.cells.length)) })}</p>
      )}
    </div>
  )
}
