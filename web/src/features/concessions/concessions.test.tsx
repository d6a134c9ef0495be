import { screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, it } from 'vitest'
import { asked, showPage } from '../../testing/page'
import { problem } from '../../testing/server'
import { ConcessionNote } from './ConcessionNote'
import { ConcessionPage } from './ConcessionPage'
import { ConcessionsPage } from './ConcessionsPage'
import { type Concession } from './useConcessions'

const concession: Concession = {
  id: 'k1',
  number: 4,
  state: 'asked',
  configurationId: 'c1',
  configurationName: 'Reveal, old goods hall',
  revisionId: 7,
  productCode: 'SC',
  productLabel: 'Strip curtain',
  revisionNumber: 1,
  rules: [{ row: 's.r3', mark: '§3', sentence: 'In the reveal the curtain is at most 2.4 m wide' }],
  reason: 'The frame carries a rail.',
  until: '2027-06-30',
  quantity: 2,
  used: 0,
  askedBy: 'marit',
  askedAt: '2026-11-24T10:00:00Z',
  answeredBy: null,
  answeredAt: null,
  answer: '',
  withdrawnBy: null,
  withdrawnAt: null,
  withdrawnWhy: null,
}
const signed: Concession = { ...concession, state: 'holds', answeredBy: 'tomas', answeredAt: '2026-11-25T10:00:00Z', answer: 'By the statics.' }

function showOne(of: Concession, rights: string[], more = {}) {
  let now = of
  const answers = {
    'GET /api/concessions/k1': () => now,
    'POST /api/concessions/k1/sign': () => (now = signed),
    'POST /api/concessions/k1/refuse': () =>
      (now = { ...of, state: 'refused', answeredBy: 'tomas', answeredAt: '2026-11-25T10:00:00Z', answer: 'It sags.' }),
    ...more,
  }
  return showPage(<ConcessionPage />, { route: '/concessions/:concessionId', path: '/concessions/k1', rights, answers })
}

describe('A concession', () => {
  it('is signed by an approver, who sees what it sets aside and why', async () => {
    showOne(concession, ['read', 'release'])
    expect(await screen.findByText(/at most 2.4 m wide/)).toBeTruthy()
    expect(screen.getByText(/The frame carries a rail/)).toBeTruthy()
    await userEvent.click(screen.getByRole('button', { name: 'Sign' }))
    expect(await screen.findByText(/signed it\. By the statics\./)).toBeTruthy()
    expect(screen.queryByRole('button', { name: 'Sign' })).toBeNull()
    expect(screen.getByRole('button', { name: 'Withdraw …' })).toBeTruthy()
  })

  it('is refused with a reason only; what stands against it is told', async () => {
    showOne(concession, ['read', 'release'], {
      'POST /api/concessions/k1/sign': () => problem(409, 'The configuration has changed since this was asked for.'),
    })
    await userEvent.click(await screen.findByRole('button', { name: 'Sign' }))
    expect((await screen.findByRole('alert')).textContent).toContain('has changed since')
    await userEvent.click(screen.getByRole('button', { name: 'Refuse …' }))
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Refuse it' }).disabled).toBe(true)
    await userEvent.type(screen.getByRole('textbox', { name: 'Why it is refused' }), 'It sags.{Enter}')
    expect(await screen.findByText(/refused it: It sags\./)).toBeTruthy()
    expect(asked('POST', '/api/concessions/k1/refuse').map((r) => r.body)).toEqual([{ note: 'It sags.' }])
  })

  it('is taken back by whoever asked, who does not sign it', async () => {
    showOne({ ...concession, askedBy: 'ines' }, ['read', 'configure', 'release'], {
      'POST /api/concessions/k1/take-back': () => ({ ...concession, state: 'takenBack' }),
    })
    expect(await screen.findByText('You asked for it: someone else signs.')).toBeTruthy()
    expect(screen.queryByRole('button', { name: 'Sign' })).toBeNull()
    await userEvent.click(screen.getByRole('button', { name: 'Take back' }))
    expect(asked('POST', '/api/concessions/k1/take-back')).toHaveLength(1)
  })
})

describe('All concessions', () => {
  it('are listed with the rules that are set aside most often, one of which narrows the list', async () => {
    showPage(<ConcessionsPage />, {
      rights: ['read'],
      answers: {
        'GET /api/concessions': () => [concession, { ...signed, id: 'k2', number: 3 }],
        'GET /api/concessions/rules': () => [
          { productCode: 'SC', row: 's.r3', mark: '§3', sentence: 'In the reveal …', signed: 5, open: 1, latest: '2026-11-24T10:00:00Z' },
        ],
        'GET /api/views': () => [],
      },
    })
    expect((await screen.findByRole('link', { name: '4' })).getAttribute('href')).toBe('/concessions/k1')
    await userEvent.click(await screen.findByRole('button', { name: /§3/ }))
    expect(screen.getByRole('status', { name: 'address' }).textContent).toContain('rule=s.r3')
    expect(await screen.findByText('Only those of rule §3.')).toBeTruthy()
  })
})

describe('What is told of a concession beside a configuration', () => {
  it('says that it is not for what is changed, and shows it as it would be while it is asked for', async () => {
    let looked = 0
    const shown = showPage(<ConcessionNote concession={concession} isOfThis look={{ isShown: false, toggle: () => looked++ }} />)
    await userEvent.click(await screen.findByRole('button', { name: 'Show it as it would be' }))
    expect(looked).toBe(1)
    shown.unmount()
    showPage(<ConcessionNote concession={signed} isOfThis={false} />)
    expect(await screen.findByText('It is not for what is changed here.')).toBeTruthy()
  })

  it('lets more be asked for once it is used up', async () => {
    let asks = 0
    showPage(<ConcessionNote concession={{ ...signed, state: 'usedUp', used: 2 }} isOfThis onAskAgain={() => asks++} />)
    await userEvent.click(await screen.findByRole('button', { name: 'Ask for more …' }))
    expect(asks).toBe(1)
  })
})
