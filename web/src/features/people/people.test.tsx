import { screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, it } from 'vitest'
import { ChoosePasswordPage } from '../../app/ChoosePasswordPage'
import { asked, showPage, type Answers } from '../../testing/page'
import { problem } from '../../testing/server'
import { AuditPage } from './AuditPage'
import { PeoplePage } from './PeoplePage'

const person = (name: string, more: object = {}) => ({
  name,
  display: name.toUpperCase(),
  role: 'planner',
  mail: `${name}@juniperfall.example`,
  active: true,
  hasPassword: true,
  signedInAt: null,
  ...more,
})
const roles = [
  { role: 'engineer', rights: ['read', 'edit'] },
  { role: 'planner', rights: ['read', 'generate'] },
]
const people = { people: [person('ines', { role: 'engineer' }), person('odile', { hasPassword: false }), person('gone', { active: false })], roles }

const show = (answers: object = {}) =>
  showPage(<PeoplePage />, { route: '/people', path: '/people', answers: { 'GET /api/people': () => people, ...answers } })

describe('people', () => {
  it('are listed with what keeps them from signing in', async () => {
    show()
    expect(within((await screen.findByText('ODILE')).closest('tr')!).getByText('has no password yet')).toBeTruthy()
    expect(within(screen.getByText('GONE').closest('tr')!).getByText('may not sign in')).toBeTruthy()
    expect(screen.getByText('can sign in').nextSibling?.textContent).toBe('2')
  })

  it('are added with what each role may do in sight; a fault stands at its field', async () => {
    let taken = true
    show({
      'POST /api/people': () =>
        taken
          ? problem(409, 'There is somebody called rosa already.', { pointer: '/name' })
          : { mail: 'r@x.example', expiresAt: '2026-11-25T08:00:00Z' },
    })
    await userEvent.click(await screen.findByRole('button', { name: 'Add somebody' }))
    const sheet = screen.getByRole('dialog', { name: 'Add somebody' })
    await userEvent.type(within(sheet).getByLabelText('Sign-in name'), 'rosa')
    await userEvent.type(within(sheet).getByLabelText('Name'), 'Rosa Lind')
    await userEvent.type(within(sheet).getByLabelText('Mail'), 'r@x.example')
    await userEvent.click(within(sheet).getByRole('radio', { name: /planner.*generates structures/ }))
    await userEvent.click(within(sheet).getByRole('button', { name: 'Add and send a link' }))
    expect(await within(sheet).findByText('There is somebody called rosa already.')).toBeTruthy()
    expect(
      within(sheet)
        .getByLabelText(/Sign-in name/)
        .getAttribute('aria-invalid'),
    ).toBe('true')
    taken = false
    await userEvent.click(within(sheet).getByRole('button', { name: 'Add and send a link' }))
    await waitFor(() => expect(screen.queryByRole('dialog')).toBeNull())
    expect(asked('POST', '/api/people').at(-1)!.body).toEqual({ name: 'rosa', display: 'Rosa Lind', role: 'planner', mail: 'r@x.example' })
  })

  it('keep their own right to sign in; others are stopped with one click', async () => {
    show({ 'PATCH /api/people/odile': () => person('odile', { active: false }) })
    await userEvent.click(await screen.findByRole('button', { name: 'Change INES' }))
    expect(screen.queryByRole('button', { name: 'Stop from signing in' })).toBeNull()
    await userEvent.click(screen.getByRole('button', { name: 'Close' }))
    await userEvent.click(screen.getByRole('button', { name: 'Change ODILE' }))
    await userEvent.click(screen.getByRole('button', { name: 'Stop from signing in' }))
    await waitFor(() => expect(asked('PATCH', '/api/people/odile').at(-1)!.body).toEqual({ active: false }))
  })
})

describe('what happened', () => {
  it('is told in sentences, and an earlier page goes on where this one ends', async () => {
    const entry = (id: number, kind: string, more: object = {}) => ({
      id,
      at: '2026-11-24T09:00:00Z',
      kind,
      person: 'piet',
      subject: '',
      detail: '',
      address: '192.0.2.1',
      ...more,
    })
    const first = Array.from({ length: 200 }, (_, i) => entry(1000 - i, 'signedIn'))
    showPage(<AuditPage />, {
      answers: {
        'GET /api/audit': ({ search }) =>
          search.includes('before=801')
            ? [entry(7, 'roleChanged', { subject: 'marit', detail: 'planner → engineer' }), entry(6, 'signInFailed', { person: '' })]
            : first,
      },
    })
    await userEvent.click(await screen.findByRole('button', { name: 'Earlier' }))
    expect(await screen.findByText('changed the role of marit: planner → engineer')).toBeTruthy()
    expect(screen.getByText('somebody')).toBeTruthy()
    expect(screen.queryByRole('button', { name: 'Earlier' })).toBeNull()
  })
})

describe('a link to choose a password', () => {
  const choose = (answers: Answers) => showPage(<ChoosePasswordPage />, { route: '/password', path: '/password#t0ken', answers })

  it('takes two that are the same, and says why one is not taken', async () => {
    choose({
      'POST /api/password/link': () => ({ name: 'rosa', display: 'Rosa Lind' }),
      'POST /api/password': ({ body }: { body: unknown }) =>
        (body as { password: string }).password === 'short'
          ? problem(422, 'At least 12.', { pointer: '/password' })
          : new Response(null, { status: 204 }),
    })
    const [password, again] = [await screen.findByLabelText('New password'), screen.getByLabelText('The same again')]
    const keep = screen.getByRole('button', { name: 'Keep it' })
    await userEvent.type(password, 'short')
    await userEvent.click(keep)
    await userEvent.type(again, 'other')
    await userEvent.click(keep)
    expect((await screen.findByRole('alert')).textContent).toContain('not the same')
    await userEvent.clear(again)
    await userEvent.type(again, 'short')
    await userEvent.click(keep)
    await waitFor(() => expect(screen.getByRole('alert').textContent).toBe('At least 12.'))
    for (const field of [password, again]) {
      await userEvent.clear(field)
      await userEvent.type(field, 'drizzle lantern oxbow')
    }
    await userEvent.click(keep)
    expect(await screen.findByRole('link', { name: 'Sign in' })).toBeTruthy()
    expect(asked('POST', '/api/password').at(-1)!.body).toEqual({ token: 't0ken', password: 'drizzle lantern oxbow' })
  })

  it('that is used up says so, and asks for nothing', async () => {
    choose({ 'POST /api/password/link': () => problem(410, 'This link has been used.') })
    expect(await screen.findByText('This link has been used.')).toBeTruthy()
    expect(screen.queryByLabelText('New password')).toBeNull()
  })
})
