import { useState } from 'react'
import { grouped, money } from '../../ui/format'
import { BomTree } from '../structures/BomTree'
import { Routing } from '../structures/Routing'
import { Figures } from './Figures'
import { goToAsked } from './Questions'
import type { GoTo } from './Reason'
import type { Bench } from './useBench'

const tabs = ['Parts', 'Work', 'Figures'] as const

/** What comes of the picks: bill of materials, routing and figures, always up to date. */
export function Outcome({ revisionId, bench, goTo }: { revisionId: number; bench: Bench; goTo?: GoTo }) {
  const [tab, setTab] = useState<(typeof tabs)[number]>('Parts')
  const answer = bench.answer
  if (!answer) return null
  const { structure } = answer
  return (
    <section aria-label="Outcome" className="flex h-full min-h-0 flex-col" aria-busy={bench.working}>
      <div className="flex shrink-0 flex-wrap items-end gap-x-4 border-b hair px-3" role="tablist" aria-label="Outcome">
        {tabs.map((t) => (
          <button
            key={t}
            role="tab"
            aria-selected={t === tab}
            onClick={() => setTab(t)}
            className={`-mb-px border-b-2 py-1 ${t === tab ? 'border-primary font-semibold' : 'border-transparent quiet'}`}
          >
            {t === 'Parts' ? 'Bill of materials' : t === 'Work' ? 'Routing' : t}
          </button>
        ))}
        {structure && (
          <p className="ml-auto flex gap-3 py-1 text-sm">
            <span title="Material, labour and machine cost at a lot of one">
              cost <b>{money(structure.totals.cost)}</b> EUR
            </span>
            <span title="Net weight of all parts">
              weight <b>{grouped(structure.totals.weight)}</b> kg
            </span>
          </p>
        )}
      </div>
      <div className={`min-h-0 flex-1 overflow-auto p-3 ${bench.working ? 'opacity-60 transition-opacity delay-300' : ''}`}>
        {!answer.exact && <p className="fault mb-2">Time ran out: nothing here is final.</p>}
        {answer.advice.map((a) => (
          <p key={a.rowId} className="mb-2 border-l-2 border-success px-2 text-sm">
            <span className="italic">Advice</span> {a.mark && <b>{a.mark} </b>}
            {a.sentence}
          </p>
        ))}
        {tab !== 'Figures' && !structure && <NotYet bench={bench} />}
        {tab === 'Parts' && structure && <BomTree structure={structure} goTo={goTo} goToPick={goToAsked} />}
        {tab === 'Work' && structure && <Routing structure={structure} goTo={goTo} goToPick={goToAsked} />}
        {tab === 'Parts' && !structure && <LinesSoFar bench={bench} kind="part" />}
        {tab === 'Work' && !structure && <LinesSoFar bench={bench} kind="operation" />}
        {tab === 'Figures' && <Figures revisionId={revisionId} bench={bench} goTo={goTo} goToPick={goToAsked} />}
      </div>
    </section>
  )
}

function NotYet({ bench }: { bench: Bench }) {
  const answer = bench.answer!
  return (
    <div className="mb-3 grid gap-1">
      {answer.clashes.length > 0 && <p>Nothing can be built while picks clash.</p>}
      {answer.missing.length > 0 && (
        <p>
          Still needed:{' '}
          {answer.missing.map((m, i) => (
            <span key={m.path}>
              {i > 0 && ', '}
              <button className="link" onClick={() => goToAsked(m.path)}>
                {m.label}
              </button>
            </span>
          ))}
        </p>
      )}
      {answer.structureFaults.map((f) => (
        <p key={f.rowId + f.sentence} className="fault">
          {f.sentence}
        </p>
      ))}
    </div>
  )
}

/** While something is open: which lines are in for certain, and which may come. */
function LinesSoFar({ bench, kind }: { bench: Bench; kind: 'part' | 'operation' }) {
  const lines = bench.answer!.lines.filter((l) => l.state !== 'out' && l.kind === kind)
  if (lines.length === 0) return <p className="quiet">Nothing yet. {kind === 'part' ? 'Part lines' : 'Operation lines'} of the model show up here.</p>
  return (
    <table className="w-full">
      <tbody>
        {lines.map((l) => (
          <tr key={l.prefix + l.rowId} className="border-b hair">
            <td className="quiet w-16 py-0.5 text-sm italic">{l.state === 'in' ? 'certain' : 'maybe'}</td>
            <td>
              {l.name} <span className="quiet">{l.description}</span>
            </td>
            <td className="text-right whitespace-nowrap">{l.quantity}</td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}
