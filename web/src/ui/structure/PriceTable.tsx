import { useState } from 'react'
import type { Schemas } from '../../api/client'
import { grouped, money } from '../format'
import { Because } from './Because'
import { Steps as Worked } from './Steps'
import { t } from '../../texts'

type Step = Schemas['PriceStepView']
type Links = { onRow?: (assemblyId: string, rowId: string) => void; goToPick?: (path: string) => void }

/** How a price came about, step by step; each step opens to its formula. */
export function PriceTable({ price, quantity, ...links }: { price: Schemas['PriceView']; quantity: string } & Links) {
  if (price.list === null)
    return (
      <section aria-label={t('structures.price')}>
        <h3 className="border-b hair pb-0.5 font-semibold">{t('structures.price')}</h3>
        {price.faults.map((f, i) => (
          <p key={i} className="fault">
            {f.sentence}{' '}
            {links.onRow && f.rowId && (
              <button className="link" onClick={() => links.onRow!(f.assemblyId, f.rowId)}>
                {t('structures.toItsRow')}
              </button>
            )}
          </p>
        ))}
      </section>
    )
  return (
    <section aria-label={t('structures.price')} className="max-w-3xl">
      <h3 className="flex flex-wrap gap-x-4 border-b hair pb-0.5">
        <span className="font-semibold">{t('structures.listPrice')}</span>
        <span>
          <b>{money(price.list)}</b> {t('structures.eUREach')}
        </span>
      </h3>
      <table className="w-full border-collapse">
        <tbody>
          <Steps steps={price.steps} depth={0} {...links} />
        </tbody>
      </table>
      <dl className="mt-2 ml-auto grid w-fit grid-cols-[auto_auto] gap-x-6">
        {price.customerClass !== null && (
          <>
            <dt>{t('structures.customerClassPaysDiscountLess', { customerClass: price.customerClass, discount: price.discount })}</dt>
            <dd className="text-right">
              <b>{money(price.each)}</b> {t('structures.eUREach')}
            </dd>
          </>
        )}
        <dt>{t('structures.quantityOrdered', { quantity: grouped(quantity) })}</dt>
        <dd className="text-right">
          <b>{money(price.order)}</b> {t('structures.eUR')}
        </dd>
      </dl>
    </section>
  )
}

function Steps({ steps, depth, onRow, goToPick }: { steps: Step[]; depth: number } & Links) {
  const [open, setOpen] = useState<number | null>(null)
  return steps.map((step, i) => [
    <tr key={i} className="border-b hair align-baseline">
      <td className="py-0.5" style={{ paddingLeft: depth * 20 }}>
        {step.rowId === '' ? (
          <span className="quiet italic">{step.name}</span>
        ) : (
          <button className="w-full text-left hover:text-primary" aria-expanded={open === i} onClick={() => setOpen(open === i ? null : i)}>
            {step.name}
          </button>
        )}
      </td>
      <td className="quiet px-3 py-0.5 text-right whitespace-nowrap">{effectOf(step)}</td>
      <td className="w-28 py-0.5 text-right whitespace-nowrap">{money(step.after)}</td>
    </tr>,
    open === i && (
      <tr key={`${i}.why`}>
        <td colSpan={3} style={{ paddingLeft: depth * 20 }}>
          <Because
            formula={[step.below ? '' : step.formula, step.condition && t('structures.whenCondition', { condition: step.condition })]
              .filter(Boolean)
              .join('\n')}
            because={step.because}
            lead={step.below ? t('structures.thePriceOfOneWorkedOut') : undefined}
            goToPick={goToPick}
            onRow={onRow && (() => onRow(step.assemblyId, step.rowId))}
          >
            {!step.below && <Worked known={step.steps} rowId={step.rowId} prefix={step.prefix} field="" formula={step.formula} />}
          </Because>
        </td>
      </tr>
    ),
    open === i && step.below && <Steps key={`${i}.below`} steps={step.below} depth={depth + 1} onRow={onRow} goToPick={goToPick} />,
  ])
}

/** What a step does to the price, in signs. */
function effectOf(step: Step): string {
  switch (step.effect) {
    case 'times':
      return `× ${step.number}`
    case 'atLeast':
      return t('structures.atLeastNumber', { number: money(step.number) })
    case 'rounds':
      return t('structures.toWholeNumber', { number: money(step.number) })
    default:
      return step.number.startsWith('-')
        ? `− ${money(step.number.slice(1))}`
        : `+ ${money(step.number)}${step.count === '1' ? '' : t('structures.nPieces', { n: step.count })}`
  }
}
