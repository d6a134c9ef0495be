import { useState } from 'react'
import type { Schemas } from '../../api/client'
import { Because } from '../structures/Because'
import type { GoTo } from './Reason'

type Figure = Schemas['FigureView']

/** Computed values; a click shows the formula and the values in it. */
export function Figures({ figures, goTo, goToPick }: { figures: Figure[]; goTo?: GoTo; goToPick?: (path: string) => void }) {
  const [open, setOpen] = useState<string | null>(null)
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
            <tr key={f.path} className="border-b hair align-top">
              <td className="py-0.5">
                <button className="w-full text-left hover:text-primary" aria-expanded={open === f.path} onClick={() => setOpen(open === f.path ? null : f.path)}>
                  {f.label}
                </button>
                {open === f.path && <Because formula={f.formula} because={f.because} onRow={goTo && (() => goTo(f.assemblyId, f.rowId))} goToPick={goToPick} />}
              </td>
              <td className={`w-px text-right whitespace-nowrap ${f.final ? '' : 'quiet italic'}`}>{f.text}</td>
            </tr>
          ))}
      </tbody>
    </table>
  ))
}
