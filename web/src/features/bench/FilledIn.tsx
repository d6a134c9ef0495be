import { filledInFor } from './goals'
import type { Bench } from './useBench'
import { t } from '../../texts'

/** What completion filled in beside the picks, to be dropped together. */
export function FilledIn({ bench }: { bench: Bench }) {
  const origins = [...new Set(bench.fillIns.map((f) => f.filledIn!))]
  if (origins.length === 0) return null
  return (
    <p className="mb-2 flex flex-wrap items-baseline gap-x-3 text-sm">
      <span className="quiet italic">
        {t('bench.answersStandAs', { count: bench.fillIns.length, origins: origins.map((o) => filledInFor(o, bench.answer)).join(', ') })}
      </span>
      <button className="link" onClick={() => bench.fillIn([])}>
        {t('bench.dropWhatWasFilledIn')}
      </button>
    </p>
  )
}
