import { useState } from 'react'
import { moment } from '../../ui/format'
import { draftsOf, forgetDraft } from './drafts'
import { t } from '../../texts'

/** Unfinished answers from before: to go on with, or to be thrown away. */
export function UnfinishedAnswers({
  revisionId,
  configurationId,
  present,
  goOn,
}: {
  revisionId: number
  configurationId: string | null
  /** The one that is worked on. */
  present: string
  goOn: (id: string) => void
}) {
  const [drafts, setDrafts] = useState(() => draftsOf(revisionId, configurationId))
  const others = drafts.filter((d) => d.id !== present)
  if (others.length === 0) return null
  return (
    <section aria-label={t('configurations.unfinished')} className="border-l-2 border-primary px-3 py-1">
      <p>{configurationId === null ? t('configurations.unfinishedFromBefore') : t('configurations.changesNotSaved')}</p>
      <ul>
        {others.map((d) => (
          <li key={d.id} className="flex flex-wrap items-baseline gap-x-3">
            <button className="link" onClick={() => goOn(d.id)}>
              {d.name || t('configurations.withoutAName')}
            </button>
            <span className="quiet">{t('configurations.answersOfDraft', { count: d.answers, moment: moment(d.changedAt) })}</span>
            <button
              className="link quiet text-sm"
              onClick={() => {
                forgetDraft(d.id)
                setDrafts(draftsOf(revisionId, configurationId))
              }}
            >
              {t('configurations.throwAway')}
            </button>
          </li>
        ))}
      </ul>
    </section>
  )
}
