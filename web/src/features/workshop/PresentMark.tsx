import { initials, type Present } from './usePresence'
import { t } from '../../texts'

/** Someone who is here just now, by their initials. */
export const PresentMark = ({ who, where }: { who: Present; where?: string }) => (
  <span
    className="inline-grid h-5 min-w-5 place-items-center rounded-full border border-primary px-1 text-[0.6875rem] leading-none text-primary"
    title={t('workshop.displayIsHereWhere', { display: who.display, where: where ? `: ${where}` : '' })}
  >
    <span aria-hidden>{initials(who.display)}</span>
    <span className="sr-only">{t('workshop.displayIsHereWhere', { display: who.display, where: where ? `: ${where}` : '' })}</span>
  </span>
)
