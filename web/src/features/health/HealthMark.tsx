import { Activity } from 'lucide-react'
import type { HealthFinding } from './useHealth'
import { t } from '../../texts'

/** That analysis found something here: a pulse, and how much. */
export function HealthMark({ findings }: { findings: HealthFinding[] }) {
  if (findings.length === 0) return null
  return (
    <span className="flex items-center gap-0.5 text-sm text-warning" title={findings.map((f) => f.sentence).join('\n')}>
      <Activity
        className="size-3.5"
        strokeWidth={1.8}
        aria-label={findings.length === 1 ? t('health.oneHealthFinding') : t('health.healthFindings', { n: findings.length })}
      />
      {findings.length > 1 && <span aria-hidden>{findings.length}</span>}
    </span>
  )
}
