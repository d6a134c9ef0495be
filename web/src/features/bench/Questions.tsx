import type { Schemas } from '../../api/client'
import { AskedRow, askedId } from './AskedRow'
import { ReasonText, WaysOut, type GoTo } from './Reason'
import type { Bench } from './useBench'

/** Brings a question into view and its first control into focus. */
export function goToAsked(path: string): void {
  const row = document.getElementById(askedId(path))
  row?.scrollIntoView({ block: 'center' })
  row?.querySelector<HTMLElement>('button, input, [tabindex]')?.focus()
}

export const sectionId = (section: Schemas['SectionView']) => `section-${section.id}`

/** What stands against the picks: clashes with their ways out. */
export function Clashes({ bench, revisionId, goTo }: { bench: Bench; revisionId: number; goTo?: GoTo }) {
  return (bench.answer?.clashes ?? []).map((clash) => (
    <section key={clash.number} role="alert" aria-label={`Clash ${clash.number}`} className="hatched mb-2 grid gap-2 border hair py-2 pr-3 text-sm">
      <p className="font-semibold text-warning">
        Clash {clash.number}: {clash.reason.picks.length > 0 ? 'these cannot stand together' : 'no configuration is possible at all'}
      </p>
      <ReasonText reason={clash.reason} goTo={goTo} goToPick={goToAsked} />
      {clash.number === 1 && clash.reason.picks.length > 0 && (
        <div className="grid gap-1">
          <p className="quiet italic">Ways out</p>
          <WaysOut revisionId={revisionId} bench={bench} />
        </div>
      )}
    </section>
  ))
}

/** The questions as the order desk sees them, topic by topic. */
export function Questions({ bench, revisionId, goTo }: { bench: Bench; revisionId: number; goTo?: GoTo }) {
  const sections = bench.answer?.sections ?? []
  return sections.map((section) => {
    const asked = section.asked.filter((a) => a.state !== 'absent')
    if (asked.length === 0) return null
    return (
      <section key={section.id} id={sectionId(section)} aria-label={section.place ? `${section.place}: ${section.title}` : section.title} className="mb-3">
        <h3 className="flex items-baseline gap-2 border-b hair pb-0.5 font-semibold">
          {section.place && section.place !== section.title && <span className="quiet font-normal">{section.place} ·</span>}
          {section.title}
        </h3>
        {asked.map((a) => (
          <AskedRow key={a.path} asked={a} bench={bench} revisionId={revisionId} goTo={goTo} goToPick={goToAsked} />
        ))}
      </section>
    )
  })
}
