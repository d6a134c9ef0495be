import { screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { expect, it } from 'vitest'
import { showPage } from '../../testing/page'
import { problem, server } from '../../testing/server'
import { WouldTouch } from './WouldTouch'

const touched = {
  code: 'CR',
  label: 'Cold room',
  revisionId: 2,
  number: 2,
  state: 'draft',
  faults: [],
  cases: 70,
  failingCases: 2,
  failing: ['As suggested: Cost of the order: 7082 EUR is expected, 7100 EUR came out.'],
  asked: 14,
  entries: [{ id: 'a', name: 'Dairy hall', because: '', changes: [{ subject: 'Cost of the order', before: '7082 EUR', after: '7100 EUR' }] }],
}

it('tells what another cost would touch, and what is wrong with what was typed', async () => {
  let answer: unknown = problem(422, '“dear” is no amount.', { pointer: '/rows/0' })
  showPage(<WouldTouch number="SCRW-K" sites={[{ site: 'HAL', label: 'Haldwyn' }]} />, {
    answers: { 'POST /api/library/items/impact': () => answer },
  })
  const field = await screen.findByRole('textbox', { name: 'would be' })
  await userEvent.type(field, 'dear{Enter}')
  expect((await screen.findByRole('alert')).textContent).toBe('“dear” is no amount.')
  answer = { products: [touched], finished: false }
  await userEvent.clear(field)
  await userEvent.type(field, '4.10{Enter}')
  await userEvent.click(await screen.findByText('2 of 70 test cases would fail'))
  expect(screen.getByText(/7100 EUR came out/)).toBeTruthy()
  expect(screen.getByText(/1 of the 14 saved last/)).toBeTruthy()
  expect(screen.getByText('Time ran out; there may be more.')).toBeTruthy()
  answer = { products: [], finished: true }
  await userEvent.selectOptions(screen.getByRole('combobox', { name: 'What is otherwise' }), 'store at Haldwyn')
  await userEvent.click(screen.getByRole('button', { name: 'See what it touches' }))
  expect(await screen.findByText('Nothing of any product would come out otherwise.')).toBeTruthy()
  expect(server.requests.at(-1)?.body).toEqual({ columns: ['number', 'store HAL'], rows: [['SCRW-K', '4.10']], before: null })
})
