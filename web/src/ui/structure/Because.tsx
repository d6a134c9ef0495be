import type { ReactNode } from 'react'
import type { Schemas } from '../../api/client'
import { t } from '../../texts'

/** Where a number or a line comes from: the formula or condition as it is written, and each name in it with its value. */
export function Because({
  formula,
  because,
  onRow,
  goToPick,
  lead,
  children,
}: {
  formula: string
  because: Schemas['BecauseView'][]
  onRow?: () => void
  goToPick?: (path: string) => void
  lead?: string
  children?: ReactNode
}) {
  return (
    <div className="my-1 border-l-2 border-primary bg-base-200 px-2 py-1 text-sm">
      {lead && <p className="quiet italic">{lead}</p>}
      {formula && <p className="font-mono break-words">{formula}</p>}
      {because.length > 0 && (
        <dl className="mt-0.5 grid grid-cols-[auto_1fr] gap-x-3">
          {because.map((b) => (
            <div key={b.path} className="contents">
              <dt>
                {goToPick ? (
                  <button className="link" onClick={() => goToPick(b.path)}>
                    {b.label}
                  </button>
                ) : (
                  b.label
                )}
              </dt>
              <dd>{b.value}</dd>
            </div>
          ))}
        </dl>
      )}
      {children}
      {onRow && (
        <button className="link mt-0.5" onClick={onRow}>
          {t('structures.toItsRow')}
        </button>
      )}
    </div>
  )
}
