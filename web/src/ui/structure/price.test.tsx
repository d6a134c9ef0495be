import { screen, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, it, vi } from 'vitest'
import type { Schemas } from '../../api/client'
import { showPage } from '../../testing/page'
import { PriceTable } from './PriceTable'

const step = (name: string, more: Partial<Schemas['PriceStepView']> = {}): Schemas['PriceStepView'] => ({
  effect: 'adds',
  name,
  number: '10',
  after: '10',
  count: '1',
  formula: '',
  condition: '',
  because: [],
  rowId: name,
  assemblyId: 'room',
  prefix: '',
  steps: [],
  below: null,
  ...more,
})

const price: Schemas['PriceView'] = {
  list: '1250',
  customerClass: null,
  discount: '0',
  each: '1250',
  order: '5000',
  faults: [],
  steps: [
    step('Panels', {
      number: '940.5',
      after: '940.5',
      formula: 'area * core.rate',
      condition: 'walled',
      because: [{ path: 'r.area', label: 'Wall area', value: '8 m²' }],
      steps: [
        { text: 'area', result: '8 m²' },
        { text: 'area * core.rate', result: '940.5 EUR' },
      ],
    }),
    step('Door', { number: '400', after: '1340.5', count: '2', below: [step('Leaf', { number: '200', after: '200' })] }),
    step('Rebate', { number: '-100', after: '1240.5' }),
    step('Express', { effect: 'times', number: '1.005', after: '1246.7025' }),
    step('Least', { effect: 'atLeast', number: '900', after: '1246.7025' }),
    step('whole tens', { effect: 'rounds', number: '10', after: '1250', rowId: '' }),
  ],
}

function show(more: Partial<Schemas['PriceView']> = {}) {
  const [onRow, goToPick] = [vi.fn(), vi.fn()]
  showPage(<PriceTable price={{ ...price, ...more }} quantity="4" onRow={onRow} goToPick={goToPick} />)
  return { onRow, goToPick }
}

describe('a price', () => {
  it('tells what each step does and what it comes to', async () => {
    show()
    const rows = (await screen.findAllByRole('row')).map((r) =>
      within(r)
        .getAllByRole('cell')
        .map((c) => c.textContent),
    )
    expect(rows).toEqual([
      ['Panels', '+ 940.50', '940.50'],
      ['Door', '+ 400.00 (2 pieces)', '1\u202f340.50'],
      ['Rebate', '− 100.00', '1\u202f240.50'],
      ['Express', '× 1.005', '1\u202f246.7025'],
      ['Least', 'at least 900.00', '1\u202f246.7025'],
      ['whole tens', 'to whole 10.00', '1\u202f250.00'],
    ])
    expect(screen.getByText('4 ordered').nextElementSibling?.textContent).toBe('5\u202f000.00 EUR')
  })

  it('opens a step to its formula, its values and its row, and a subassembly to the steps of its own price', async () => {
    const { onRow, goToPick } = show()
    await userEvent.click(await screen.findByRole('button', { name: 'Panels' }))
    expect(screen.getByText(/area \* core\.rate\s+when walled/)).toBeTruthy()
    expect(
      within(screen.getByRole('list', { name: 'Worked out' }))
        .getAllByRole('listitem')
        .map((l) => l.textContent),
    ).toEqual(['area= 8 m²', 'area * core.rate= 940.5 EUR'])
    await userEvent.click(screen.getByRole('button', { name: 'Wall area' }))
    expect(goToPick).toHaveBeenCalledWith('r.area')
    await userEvent.click(screen.getByRole('button', { name: 'To its row' }))
    expect(onRow).toHaveBeenCalledWith('room', 'Panels')
    expect(screen.queryByRole('button', { name: 'Leaf' })).toBeNull()
    await userEvent.click(screen.getByRole('button', { name: 'Door' }))
    expect(screen.getByRole('button', { name: 'Leaf' })).toBeTruthy()
    // No row asks for the last rounding.
    expect(screen.queryByRole('button', { name: 'whole tens' })).toBeNull()
  })

  it('says whose discount is taken', async () => {
    show({ customerClass: 'Trade partner', discount: '12.5', each: '1093.75', order: '4375' })
    expect((await screen.findByText('Trade partner pays 12.5 % less')).nextElementSibling?.textContent).toBe('1\u202f093.75 EUR each')
  })

  it('that does not come about says why, with the way to the row', async () => {
    const { onRow } = show({
      list: null,
      steps: [],
      faults: [{ rowId: 'r.p1', assemblyId: 'room', sentence: 'The price cannot be computed in this configuration: it divides by zero.' }],
    })
    expect(await screen.findByText(/divides by zero/)).toBeTruthy()
    await userEvent.click(screen.getByRole('button', { name: 'To its row' }))
    expect(onRow).toHaveBeenCalledWith('room', 'r.p1')
  })
})
