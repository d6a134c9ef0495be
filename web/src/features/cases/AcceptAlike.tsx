import { useState } from 'react'
import { AcceptForm, acceptSteps } from './AcceptForm'
import { useCaseEdits, type Case, type Expected } from './useCases'
import { t } from '../../texts'

/** As many as one edit can hold, two steps each. */
const mostAtOnce = 1_000

type Alike = { subject: string; differences: { one: Case; e: Expected }[] }

/** What comes out otherwise in several cases, by what it is. */
function alike(cases: Case[]): Alike[] {
  const groups = new Map<string, Alike>()
  for (const one of cases)
    for (const e of one.expected)
      if (e.actual !== null && !e.fault && e.of !== 'verdict' && e.of !== 'rule') {
        const there = groups.get(`${e.of} ${e.at}`)
        if (there) there.differences.push({ one, e })
        else groups.set(`${e.of} ${e.at}`, { subject: e.subject, differences: [{ one, e }] })
      }
  return [...groups.values()].filter((g) => g.differences.length > 1).sort((a, b) => b.differences.length - a.differences.length)
}

/** The same figure differs in many cases after one edit: all of them are accepted with one reason, and undone as one. A verdict is accepted by itself. */
export function AcceptAlike({ cases, revisionId }: { cases: Case[]; revisionId: number }) {
  const [open, setOpen] = useState<string | null>(null)
  const { edit } = useCaseEdits(revisionId)
  const groups = alike(cases)
  if (groups.length === 0) return null
  return (
    <section aria-label={t('cases.differAlike')} className="mb-3 border-l-3 border-warning pl-3">
      <h2 className="font-semibold">{t('cases.differAlike')}</h2>
      <ul>
        {groups.slice(0, 12).map((g) => (
          <li key={g.subject} className="border-b hair py-0.5">
            <div className="flex items-baseline justify-between gap-4">
              <span>{t('cases.differsInCases', { subject: g.subject, count: g.differences.length })}</span>
              <button className="link" aria-expanded={open === g.subject} onClick={() => setOpen(open === g.subject ? null : g.subject)}>
                {t('cases.acceptAll')}
              </button>
            </div>
            {open === g.subject && (
              <AcceptForm
                edit={edit}
                stepsFor={(because) => g.differences.slice(0, mostAtOnce).flatMap(({ one, e }) => acceptSteps(one, e, because))}
                onDone={() => setOpen(null)}
              />
            )}
          </li>
        ))}
      </ul>
    </section>
  )
}
