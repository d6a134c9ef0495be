import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { toast } from 'sonner'
import { ProblemError, sentenceOf, type Schemas } from '../../api/client'
import { grouped } from '../../ui/format'
import { Sheet } from '../../ui/Sheet'

type Loaded = Schemas['LoadView']

/** A file goes as it is, so that nothing of it is lost on the way. */
async function load(table: string, mode: 'check' | 'all' | 'good', file: File): Promise<Loaded> {
  let response: Response
  try {
    response = await fetch(`/api/library/${table}/load?mode=${mode}`, { method: 'POST', body: file, headers: { 'X-Juniperfall': '1', 'Content-Type': 'application/octet-stream' } })
  } catch {
    throw new ProblemError({ status: 0, detail: 'The server cannot be reached just now, or the file has changed since it was chosen. Nothing was loaded.' })
  }
  const body: unknown = await response.json().catch(() => null)
  if (response.ok) return body as Loaded
  throw new ProblemError({ detail: 'The file could not be read.', ...(typeof body === 'object' ? body : {}), status: response.status })
}

/** Loading a file: first it is looked at, then the person says whether all of it is taken or only its sound rows. */
export function LoadSheet({ table, label, onClose }: { table: string; label: string; onClose: () => void }) {
  const [file, setFile] = useState<File | null>(null)
  const queries = useQueryClient()
  const check = useMutation({ mutationFn: (chosen: File) => load(table, 'check', chosen) })
  const take = useMutation({
    mutationFn: (mode: 'all' | 'good') => load(table, mode, file!),
    onSuccess: (done) => {
      void queries.invalidateQueries()
      if (!done.stored) return
      toast.success(`${grouped(String(done.added))} added, ${grouped(String(done.changed))} changed.`)
      onClose()
    },
  })
  const seen = take.data && !take.data.stored ? take.data : check.data
  const n = (x: number) => grouped(String(x))
  return (
    <Sheet title={`Load ${label.toLowerCase()}`} onClose={onClose}>
      <div className="grid gap-3">
        <p>A CSV or XLSX file whose first row names the columns, as in the file that is taken out here. A column that is left out leaves what is there as it is. Nothing is stored before you say so.</p>
        <input
          type="file"
          aria-label="File to load"
          accept=".csv,.xlsx,.txt"
          onChange={(e) => {
            const chosen = e.target.files?.[0] ?? null
            setFile(chosen)
            take.reset()
            if (chosen) check.mutate(chosen)
          }}
        />
        {check.isPending && <p className="quiet">Looking through it …</p>}
        {(check.error ?? take.error) && <p className="fault">{sentenceOf(check.error ?? take.error)}</p>}
        {file && seen && (
          <>
            <p>
              <b>{n(seen.rows)}</b> rows: {n(seen.added)} new, {n(seen.changed)} changed, {n(seen.same)} as they are{seen.faultyRows > 0 && <>, <b className="fault">{n(seen.faultyRows)} with faults</b></>}.
            </p>
            {seen.faults.length > 0 && (
              <div className="max-h-72 overflow-auto border hair">
                <table className="w-full text-sm">
                  <thead className="quiet text-left">
                    <tr className="border-b hair [&>th]:px-2 [&>th]:font-normal [&>th]:italic">
                      <th className="text-right">Row</th>
                      <th>Column</th>
                      <th>Cell</th>
                      <th>What is wrong</th>
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
                {seen.faultCount > seen.faults.length && <p className="quiet px-2">and {n(seen.faultCount - seen.faults.length)} more</p>}
              </div>
            )}
            <div className="flex flex-wrap gap-2">
              <button className="act act-main" disabled={seen.faultCount > 0 || take.isPending || seen.added + seen.changed === 0} onClick={() => take.mutate('all')}>
                Load all of it
              </button>
              {seen.faultCount > 0 && (
                <button className="act" disabled={take.isPending || seen.added + seen.changed === 0} onClick={() => take.mutate('good')}>
                  {seen.added + seen.changed === 1 ? 'Load the one sound row only' : `Load the ${n(seen.added + seen.changed)} sound rows only`}
                </button>
              )}
              {take.isPending && <span className="quiet">Storing …</span>}
            </div>
          </>
        )}
      </div>
    </Sheet>
  )
}
