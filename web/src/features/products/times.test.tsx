import { screen, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, it } from 'vitest'
import { asked, showPage } from '../../testing/page'
import { problem } from '../../testing/server'
import { TimesPage } from './TimesPage'

const pause = {
  id: 'p1',
  valueId: 'c120',
  value: 'Panel core: 120 mm',
  from: '2027-02-01',
  to: '2027-02-28',
  reason: 'The press is mended.',
  person: 'ines',
  madeAt: '2026-11-24T10:00:00Z',
  endedBy: null as string | null,
  endedAt: null as string | null,
  met: [{ id: 'c1', name: 'Harbour fish market', date: null }],
}

function show(rights: string[], more = {}) {
  return showPage(<TimesPage />, {
    route: '/products/:productId/times',
    path: '/products/cr/times',
    rights,
    answers: {
      'GET /api/products/cr': () => ({ id: 'cr', code: 'CR', label: 'Walk-in cold room', revisionId: 2, number: 2, state: 'draft' }),
      'GET /api/products/cr/pauses': () => [pause],
      'GET /api/revisions/2': () => ({
        document: {
          lists: [{ id: 'cores', name: 'cores', label: { en: 'Panel core' }, values: [{ id: 'c120', code: '120', label: { en: '120 mm' } }] }],
        },
      }),
      'GET /api/revisions/2/times': () => ({
        entries: [
          { kind: 'part', id: 'old', assemblyId: 'r', listId: null, name: 'SEAL', where: 'Room', from: null, to: '2027-01-31', sites: [] },
          {
            kind: 'value',
            id: 'v',
            assemblyId: null,
            listId: 'finishes',
            name: 'Galvanised',
            where: 'Finish',
            from: '2027-03-01',
            to: null,
            sites: ['Haldwyn'],
          },
        ],
        successions: [{ kind: 'gap', id: 'old', assemblyId: 'r', name: 'SEAL', next: 'SEAL-2', from: '2027-02-01', to: '2027-02-10' }],
        days: ['2027-02-01', '2027-03-01'],
      }),
      ...more,
    },
  })
}

describe('What holds when', () => {
  it('tells of gaps, leads to the rows and values, and of what is saved with a pause', async () => {
    show(['read'])
    expect(await screen.findByText('Nothing holds 2027-02-01 to 2027-02-10, between SEAL and SEAL-2.')).toBeTruthy()
    expect(screen.getByRole('link', { name: 'SEAL' }).getAttribute('href')).toBe('/workshop/2?assembly=r&row=old')
    expect(screen.getByRole('link', { name: 'Galvanised' }).getAttribute('href')).toBe('/workshop/2?list=finishes')
    expect(screen.getByText('until 2027-01-31')).toBeTruthy()
    expect(screen.getByText('from 2027-03-01 on')).toBeTruthy()
    const paused = screen.getByRole('region', { name: 'Paused for a time' })
    expect(within(paused).getByRole('link', { name: 'Harbour fish market' }).getAttribute('href')).toBe('/configurations/c1')
    // Who may only read neither pauses nor ends.
    expect(within(paused).queryByRole('button')).toBeNull()
  })

  it('a value is paused with a reason; what was wrong is told, and nothing typed is lost', async () => {
    let refuses = true
    show(['read', 'edit'], {
      'POST /api/products/cr/pauses': () =>
        refuses ? problem(422, 'It would end before it begins.') : [pause, { ...pause, id: 'p2', reason: 'Again.' }],
      'POST /api/products/cr/pauses/p1/end': () => [{ ...pause, endedBy: 'ines', endedAt: '2026-11-25T10:00:00Z' }],
    })
    await screen.findByRole('option', { name: '120 mm' })
    await userEvent.selectOptions(screen.getByLabelText('What is paused'), '120 mm')
    const why = screen.getByRole<HTMLInputElement>('textbox', { name: 'why it is paused' })
    await userEvent.type(why, 'Again.{Enter}')
    expect((await screen.findByRole('alert')).textContent).toContain('before it begins')
    expect(why.value).toBe('Again.')
    refuses = false
    await userEvent.click(screen.getByRole('button', { name: 'Pause it' }))
    await expect.poll(() => why.value).toBe('')
    expect(asked('POST', '/api/products/cr/pauses').at(-1)!.body).toMatchObject({ valueId: 'c120', to: null, reason: 'Again.' })
    await userEvent.click(screen.getAllByRole('button', { name: 'End it' })[0]!)
    expect(await screen.findByText('ended by ines')).toBeTruthy()
  })
})
