import { useState } from 'react'
import { Because } from '../../ui/structure/Because'
import type { GoTo } from '../../ui/goTo'
import { TightBounds } from './TightBounds'
import type { Bench } from './useBench'
import { t } from '../../texts'

/** Computed values; a click shows the formula and the values in it. */
export function Figures({ revisionId, bench, goTo, goToPick }: { revisionId: number; bench: Bench; goTo?: GoTo; goToPick?: (path: string) => void }) {
  const [open, setOpen] = useState<string | null>(null)
  const figures = bench.answer?.figures ?? []
  if (figures.length === 0) return <p className="quiet">{t('bench.nothingIsComputedInThisModel')}</p>
  const places = [...new Set(figures.map((f) => f.place))]
  const differs = figures.some((f) => f.suggested !== f.text)
  return places.map((place) => (
    <table key={place ?? ''} className="mb-3 w-full">
      {place && <caption className="text-left font-semibold">{place}</caption>}
      {differs && (
        <thead>
          <tr className="border-b hair quiet text-right text-sm italic">
            <th />
            <th className="py-0.5 pl-4 align-bottom font-normal whitespace-nowrap">{t('bench.asSuggestedNow')}</th>
            <th className="py-0.5 pl-4 align-bottom font-normal">{t('bench.overAllThatCanStillBe2')}</th>
          </tr>
        </thead>
      )}
      <tbody>
        {figures
          .filter((f) => f.place === place)
          .map((f) => (
            <tr key={f.path} className="border-b hair align-baseline">
              <td className="py-0.5">
                <button
                  className="w-full text-left hover:text-primary"
                  aria-expanded={open === f.path}
                  onClick={() => setOpen(open === f.path ? null : f.path)}
                >
                  {f.label}
                </button>
                {open === f.path && (
                  <>
                    <Because formula={f.formula} because={f.because} onRow={goTo && (() => goTo(f.assemblyId, f.rowId))} goToPick={goToPick} />
                    {!f.final && f.isNumber && (
                      <TightBounds key={JSON.stringify(bench.question)} revisionId={revisionId} bench={bench} path={f.path} />
                    )}
                  </>
                )}
              </td>
              {differs && <td className="w-px py-0.5 pl-4 text-right whitespace-nowrap">{f.suggested}</td>}
              <td className={`w-px py-0.5 pl-4 text-right whitespace-nowrap ${f.final ? '' : 'quiet italic'}`}>{f.text}</td>
            </tr>
          ))}
      </tbody>
    </table>
  ))
}
