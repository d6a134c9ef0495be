import type { Section } from '../../api/answer'
import { Fragment, useCallback } from 'react'
import { AskedRow, askedId } from './AskedRow'
import { AddInstance, InstanceHead } from './InstanceHead'
import { countOf } from './instances'
import { FilledIn } from './FilledIn'
import { ReasonText, WaysOut } from './Reason'
import { type GoTo } from '../../ui/goTo'
import type { Bench } from './useBench'
import { t } from '../../texts'

/** Brings a question into view and its first control into focus. */
export function goToAsked(path: string, scope = ''): void {
  const row = document.getElementById(askedId(path, scope))
  row?.scrollIntoView({ block: 'center' })
  row?.querySelector<HTMLElement>('button, input, [tabindex]')?.focus()
}

export const sectionId = (section: Section, scope = '') => `section-${scope}${section.id}`

/** What stands against the picks: clashes with their ways out. */
export function Clashes({ bench, revisionId, goTo }: { bench: Bench; revisionId: number; goTo?: GoTo }) {
  return (bench.answer?.clashes ?? []).map((clash) => (
    <section
      key={clash.number}
      role="alert"
      aria-label={t('bench.clashNumber', { number: clash.number })}
      className="hatched mb-2 grid gap-2 border hair py-2 pr-3 text-sm"
    >
      <p className="font-semibold text-warning">
        {t('bench.clashSays', {
          number: clash.number,
          sentence: clash.reason.picks.length > 0 ? t('bench.theseCannotStandTogether') : t('bench.noConfigurationIsPossibleAtAll'),
        })}
      </p>
      <ReasonText reason={clash.reason} goTo={goTo} goToPick={(path) => goToAsked(path, bench.scope)} />
      {clash.number === 1 && clash.reason.picks.length > 0 && (
        <div className="grid gap-1">
          <p className="quiet italic">{t('bench.waysOut')}</p>
          <WaysOut revisionId={revisionId} bench={bench} />
        </div>
      )}
    </section>
  ))
}

/** The sections with what is asked in them; instances beyond the present number wait until there are more. */
export function shownSections(answer: Bench['answer']): Section[] {
  const waiting = (answer?.places ?? []).flatMap((p) => p.prefixes.slice(countOf(p)))
  return (answer?.sections ?? [])
    .filter((s) => !waiting.some((prefix) => s.prefix.startsWith(prefix)))
    .map((s) => ({ ...s, asked: s.asked.filter((a) => a.state !== 'absent') }))
    .filter((s) => s.asked.length > 0)
}

/** The questions as the order desk sees them, topic by topic. */
export function Questions({ bench, revisionId, goTo }: { bench: Bench; revisionId: number; goTo?: GoTo }) {
  const places = bench.answer?.places ?? []
  const sections = shownSections(bench.answer)
  const { scope } = bench
  const goToPick = useCallback((path: string) => goToAsked(path, scope), [scope])
  const instanceOf = (prefix: string) => {
    const place = places.find((p) => p.prefixes.includes(prefix))
    return place && { place, instance: place.prefixes.indexOf(prefix) }
  }
  const shown = sections.map((section, i) => {
    const of = instanceOf(section.prefix)
    const starts = of && sections[i - 1]?.prefix !== section.prefix
    const next = sections.slice(i + 1).find((s) => !s.prefix.startsWith(section.prefix))
    const ends =
      of && of.instance === countOf(of.place) - 1 && sections[i + 1]?.prefix !== section.prefix && !(next && of.place.prefixes.includes(next.prefix))
    return (
      <Fragment key={section.id}>
        {starts && <InstanceHead place={of.place} instance={of.instance} bench={bench} revisionId={revisionId} />}
        <section
          id={sectionId(section, bench.scope)}
          aria-label={section.place ? `${section.place}: ${section.title}` : section.title}
          className={of ? 'mb-3 pl-3' : 'mb-3'}
        >
          {!(of && section.title === of.place.name) && (
            <h3 className="flex items-baseline gap-2 border-b hair pb-0.5 font-semibold">
              {!of && section.place && section.place !== section.title && <span className="quiet font-normal">{section.place} ·</span>}
              {section.title}
            </h3>
          )}
          {section.asked.map((a) => (
            <AskedRow key={a.path} asked={a} bench={bench} revisionId={revisionId} goTo={goTo} goToPick={goToPick} />
          ))}
        </section>
        {ends && <AddInstance place={of.place} bench={bench} onWhy={goToPick} />}
      </Fragment>
    )
  })
  return (
    <>
      <FilledIn bench={bench} />
      {shown}
    </>
  )
}
