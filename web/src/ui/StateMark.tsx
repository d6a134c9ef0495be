import type { Schemas } from '../api/client'
import { t } from '../texts'

type State = Schemas['AttributeState'] | 'needed'

const words: Record<State, string> = {
  picked: t('ui.picked'),
  follows: t('ui.followsFromTheRules'),
  suggested: t('ui.suggested'),
  open: t('ui.open'),
  clash: t('ui.inClash'),
  resting: t('ui.restingDoesNotApplyNow'),
  absent: t('ui.doesNotApply'),
  needed: t('ui.stillNeeded'),
}

/** Our marks of how a value came about: by shape and word, never by colour alone. */
export function StateMark({ state, clash, note }: { state: State; clash?: number | undefined; note?: string | undefined }) {
  const says = note ?? words[state]
  return (
    <span role="img" aria-label={says} title={says} className="inline-grid size-4 shrink-0 place-items-center">
      {state === 'clash' ? (
        <span className="grid size-4 place-items-center border border-warning text-[0.6875rem] leading-none font-semibold text-warning">
          {clash || '!'}
        </span>
      ) : (
        <svg viewBox="0 0 16 16" className="size-4" fill="none" stroke="currentColor" strokeWidth="1.4">
          {state === 'picked' && <path d="M8 2.5 12.5 8 8 13.5 3.5 8Z" fill="var(--color-primary)" stroke="var(--color-primary)" />}
          {state === 'follows' && <path d="M6.5 3.5 10 8 6.5 12.5 3 8ZM10 8h5" stroke="var(--color-primary)" />}
          {state === 'suggested' && <path d="M2 11.5h12" strokeWidth="1.8" strokeDasharray="1.8 1.8" />}
          {state === 'needed' && <circle cx="8" cy="8" r="4.5" stroke="var(--color-warning)" strokeWidth="1.8" />}
          {state === 'resting' && <path d="M3 8h10" strokeWidth="3" opacity="0.6" />}
          {(state === 'open' || state === 'absent') && <path d="M5.5 8h5" opacity="0.5" />}
        </svg>
      )}
    </span>
  )
}
