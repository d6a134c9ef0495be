import type { Schemas } from '../../api/client'
import { grouped, money } from '../format'
import { MarginMark, UnderMargin } from './Margin'
import { PriceTable } from './PriceTable'
import { Supply } from './Supply'
import { t } from '../../texts'

type Costs = Schemas['CostsView']
type Totals = Schemas['TotalsView']

/** The parts of a cost, each with a pattern of its own, so that they can be told apart without colour. */
const parts: [keyof Totals, string, string][] = [
  ['material', t('structures.material'), 'bg-primary'],
  ['scrap', t('structures.scrap'), 'border border-primary bg-base-100'],
  ['labour', t('structures.labour'), 'bg-success'],
  ['machine', t('structures.machine'), 'border border-success bg-base-100'],
  ['overhead', t('structures.overhead'), 'border border-warning bg-warning/60'],
]

/** What a quantity sells for and costs, level by level, and how long it takes. */
export function CostTime({
  costs,
  onRow,
  goToPick,
}: {
  costs: Costs
  onRow?: (assemblyId: string, rowId: string) => void
  goToPick?: (path: string) => void
}) {
  return (
    <div className="grid grid-cols-[minmax(0,1fr)] gap-5">
      {costs.price && <PriceTable price={costs.price} quantity={costs.quantity} onRow={onRow} goToPick={goToPick} />}
      {costs.margin && (
        <div>
          <MarginMark margin={costs.margin} />
          {costs.margin.isUnder && <UnderMargin margin={costs.margin} />}
        </div>
      )}
      {costs.order.cost !== '' && <CostTable costs={costs} />}
      <TimeChart schedule={costs.schedule} />
      <Supply costs={costs} />
      <Missing findings={costs.findings} />
    </div>
  )
}

function CostTable({ costs }: { costs: Costs }) {
  const largest = Math.max(...costs.levels.map((l) => Number(l.all.cost)), 1)
  return (
    <section aria-label={t('structures.costByLevel')} className="overflow-x-auto">
      <table className="w-full border-collapse">
        <thead className="quiet text-left text-sm">
          <tr className="border-b hair [&>th]:py-0.5 [&>th]:pr-3 [&>th]:font-normal [&>th]:italic">
            <th>{t('structures.madeItem')}</th>
            <th className="text-right">{t('structures.lot')}</th>
            {parts.map(([key, label]) => (
              <th key={key} className="text-right">
                {label}
              </th>
            ))}
            <th className="text-right">{t('structures.costEUR')}</th>
          </tr>
        </thead>
        <tbody>
          {costs.levels.map((l, i) => (
            <tr key={i} className="border-b hair [&>td]:py-0.5 [&>td]:pr-3">
              <td style={{ paddingLeft: l.depth * 16 }}>
                <span className="font-semibold">{l.item}</span> <span className="quiet">{l.description}</span>
              </td>
              <td className="text-right">{grouped(l.lot)}</td>
              {parts.map(([key]) => (
                <td key={key} className="text-right">
                  {money(l.all[key])}
                </td>
              ))}
              <td className="text-right font-semibold">{money(l.all.cost)}</td>
            </tr>
          ))}
          <tr className="[&>td]:py-0.5 [&>td]:pr-3">
            <td className="italic">{t('structures.oneOfQuantity', { quantity: grouped(costs.quantity) })}</td>
            <td />
            {parts.map(([key]) => (
              <td key={key} className="text-right">
                {money(costs.piece[key])}
              </td>
            ))}
            <td className="text-right font-semibold">{money(costs.piece.cost)}</td>
          </tr>
        </tbody>
      </table>
      <div className="mt-3 grid gap-1" role="img" aria-label={t('structures.costOfEachMadeItemBy', { cost: money(costs.order.cost) })}>
        {costs.levels.map((l, i) => (
          <div key={i} className="flex items-center gap-2 text-sm">
            <span className="w-20 shrink-0 truncate">{l.item}</span>
            <span className="flex h-3.5 flex-1">
              {parts.map(([key, label, look]) => (
                <span
                  key={key}
                  className={look}
                  style={{ width: `${(Number(l.all[key]) / largest) * 100}%` }}
                  title={t('structures.labelAllEUR', { label, all: money(l.all[key]) })}
                />
              ))}
            </span>
          </div>
        ))}
        <p className="flex flex-wrap gap-x-4 text-sm">
          {parts.map(([key, label, look]) => (
            <span key={key} className="flex items-center gap-1.5">
              <span className={`inline-block size-3 ${look}`} /> {label}
            </span>
          ))}
          <span className="quiet italic">{t('structures.eachWithAllThatIsBelow')}</span>
        </p>
      </div>
    </section>
  )
}

function TimeChart({ schedule }: { schedule: Costs['schedule'] }) {
  // The days are rounded for reading; the last operation may end a little later.
  const days = Math.max(Number(schedule.days), 0.0001, ...schedule.operations.map((o) => Number(o.end)))
  return (
    <section aria-label={t('structures.leadTime')}>
      <h3 className="flex flex-wrap gap-x-4 border-b hair pb-0.5">
        <span className="font-semibold">{t('structures.leadTime')}</span>
        <span>
          <b>{schedule.days}</b> {t('structures.workingDays')}
        </span>
        {schedule.longestBought && (
          <span className="quiet italic">{t('structures.longestToBuyLongestBought', { longestBought: schedule.longestBought })}</span>
        )}
      </h3>
      {schedule.operations.map((o, i) => (
        <div key={i} className="flex items-center gap-2 border-b hair py-0.5 text-sm">
          <span className="w-20 shrink-0 truncate" style={{ paddingLeft: o.depth * 10 }}>
            {o.item}
          </span>
          <span className="w-56 shrink-0 truncate" title={`${o.name}, ${o.workCentre}`}>
            {o.sequence} {o.name}
          </span>
          <span className="relative h-3.5 flex-1">
            <span
              className={`absolute inset-y-0 min-w-0.5 ${o.isCritical ? 'bg-primary' : 'border border-primary bg-base-100'}`}
              style={{ left: `${(Number(o.start) / days) * 100}%`, width: `${((Number(o.end) - Number(o.start)) / days) * 100}%` }}
              title={t('structures.fromDayToDay', {
                from: Number(o.start).toFixed(2),
                to: Number(o.end).toFixed(2),
                more: o.isCritical ? t('structures.onTheLongestWay') : '',
              })}
            />
          </span>
        </div>
      ))}
      <p className="mt-1 flex gap-x-4 text-sm">
        <span className="flex items-center gap-1.5">
          <span className="inline-block size-3 bg-primary" /> {t('structures.onTheLongestWay2')}
        </span>
        <span className="flex items-center gap-1.5">
          <span className="inline-block size-3 border border-primary" /> {t('structures.withTimeToSpare')}
        </span>
      </p>
    </section>
  )
}

/** What is missing for building, each with the way to where it is mended. */
export function Missing({ findings, onRow }: { findings: Schemas['BuildableView'][]; onRow?: (assemblyId: string, rowId: string) => void }) {
  if (findings.length === 0) return <p className="quiet">{t('structures.everythingThatIsNeededForBuilding')}</p>
  return (
    <section aria-label={t('structures.missingForBuilding')}>
      <h3 className="border-b hair pb-0.5 font-semibold">{t('structures.missingForBuilding')}</h3>
      <ul>
        {findings.map((f, i) => (
          <li key={i} className="flex flex-wrap gap-x-3 border-b hair py-0.5">
            <span className={`w-16 shrink-0 ${f.severity === 'error' ? 'fault' : 'quiet italic'}`}>
              {f.severity === 'error' ? t('structures.error') : t('structures.lookAt')}
            </span>
            <span>{f.sentence}</span>
            <span className="ml-auto flex gap-3">
              {f.mendedIn === 'item' && (
                <a className="link" href={`/items/${encodeURIComponent(f.code)}`}>
                  {t('structures.toTheItem')}
                </a>
              )}
              {f.mendedIn === 'workCentre' && (
                <a className="link" href="/library/work-centres">
                  {t('structures.toTheWorkCentres')}
                </a>
              )}
              {onRow && f.rowId && f.assemblyId && (
                <button className="link" onClick={() => onRow(f.assemblyId, f.rowId)}>
                  {f.rowName || t('structures.toItsRow')}
                </button>
              )}
            </span>
          </li>
        ))}
      </ul>
    </section>
  )
}
