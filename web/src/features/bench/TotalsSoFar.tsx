import { useQuery } from '@tanstack/react-query'
import { ask, client } from '../../api/client'
import { TightBounds } from './TightBounds'
import type { Bench } from './useBench'

/** While something is open: from where to where price, cost, weight and work can still go. */
export function TotalsSoFar({ revisionId, bench }: { revisionId: number; bench: Bench }) {
  const totals = useQuery({
    queryKey: ['totals', revisionId, bench.answer?.head, bench.question],
    queryFn: ({ signal }) => ask(client.POST('/api/revisions/{id}/totals', { params: { path: { id: revisionId } }, body: bench.question, signal })),
    enabled: !bench.working,
    staleTime: Infinity,
  })
  if (!totals.data || totals.data.length === 0) return null
  return (
    <table className="w-full" aria-label="Totals so far">
      <tbody>
        {totals.data.map((t) => (
          <tr key={t.goal} className="border-b hair align-baseline">
            <td className="quiet w-24 py-0.5 italic">{t.label}</td>
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
