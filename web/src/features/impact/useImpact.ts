import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { ask, client, type Schemas } from '../../api/client'
import { t } from '../../texts'

export type Impact = Schemas['ImpactView']
export type ImpactEntry = Schemas['ImpactEntry']
export type ImpactGroup = Schemas['ImpactGroup']
export type ImpactKind = ImpactEntry['kind']

/** All that is touched is much to send; its counts are little. */
const pollEvery = { counts: 1_000, all: 3_000 }

/** What a revision makes of what is saved, as it stands; while it is found out after an edit, what was known before stays in sight. */
export const useImpact = (revisionId: number, head: number | undefined, counts = false) =>
  useQuery({
    queryKey: ['impact', revisionId, head, counts],
    queryFn: ({ signal }) => ask(client.GET('/api/revisions/{id}/impact', { params: { path: { id: revisionId }, query: { counts } }, signal })),
    enabled: head !== undefined,
    placeholderData: keepPreviousData,
    refetchInterval: (query) => (query.state.data?.running ? pollEvery[counts ? 'counts' : 'all'] : false),
    staleTime: Infinity,
  })

export const kindsOfImpact: readonly (readonly [ImpactKind, string])[] = [
  ['breaks', t('impact.breaks')],
  ['asksMore', t('impact.asksMore')],
  ['changes', t('impact.changes')],
  ['mends', t('impact.mends')],
  ['staysBroken', t('impact.staysBroken')],
  ['unknown', t('impact.unknown')],
]

/** What it does, in a few words. */
export function impactInShort(impact: Impact | undefined): string {
  if (!impact) return '…'
  const { breaks, asksMore, changes, mends } = impact.counts
  const said = [
    breaks > 0 && t('impact.nBreak', { n: breaks }),
    asksMore > 0 && t('impact.nAskMore', { n: asksMore }),
    changes > 0 && t('impact.nChange', { n: changes }),
    mends > 0 && t('impact.nMend', { n: mends }),
  ].filter(Boolean)
  if (said.length > 0) return said.join(', ') + (impact.running ? ' …' : '')
  if (impact.running) return '…'
  return impact.all === 0 ? t('impact.nothingSaved') : t('impact.allTheSame', { n: impact.all })
}
