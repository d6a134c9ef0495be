import { fireEvent, render, screen, within } from '@testing-library/react'
import { expect, it } from 'vitest'
import type { Schemas } from '../../api/client'
import { Supply } from './Supply'
import { workingDaysBefore } from './workingDays'

it('counts working days back, parts of days as whole ones, over weekends and years', () => {
  // 2026-11-30 is a Monday.
  expect(['0', '0.2', '1', '4', '5', '6', '25'].map((n) => workingDaysBefore('2026-11-30', Number(n)))).toEqual([
    '2026-11-30',
    '2026-11-27',
    '2026-11-27',
    '2026-11-24',
    '2026-11-23',
    '2026-11-20',
    '2026-10-26',
  ])
  // What is to be ready on a Sunday is ready on the Friday before.
  expect(workingDaysBefore('2026-11-29', 0)).toBe('2026-11-27')
  expect(workingDaysBefore('2027-01-01', 1)).toBe('2026-12-31')
  // Against counting one by one, from every day of two years.
  for (let i = 0; i < 730; i++) {
    const from = new Date(Date.UTC(2026, 0, 1 + i)).toISOString().slice(0, 10)
    const [start, end] = [workingDaysBefore(from, 13), workingDaysBefore(from, 0)]
    let passed = 0
    for (let at = Date.parse(start); at < Date.parse(end); at += 86_400_000) passed += [0, 6].includes(new Date(at).getUTCDay()) ? 0 : 1
    expect(passed).toBe(13)
  }
})

it('says what is to be bought by when, by day of work or of the calendar, and how the work centres are filled', () => {
  const used = (item: string, more: object) => ({ item, description: 'Hinge', net: '4', gross: '4', toOrder: '10', ...more })
  render(
    <Supply
      costs={
        {
          quantity: '5',
          schedule: { days: '10' },
          consumption: [
            used('HNG-L', { leadTimeDays: '12', neededOnDay: '5', orderByDay: '-7' }),
            used('GSK-D', { leadTimeDays: '', neededOnDay: '0', orderByDay: '' }),
          ],
          load: [{ workCentre: 'DOOR', label: 'Door bench', site: 'HAL', operations: 3, setup: '60', run: '1200', days: '2.62' }],
        } as unknown as Schemas['CostsView']
      }
    />,
  )
  const row = (name: RegExp) =>
    within(screen.getByRole('row', { name }))
      .getAllByRole('cell')
      .map((c) => c.textContent)
  expect(row(/HNG-L/).slice(5)).toEqual(['12', 'day 5', 'day -7'])
  expect(row(/GSK-D/).slice(5)).toEqual(['', 'day 0', ''])
  expect(row(/Door bench/).slice(0, 6)).toEqual(['DOOR Door bench', 'HAL', '3', '60', '1\u202f200', '2.62'])
  // The last of ten working days is Friday, 18 December 2026.
  fireEvent.change(screen.getByLabelText(/^Ready on/), { target: { value: '2026-12-18' } })
  expect(row(/HNG-L/).slice(6)).toEqual(['11 Dec 2026', '25 Nov 2026'])
})
