import { Link } from 'react-router'
import { moment } from '../../ui/format'
import { kindsOfImpact, type Impact, type ImpactGroup } from './useImpact'
import { t } from '../../texts'

type Props = {
  impact: Impact
  revisionId: number
  /** The group that is shown by itself; null where all are. */
  chosen: string | null
  onChoose?: (group: string | null) => void
}

/** What is touched alike, with the edit that does it. */
export function ImpactGroups({ impact, revisionId, chosen, onChoose }: Props) {
  return (
    <ul className="border-t hair">
      {impact.groups.map((g) => (
        <li key={g.kind + g.group} className="border-b hair py-1.5">
          <div className="flex items-baseline gap-2">
            <span className={`w-24 shrink-0 ${g.kind === 'breaks' ? 'fault font-semibold' : ''}`}>{countOf(g)}</span>
            {onChoose ? (
              <button
                className={`min-w-0 text-left hover:underline ${chosen === g.group ? 'font-semibold' : ''}`}
                aria-pressed={chosen === g.group}
                onClick={() => onChoose(chosen === g.group ? null : g.group)}
              >
                {g.about || t('impact.withoutAReason')}
              </button>
            ) : (
              <span className="min-w-0">{g.about}</span>
            )}
          </div>
          <ByEdit group={g} revisionId={revisionId} running={impact.running} />
        </li>
      ))}
    </ul>
  )
}

function countOf({ kind, count: n }: ImpactGroup) {
  if (kind === 'breaks') return t('impact.nBreak', { n })
  if (kind === 'asksMore') return t('impact.nAskMore', { n })
  if (kind === 'changes') return t('impact.nChange', { n })
  if (kind === 'mends') return t('impact.nMend', { n })
  return `${n} ${kindsOfImpact.find(([k]) => k === kind)?.[1].toLowerCase() ?? ''}`
}

function ByEdit({ group, revisionId, running }: { group: ImpactGroup; revisionId: number; running: boolean }) {
  const found = group.edit
  if (!found) return running ? <p className="quiet ml-26 text-sm">{t('impact.theEditIsLookedFor')}</p> : null
  if (!found.edit) return <p className="quiet ml-26 text-sm">{t('impact.byNoEdit')}</p>
  const { person, madeAt, changes } = found.edit
  return (
    <p className="ml-26 text-sm">
      <span className="quiet">{t('impact.byEdit', { person, when: moment(madeAt) })}</span>{' '}
      {changes.slice(0, 3).map((c, i) => (
        <span key={i}>
          {i > 0 && '; '}
          {c.rowId ? (
            <Link className="link" to={`/workshop/${revisionId}?row=${encodeURIComponent(c.rowId)}`}>
              {c.name}
            </Link>
          ) : (
            c.name
          )}{' '}
          {c.what}
        </span>
      ))}
      {changes.length > 3 && ` ${t('impact.andNMore', { n: changes.length - 3 })}`}
    </p>
  )
}
