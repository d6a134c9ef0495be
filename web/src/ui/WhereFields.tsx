import { useState } from 'react'
import type { Schemas } from '../api/client'
import { t } from '../texts'

type Sites = Schemas['CodeView'][]

/** For which site, of those there are; “any” asks for all that holds at some site. */
export function SiteField({ site, sites, onChange }: { site: string | null; sites: Sites; onChange: (site: string | null) => void }) {
  return (
    <select
      className="select w-auto"
      aria-label={t('bench.site')}
      title={t('bench.theSiteThatItIsFor')}
      value={site ?? ''}
      onChange={(e) => onChange(e.target.value || null)}
    >
      <option value="">{t('bench.anySite')}</option>
      {sites.map((s) => (
        <option key={s.code} value={s.code}>
          {s.label}
        </option>
      ))}
      {site !== null && sites.every((s) => s.code !== site) && <option value={site}>{t('bench.siteWhichIsGone', { site })}</option>}
    </select>
  )
}

const firstDay = '1900-01-01'

/** For which day; empty asks for all that holds on some day. */
export function DayField({ date, onChange }: { date: string | null; onChange: (date: string | null) => void }) {
  const [typed, setTyped] = useState<string | null>(null)
  return (
    <input
      type="date"
      className={`input w-32 ${date === null ? 'quiet' : ''}`}
      aria-label={t('bench.day')}
      title={t('bench.theDayThatItIsFor')}
      min={firstDay}
      value={typed ?? date ?? ''}
      onChange={(e) => {
        // While a year is being typed, the field goes through the days of the first centuries.
        const day = e.target.value
        const complete = day === '' ? !e.target.validity.badInput : day >= firstDay
        setTyped(complete ? null : day)
        if (complete && (day || null) !== date) onChange(day || null)
      }}
      onBlur={() => setTyped(null)}
    />
  )
}

/** Today, as calendars here count it. */
export const today = (now = new Date()): string =>
  `${now.getFullYear()}-${String(now.getMonth() + 1).padStart(2, '0')}-${String(now.getDate()).padStart(2, '0')}`
