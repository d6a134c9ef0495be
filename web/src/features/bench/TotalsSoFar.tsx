import { useQuery } from '@tanstack/react-query'
import { ask, client } from '../../api/client'
import { TightBounds } from './TightBounds'
import type { Bench } from './useBench'
import { t } from '../../texts'

/** While something is open: what price, cost, weight and work are as suggested, and from where to where they can still go. */
export function TotalsSoFar({ revisionId, bench }: { revisionId: number; bench: Bench }) {
  const totals = useQuery({
    queryKey: ['totals', revisionId, bench.answer?.head, bench.question],
    queryFn: ({ signal }) => ask(client.POST('/api/revisions/{id}/totals', { params: { path: { id: revisionId } }, body: bench.question, signal })),
    enabled: !bench.working,
    staleTime: Infinity,
  })
  if (!totals.data || totals.data.length === 0) return null
  const suggests = (bench.answer?.suggestions ?? 0) > 0
  return (
    <table className="w-full" aria-label={t('bench.totalsSoFar')}>
      <thead>
        <tr className="border-b hair quiet text-left text-sm italic">
          <th />
          {suggests && <th className="w-1/3 py-0.5 pr-4 text-right font-normal">{t('bench.asSuggestedNow')}</th>}
          <th className="py-0.5 font-normal">{t('bench.overAllThatCanStillBe2')}</th>
        </tr>
      </thead>
      <tbody>
        {totals.data.map((t) => (
          <tr key={t.goal} className="border-b hair align-baseline">
            <td className="quiet w-24 py-0.5 italic">{t.label}</td>
            {suggests && <td className="py-0.5 pr-4 text-right whitespace-nowrap">{t.suggested}</td>}
            <td className="py-0.5">
              {t.text}
              {!t.final && (
                <div>
                  <TightBounds key={JSON.stringify(bench.question)} revisionId={revisionId} bench={bench} path={t.goal} />
                </div>
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}
