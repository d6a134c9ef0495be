import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { act, render, renderHook, screen, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, it } from 'vitest'
import { asked, showPage } from '../../testing/page'
import { documentOf, inWorkshop, rows } from '../../testing/workshop'
import { benchKey, useBench } from '../bench/useBench'
import { today } from '../../ui/WhereFields'
import { Worksheet } from '../workshop/Worksheet'
import { CountText } from './CountCell'
import { HealthPage } from './HealthPage'
import { inShort, type Health, type HealthFinding } from './useHealth'

const found = (more: Partial<HealthFinding> = {}): HealthFinding => ({
  key: 'valueNever:finish:x',
  kind: 'valueNever',
  weight: 'warning',
  rowId: 'finish',
  assemblyId: 'door',
  name: 'Finish',
  mark: '',
  sentence: 'Finish: Grey can never be had.',
  example: null,
  causes: [{ kind: 'rule', rowId: 'wide', assemblyId: 'door', mark: '§4', sentence: 'Doors are at least 700 mm wide.' }],
  accepted: null,
  ...more,
})
const health = (more: Partial<Health> = {}): Health => ({ head: 5, running: false, done: 8, total: 8, findings: [], unfinished: [], ...more })
const revision = {
  id: 3,
  productId: 'ds',
  number: 1,
  state: 'draft',
  author: 'ines',
  head: 5,
  changedAt: '2027-01-05T10:00:00Z',
  document: documentOf(...Object.values(rows)),
  findings: [],
  sites: [],
}

const show = (answer: Health, more: Parameters<typeof showPage>[1] = {}) =>
  showPage(<HealthPage />, {
    route: '/workshop/:revisionId/health',
    path: '/workshop/3/health',
    answers: { 'GET /api/revisions/3': () => revision, 'GET /api/revisions/3/health': () => answer, ...more.answers },
    ...(more.rights ? { rights: more.rights } : {}),
  })

describe('the health page', () => {
  it('lists what was found by weight, leads to the row, and shows why', async () => {
    show(
      health({
        findings: [
          found(),
          found({ key: 'n', weight: 'note', kind: 'unused', sentence: 'Handing is asked, but nothing depends on it.', causes: null }),
        ],
      }),
    )
    const warnings = within(await screen.findByRole('region', { name: 'Warnings' }))
    expect(within(screen.getByRole('region', { name: 'Notes' })).queryByRole('button', { name: 'why' })).toBeNull()
    await userEvent.click(warnings.getByRole('button', { name: 'why' }))
    await userEvent.click(warnings.getByRole('button', { name: /Doors are at least 700/ }))
    expect(screen.getByLabelText('address').textContent).toBe('/workshop/3?assembly=door&row=wide')
  })

  it('takes an example to the bench', async () => {
    show(
      health({
        findings: [
          found({ kind: 'numberZero', causes: null, example: [{ path: 'width', label: 'Clear width', value: '600', valueLabel: '600 mm' }] }),
        ],
      }),
    )
    await userEvent.click(await screen.findByRole('button', { name: 'example' }))
    expect(screen.getByText('600 mm')).toBeTruthy()
    await userEvent.click(screen.getByRole('button', { name: 'Try it on the bench' }))
    // What was on the bench before is one undo away.
    localStorage.setItem(benchKey(3), JSON.stringify({ picks: [{ path: 'width', value: '900' }], site: 'HAL', date: null }))
    const { result } = renderHook(() => useBench(3, undefined, benchKey(3)), {
      wrapper: ({ children }) => <QueryClientProvider client={new QueryClient()}>{children}</QueryClientProvider>,
    })
    expect(result.current.question).toMatchObject({ picks: [{ path: 'width', value: '600' }], site: null, date: today() })
    act(() => result.current.undo())
    expect(result.current.question).toEqual({ picks: [{ path: 'width', value: '900' }], site: 'HAL', date: null, customerClass: null })
  })

  it('accepts a finding only with a reason, and takes that back', async () => {
    const accepted = health({ findings: [found({ accepted: { reason: 'Grey comes next year.', person: 'ines', at: '2027-01-05T10:00:00Z' } })] })
    show(health({ findings: [found()] }), {
      answers: {
        'POST /api/revisions/3/health/accepted': ({ body }) =>
          (body as { reason: string | null }).reason === null ? health({ findings: [found()] }) : accepted,
      },
    })
    await userEvent.click(await screen.findByRole('button', { name: 'accept …' }))
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Accept' }).disabled).toBe(true)
    await userEvent.type(screen.getByRole('textbox', { name: 'Why it may stay as it is' }), 'Grey comes next year.{Enter}')
    expect(await screen.findByText(/“Grey comes next year.”, ines/)).toBeTruthy()
    await userEvent.click(screen.getByRole('button', { name: 'take back' }))
    expect(await screen.findByRole('region', { name: 'Warnings' })).toBeTruthy()
    expect(asked('POST', '/api/revisions/3/health/accepted').map((r) => r.body)).toEqual([
      { key: 'valueNever:finish:x', reason: 'Grey comes next year.' },
      { key: 'valueNever:finish:x', reason: null },
    ])
  })

  it('shows how far an analysis is and what it did not get to', async () => {
    const page = show(health({ running: true, done: 2, total: 8 }))
    expect((await screen.findByRole('progressbar')).getAttribute('aria-valuenow')).toBe('25')
    page.unmount()
    show(health({ unfinished: ['Whether §4 makes a difference was not found out in time.'] }), { rights: ['read'] })
    expect(await screen.findByText(/Whether §4/)).toBeTruthy()
    expect(screen.queryByText(/Nothing was found/)).toBeNull()
  })
})

describe('health in the workshop', () => {
  it('marks a row and tells what was found when it is open', () => {
    inWorkshop((_, assembly) => <Worksheet assembly={assembly} openRow={rows.finish.id} kind={null} />, { health: [found()] })
    expect(screen.getByLabelText('one health finding')).toBeTruthy()
    expect(screen.getByText(/Grey can never be had/)).toBeTruthy()
    expect(screen.getByRole('link', { name: 'why' }).getAttribute('href')).toBe('/workshop/1/health')
  })

  it('is told in a few words', () => {
    expect(inShort(undefined)).toBe('…')
    expect(inShort(health({ running: true, done: 1, total: 3 }))).toBe('checking, 33 %')
    expect(inShort(health())).toBe('nothing found')
    expect(inShort(health({ findings: [found(), found({ weight: 'note' }), found({ weight: 'note' })] }))).toBe('1 warning, 2 notes')
    expect(inShort(health({ unfinished: ['x'] }))).toBe('not all checked')
  })

  it('writes counts so that they can be read', () => {
    const text = (number: string, exact: boolean) => {
      const { container, unmount } = render(<CountText count={{ number, exact }} />)
      const shown = container.innerHTML.replace(/<\/?span[^>]*>/g, '')
      unmount()
      return shown
    }
    expect(text('1234567', true)).toBe('1\u202f234\u202f567')
    expect(text('20685631957484544000', false)).toBe('over 2.0 × 10<sup>19</sup>')
    expect(text('0', false)).toBe('not counted in time')
  })
})
