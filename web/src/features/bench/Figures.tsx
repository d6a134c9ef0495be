import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { ask, client, sentenceOf, type Schemas } from '../../api/client'
import { Because } from '../structures/Because'
import type { GoTo } from './Reason'
import type { Bench } from './useBench'

type Figure = Schemas['FigureView']

/** Computed values; a click shows the formula and the values in it. */
export function Figures({ revisionId, bench, goTo, goToPick }: { revisionId: number; bench: Bench; goTo?: GoTo; goToPick?: (path: string) => void }) {
  const [open, setOpen] = useState<string | null>(null)
  const figures = bench.answer?.figures ?? []
  if (figures.length === 0) return <p className="quiet">Nothing is computed in this model yet.</p>
  const places = [...new Set(figures.map((f) => f.place))]
  return places.map((place) => (
    <table key={place ?? ''} className="mb-3 w-full">
      {place && (
        <caption className="text-left font-semibold">
          {place}
        </caption>
      )}
      <tbody>
        {figures
          .filter((f) => f.place === place)
          .map((f) => (
            <tr key={f.path} className="border-b hair align-baseline">
              <td className="py-0.5">
                <button className="w-full text-left hover:text-primary" aria-expanded={open === f.path} onClick={() => setOpen(open === f.path ? null : f.path)}>
                  {f.label}
                </button>
                {open === f.path && (
                  <>
                    <Because formula={f.formula} because={f.because} onRow={goTo && (() => goTo(f.assemblyId, f.rowId))} goToPick={goToPick} />
                    {!f.final && f.low !== undefined && <TightBounds key={JSON.stringify(bench.question)} revisionId={revisionId} bench={bench} figure={f} />}
                  </>
                )}
              </td>
              <td className={`w-px py-0.5 text-right whitespace-nowrap ${f.final ? '' : 'quiet italic'}`}>{f.text}</td>
            </tr>
          ))}
      </tbody>
    </table>
  ))
}

/** The bounds beside an open figure are never too narrow, but may be too wide; how far it really goes is worked out when asked for. */
function TightBounds({ revisionId, bench, figure }: { revisionId: number; bench: Bench; figure: Figure }) {
  const [asked, setAsked] = useState(false)
  const bounds = useQuery({
    queryKey: ['bounds', revisionId, bench.answer?.head, bench.question, figure.path],
    queryFn: ({ signal }) => ask(client.POST('/api/revisions/{id}/bounds', { params: { path: { id: revisionId } }, body: { ...bench.question, path: figure.path }, signal })),
    enabled: asked,
    staleTime: Infinity,
  })
  if (!asked)
    return (
      <button className="link mb-1 text-sm" onClick={() => setAsked(true)}>
        How far can it really go?
      </button>
    )
  if (bounds.error) return <p className="fault text-sm">{sentenceOf(bounds.error)}</p>
  if (!bounds.data) return <p className="quiet text-sm">Working it out …</p>
  const { text, mayHaveNoValue, finished } = bounds.data
  return (
    <p className="mb-1 text-sm" role="status">
      {finished ? 'Exactly ' : 'Time ran out; at least '}
      <b>{text}</b>
      {finished ? ' over all that can still be picked' : ''}
      {finished && mayHaveNoValue ? '; or it does not apply.' : '.'}
    </p>
  )
}
