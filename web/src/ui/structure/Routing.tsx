import { useState } from 'react'
import type { Schemas } from '../../api/client'
import { grouped } from '../format'
import type { GoTo } from '../goTo'
import { Because } from './Because'
import { Steps } from './Steps'
import { t } from '../../texts'

type Structure = Schemas['StructureView']
type Operation = Schemas['OperationView']

/** Every made item of a structure, the lowest level last. */
export function made(structure: Structure): Structure[] {
  return [structure, ...structure.bom.flatMap((l) => (l.below ? made(l.below) : []))]
}

/** The routing of each made item, with a bar for the time of each operation. */
export function Routing({ structure, goTo, goToPick }: { structure: Structure; goTo?: GoTo; goToPick?: (path: string) => void }) {
  const all = made(structure)
  if (all.every((s) => s.routing.length === 0)) return <p className="quiet">{t('structures.noOperationApplies')}</p>
  const ordered = structure.quantity !== undefined && structure.quantity !== '1'
  const longest = Math.max(...all.flatMap((s) => s.routing.map((o) => Number(o.setup) + Number(o.run))), 1)
  return all
    .filter((s) => s.routing.length > 0)
    .map((s, i) => (
      <section key={`${s.item}${i}`} aria-label={t('structures.routingOfItem', { item: s.item })} className="mb-4">
        <h3 className="font-semibold">
          {s.item} <span className="quiet font-normal">{s.description}</span>
          {ordered && (
            <span className="quiet text-sm font-normal">{t('structures.quantityMadeForTheOrder', { quantity: grouped(s.quantity ?? '') })}</span>
          )}
        </h3>
        <table className="w-full table-fixed border-collapse">
          <thead className="quiet text-left text-sm">
            <tr className="border-b hair [&>th]:py-0.5 [&>th]:pr-3 [&>th]:font-normal [&>th]:italic">
              <th className="w-12 text-right">{t('structures.op')}</th>
              <th>{t('structures.operation')}</th>
              <th className="w-[22%]">{t('structures.workCentre')}</th>
              <th className="w-20 text-right">{t('structures.setUpMin')}</th>
              <th className="w-22 text-right">
                {t('structures.runMin')}
                {ordered && t('structures.each')}
              </th>
              {ordered && <th className="w-28 text-right">{t('structures.forTheOrderMin')}</th>}
              <th className="w-[22%]" />
            </tr>
          </thead>
          <tbody>
            {s.routing.map((o) => (
              <OperationRows key={o.prefix + o.rowId} operation={o} ordered={ordered} longest={longest} goTo={goTo} goToPick={goToPick} />
            ))}
          </tbody>
        </table>
      </section>
    ))
}

function OperationRows({
  operation: o,
  ordered,
  longest,
  goTo,
  goToPick,
}: {
  operation: Operation
  ordered: boolean
  longest: number
  goTo?: GoTo
  goToPick?: (path: string) => void
}) {
  const [why, setWhy] = useState(false)
  const share = (minutes: string) => `${(Number(minutes) / longest) * 100}%`
  return (
    <>
      <tr className="border-b hair hover:bg-base-200 [&>td]:py-0.5 [&>td]:pr-3">
        <td className="text-right">{o.sequence}</td>
        <td>
          <button className="text-left hover:text-primary" aria-expanded={why} onClick={() => setWhy(!why)}>
            {o.name}
          </button>
        </td>
        <td className="truncate">{o.workCentreLabel}</td>
        <td className="text-right">{grouped(o.setup)}</td>
        <td className="text-right">{grouped(o.run)}</td>
        {ordered && (
          <td className="text-right" title={t('structures.setUpOrderSetupMinRunOrderRun', { orderSetup: o.orderSetup, orderRun: o.orderRun })}>
            {grouped(String(Math.round((Number(o.orderSetup) + Number(o.orderRun)) * 10) / 10))}
          </td>
        )}
        <td>
          <span className="flex h-2.5" title={t('structures.setUpSetupMinRunRun', { setup: o.setup, run: o.run })}>
            <span className="border border-primary" style={{ width: share(o.setup) }} />
            <span className="bg-primary" style={{ width: share(o.run) }} />
          </span>
        </td>
      </tr>
      {why && (
        <tr>
          <td />
          <td colSpan={ordered ? 6 : 5}>
            <Because
              lead={o.condition ? t('structures.itIsThereBecause') : t('structures.aStandardOperationItIsAlways')}
              formula={o.condition}
              because={o.because}
              goToPick={goToPick}
              onRow={goTo && (() => goTo(o.assemblyId, o.rowId))}
            />
            {o.runFormula && (
              <Because
                lead={o.batch ? t('structures.itsRunTimeForEachBatch', { batch: o.batch }) : t('structures.itsRunTime')}
                formula={o.runFormula}
                because={o.runBecause}
                goToPick={goToPick}
              >
                <Steps known={o.runSteps ?? null} rowId={o.rowId} prefix={o.prefix} field="run" formula={o.runFormula} />
              </Because>
            )}
            {o.instructions && <p className="text-sm">{o.instructions}</p>}
          </td>
        </tr>
      )}
    </>
  )
}
