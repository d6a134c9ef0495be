import { useMemo } from 'react'
import type { Schemas } from '../../../api/client'
import type { HealthFinding } from '../../health'
import { useRemarks } from '../../reviews'
import type { Finding, Row } from '../model'
import type { Present } from '../usePresence'
import { useWorkshop } from '../Workshop'
import { t } from '../../../texts'

/** What a row comes to on the bench. */
export type OnBench = { text: string; state?: Schemas['AttributeState'] | 'needed'; clash?: number | null; isOut?: boolean }

/** What is known of a row beside what stands in it. The same objects as before where nothing has changed. */
export type RowFacts = {
  faults: Finding[]
  health: HealthFinding[]
  present: Present[]
  /** How many remarks on it are open. */
  remarks: number
  benchText?: string
  benchState?: OnBench['state']
  benchClash?: number | null
  isOut?: boolean
}

const nothing: never[] = []

function byRow<T extends { rowId: string | null }>(all: T[]): Map<string, T[]> {
  const rows = new Map<string, T[]>()
  for (const one of all)
    if (one.rowId !== null) {
      const there = rows.get(one.rowId)
      if (there) there.push(one)
      else rows.set(one.rowId, [one])
    }
  return rows
}

/** What the rows of a worksheet come to: their faults, what analysis found, who is at them, and how they stand on the bench. */
export function useRowFacts(): (row: Row) => RowFacts {
  const { findings, health, present, bench, revisionId } = useWorkshop()
  const { data: remarks } = useRemarks(revisionId)
  const { answer } = bench
  const faultsOf = useMemo(() => byRow(findings), [findings])
  const healthOf = useMemo(() => byRow(health), [health])
  const remarksOf = useMemo(() => byRow((remarks ?? []).filter((r) => r.closedAt === null)), [remarks])
  const presentAt = useMemo(() => byRow(present), [present])
  const benchOf = useMemo(() => {
    const rows = new Map<string, OnBench>()
    if (!answer) return rows
    const add = (rowId: string, of: OnBench) => void (rows.has(rowId) || rows.set(rowId, of))
    for (const a of answer.sections.flatMap((s) => s.asked))
      add(a.rowId, { text: a.valueLabel ?? '', state: a.missing ? 'needed' : a.state, clash: a.clash })
    for (const f of answer.figures) add(f.rowId, { text: f.suggested })
    for (const l of answer.lines) add(l.rowId, l.suggested === 'out' ? { text: t('workshop.notNow'), isOut: true } : { text: l.suggestedQuantity })
    for (const c of answer.clashes) for (const x of c.reason.causes) add(x.rowId, { text: '', state: 'clash', clash: c.number })
    return rows
  }, [answer])
  return (row) => {
    const on = benchOf.get(row.id)
    return {
      faults: faultsOf.get(row.id) ?? nothing,
      health: healthOf.get(row.id) ?? nothing,
      present: presentAt.get(row.id) ?? nothing,
      remarks: remarksOf.get(row.id)?.length ?? 0,
      ...(on && { benchText: on.text, benchState: on.state, benchClash: on.clash, isOut: on.isOut }),
    }
  }
}
