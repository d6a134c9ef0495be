import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { createContext, useContext } from 'react'
import { ask, client, type Schemas } from '../../api/client'
import { today } from '../../ui/WhereFields'
import { t } from '../../texts'

export type Health = Schemas['HealthView']
export type HealthFinding = Schemas['HealthFindingView']

const pollEvery = 800

export const healthKey = (revisionId: number, head: number | undefined, day: string) => ['health', revisionId, head, day]

/** The day that a page of health is asked for. */
export const HealthDay = createContext<string | null>(null)
export const useHealthDay = (): string => useContext(HealthDay) ?? today()

/** What analysis finds in a revision as it stands; while it is under way the findings of before stay. */
export function useHealth(revisionId: number, head: number | undefined, day = today()) {
  return useQuery({
    queryKey: healthKey(revisionId, head, day),
    queryFn: ({ signal }) => ask(client.GET('/api/revisions/{id}/health', { params: { path: { id: revisionId }, query: { date: day } }, signal })),
    enabled: head !== undefined,
    placeholderData: keepPreviousData,
    refetchInterval: (query) => (query.state.data?.running ? pollEvery : false),
    staleTime: Infinity,
  })
}

/** What still asks for attention: not accepted, and more than a note. */
export const needsAttention = (finding: HealthFinding) => finding.accepted === null && finding.weight !== 'note'

/** A health in a few words. */
export function inShort(health: Health | undefined): string {
  if (!health) return '…'
  if (health.running)
    return health.total > 0 ? t('health.checkingPercent', { percent: Math.floor((100 * health.done) / health.total) }) : t('health.checking')
  const of = (weight: string) => health.findings.filter((f) => f.weight === weight && f.accepted === null).length
  const parts = [
    [of('error'), 'error'],
    [of('warning'), 'warning'],
    [of('note'), 'note'],
  ] as const
  const text = parts.flatMap(([n, word]) => (n > 0 ? [`${n} ${word}${n === 1 ? '' : 's'}`] : [])).join(', ')
  return text || (health.unfinished.length > 0 ? t('health.notAllChecked') : t('health.nothingFound'))
}
