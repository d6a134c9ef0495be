import type { Schemas } from '../../api/client'
import { money } from '../format'
import { t } from '../../texts'

type Margin = Schemas['MarginView']

/** What is left of a price, marked where it is less than the product is to bring. */
export function MarginMark({ margin }: { margin: Margin }) {
  return (
    <span title={t('structures.marginOfOnePiece', { amount: money(margin.amount) })} className={margin.isUnder ? 'fault' : undefined}>
      {t('structures.margin')} <b>{margin.percent === null ? money(margin.amount) : `${margin.percent} %`}</b>
    </span>
  )
}

/** The sentence of it. */
export function UnderMargin({ margin }: { margin: Margin }) {
  return (
    <p role="status" className="mb-2 border-l-2 border-error px-2 text-sm">
      {margin.percent === null
        ? t('structures.soldForNothing', { least: margin.least })
        : t('structures.underTheLeastMargin', { percent: margin.percent, amount: money(margin.amount), least: margin.least })}
    </p>
  )
}
