import type { Bench } from './useBench'
import { t } from '../../texts'

const goals: Record<string, string> = {
  'lowest #cost': t('bench.lowestCost'),
  'lowest #weight': t('bench.lowestWeight'),
  'lowest #work': t('bench.leastWork'),
  'lowest #leadTime': t('bench.shortestLeadTime'),
  'lowest #price': t('bench.lowestPrice'),
}

/** What something was filled in for, as people read it. */
export const filledInFor = (goal: string): string =>
  goal === 'suggested' ? t('bench.filledInAsSuggested') : t('bench.filledInFor', { goal: goals[goal] ?? t('bench.theBestOfANumber') })

/** What completion filled in beside the picks, to be dropped together. */
export function FilledIn({ bench }: { bench: Bench }) {
  const origins = [...new Set(bench.fillIns.map((f) => f.filledIn!))]
  if (origins.length === 0) return null
  return (
    <p className="mb-2 flex flex-wrap items-baseline gap-x-3 text-sm">
      <span className="quiet italic">{t('bench.answersStandAs', { count: bench.fillIns.length, origins: origins.map(filledInFor).join(', ') })}</span>
      <button className="link" onClick={() => bench.fillIn([])}>
        {t('bench.dropWhatWasFilledIn')}
      </button>
    </p>
  )
}
