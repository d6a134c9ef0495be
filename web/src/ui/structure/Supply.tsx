import { useState } from 'react'
import type { Schemas } from '../../api/client'
import { dayOf, grouped } from '../format'
import { workingDaysBefore } from './workingDays'
import { t } from '../../texts'

type Costs = Schemas['CostsView']

const cells = '[&>td]:py-0.5 [&>td]:pr-3 [&>th]:py-0.5 [&>th]:pr-3 [&>th]:font-normal [&>th]:italic'

/** What has to be there for the whole order and by when, and what each work centre has to do; by days of the calendar once one is named. */
export function Supply({ costs }: { costs: Costs }) {
  const [ready, setReady] = useState('')
  const consumption = costs.consumption ?? []
  const load = costs.load ?? []
  const total = Number(costs.schedule.days)
  /** A working day from the start, as a day of the calendar where the last one is named. */
  const dayAt = (text: string) =>
    text === '' ? '' : ready === '' ? t('structures.dayNumber', { day: text }) : dayOf(workingDaysBefore(ready, total - Number(text)))
  if (consumption.length === 0 && load.length === 0) return null
  return (
    <section aria-label={t('structures.toBuyAndToDo')} className="grid gap-3">
      <label className="flex flex-wrap items-center gap-2">
        <span className="quiet italic">{t('structures.readyOn')}</span>
        <input type="date" className="input w-36" value={ready} min="1900-01-01" onChange={(e) => setReady(e.target.value)} />
        <span className="quiet text-sm">{ready === '' ? t('structures.daysCountFromTheStart') : t('structures.withoutSaturdaysAndSundays')}</span>
      </label>
      {consumption.length > 0 && (
        <div className="overflow-x-auto">
          <h3 className="border-b hair pb-0.5">
            <span className="font-semibold">
              {t('structures.usedForQuantity', { quantity: costs.quantity === '1' ? t('structures.one') : grouped(costs.quantity) })}
            </span>{' '}
            <span className="quiet">{t('structures.itemsOverAllLevels', { n: consumption.length })}</span>
          </h3>
          <table className="w-full border-collapse" aria-label={t('structures.usedForTheOrder')}>
            <thead className="quiet text-left text-sm">
              <tr className={`border-b hair ${cells}`}>
                <th>{t('structures.item')}</th>
                <th>{t('structures.description')}</th>
                <th className="text-right">{t('structures.net')}</th>
                <th className="text-right">{t('structures.gross')}</th>
                <th className="text-right">{t('structures.toOrder')}</th>
                <th className="text-right">{t('structures.takesDays')}</th>
                <th className="text-right">{t('structures.neededOn')}</th>
                <th className="text-right">{t('structures.orderBy')}</th>
              </tr>
            </thead>
            <tbody>
              {consumption.map((c) => (
                <tr key={c.item} className={`border-b hair [&>td]:whitespace-nowrap ${cells}`}>
                  <td>{c.item}</td>
                  <td className="w-full whitespace-normal!">{c.description}</td>
                  <td className="text-right">{c.net}</td>
                  <td className="text-right">{c.gross}</td>
                  <td className="text-right">{c.toOrder}</td>
                  <td className="text-right">{c.leadTimeDays}</td>
                  <td className="text-right">{dayAt(c.neededOnDay)}</td>
                  <td className="text-right">{dayAt(c.orderByDay)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      {load.length > 0 && <Load load={load} days={total} />}
    </section>
  )
}

function Load({ load, days }: { load: NonNullable<Costs['load']>; days: number }) {
  const longest = Math.max(days, ...load.map((l) => Number(l.days)), 0.0001)
  return (
    <div>
      <h3 className="border-b hair pb-0.5 font-semibold">{t('structures.loadOfTheWorkCentres')}</h3>
      <table className="w-full border-collapse" aria-label={t('structures.loadOfTheWorkCentres')}>
        <thead className="quiet text-left text-sm">
          <tr className={`border-b hair ${cells}`}>
            <th>{t('structures.workCentre')}</th>
            <th>{t('structures.site')}</th>
            <th className="text-right">{t('structures.operations')}</th>
            <th className="text-right">{t('structures.setUpMin')}</th>
            <th className="text-right">{t('structures.runMin')}</th>
            <th className="text-right">{t('structures.itsWorkingDays')}</th>
            <th className="w-1/4">
              <span className="sr-only">{t('structures.shareOfTheLeadTime')}</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {load.map((l) => (
            <tr key={l.workCentre} className={`border-b hair ${cells}`}>
              <td>
                {l.workCentre} <span className="quiet">{l.label === l.workCentre ? '' : l.label}</span>
              </td>
              <td>{l.site}</td>
              <td className="text-right">{l.operations}</td>
              <td className="text-right">{grouped(l.setup)}</td>
              <td className="text-right">{grouped(l.run)}</td>
              <td className="text-right">{grouped(l.days)}</td>
              <td>
                <span className="block h-3.5 border border-primary" style={{ width: `${(days / longest) * 100}%` }} aria-hidden>
                  <span className="block h-full bg-primary" style={{ width: `${Math.min(100, (Number(l.days) / Math.max(days, 0.0001)) * 100)}%` }} />
                </span>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  )
}
