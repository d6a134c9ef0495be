import { screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { told } from '../../testing/answer'
import { asked, showPage, type Answers } from '../../testing/page'
import { problem, server } from '../../testing/server'
import { today } from '../../ui/WhereFields'
import { ConfigurationsPage } from './ConfigurationsPage'
import { ConfigurePage } from './ConfigurePage'

beforeAll(() => {
  HTMLDialogElement.prototype.showModal ??= function (this: HTMLDialogElement) {
    this.open = true
  }
  Element.prototype.scrollIntoView ??= () => undefined
})

const choice = (value: string, label: string, can = true) => ({ value, label, color: null, can })
const number = {
  kind: 'quantity',
  unit: 'mm',
  unitLabel: 'mm',
  min: '1200',
  max: '12000',
  step: '50',
  lowest: '1200',
  highest: '6000',
  members: null,
  choices: [],
}
const base = {
  required: true,
  missing: false,
  clash: 0,
  applies: 'always',
  unit: '',
  unitLabel: '',
  min: null,
  max: null,
  step: null,
  lowest: null,
  highest: null,
  members: null,
  choices: [],
  value: null,
  valueLabel: null,
}
type Picks = { path: string; value: string }[]

/** A small cold room: what the server would say to some picks. */
function answerTo(picks: Picks) {
  const picked = (path: string) => picks.find((p) => p.path === path)?.value ?? null
  const [duty, length] = [picked('duty'), picked('length')]
  return {
    head: 5,
    valid: true,
    exact: true,
    sections: [
      {
        id: 's1',
        topicId: 's1',
        assemblyId: 'room',
        title: 'Duty',
        place: null,
        asked: [
          {
            ...base,
            path: 'duty',
            rowId: 'duty',
            name: 'duty',
            label: 'Duty',
            kind: 'choice',
            state: duty ? 'picked' : 'open',
            missing: !duty,
            value: duty,
            valueLabel: duty,
            choices: [choice('chill', 'Chill'), choice('freezer', 'Freezer'), choice('blast', 'Blast', false)],
          },
          {
            ...base,
            ...number,
            path: 'length',
            rowId: 'length',
            name: 'length',
            label: 'Inner length',
            state: length ? 'picked' : 'suggested',
            value: length ?? '3600',
            valueLabel: `${length ?? 3600} mm`,
          },
          { ...base, path: 'label', rowId: 'label', name: 'label', label: 'Door label', kind: 'text', required: false, state: 'open' },
          {
            ...base,
            path: 'rails',
            rowId: 'rails',
            name: 'rails',
            label: 'Rails',
            kind: 'yesNo',
            state: 'resting',
            value: 'yes',
            valueLabel: 'yes',
            choices: [choice('yes', 'yes'), choice('no', 'no')],
          },
          {
            ...base,
            path: 'floor',
            rowId: 'floor',
            name: 'floor',
            label: 'Floor',
            kind: 'choice',
            state: 'follows',
            value: 'insulated',
            valueLabel: 'Insulated',
            choices: [choice('insulated', 'Insulated')],
          },
        ],
      },
    ],
    clashes: [],
    missing: duty ? [] : [{ path: 'duty', label: 'Duty', value: '', valueLabel: '' }],
    advice: [],
    figures: [],
    lines: [],
    faults: length === '99' ? [{ path: 'length', value: '99', sentence: '“length” lies between 1200 mm and 12000 mm; 99 mm does not.' }] : [],
    structure: duty
      ? {
          item: 'CR',
          description: 'Room',
          totals: { material: '1', labour: '1', machine: '1', cost: '3', weight: '10', work: '5' },
          bom: [],
          routing: [],
        }
      : null,
    structureFaults: [],
  }
}

const revision = {
  id: 1,
  productId: 'm',
  number: 2,
  state: 'released',
  author: 'ines',
  head: 5,
  changedAt: '2026-11-24T08:00:00Z',
  document: { code: 'CR', label: { en: 'Cold room' } },
  findings: [],
  sites: [{ code: 'HAL', label: 'Haldwyn' }],
}
const saved = {
  id: 'c1',
  name: 'Harbour store',
  revisionId: 1,
  productId: 'm',
  productCode: 'CR',
  productLabel: 'Cold room',
  revisionNumber: 2,
  revisionState: 'released',
  picks: [{ path: 'duty', value: 'chill' }],
  site: 'HAL',
  date: '2027-02-15',
  author: 'marit',
  changedBy: 'odile',
  version: 3,
  changedAt: '2026-11-24T09:00:00Z',
  newerRevisionId: null,
  newerNumber: null,
}

const answers = (more: Answers = {}): Answers => ({
  'GET /api/revisions/1': () => revision,
  'GET /api/configurations/c1': () => saved,
  'POST /api/revisions/1/answer': (a) => told(answerTo((a.body as { picks: Picks }).picks) as never),
  ...more,
})
const open = (path: string, more: Answers = {}, rights?: string[]) =>
  showPage(<ConfigurePage />, {
    route: path.startsWith('/configure/') ? '/configure/:revisionId' : '/configurations/:configurationId',
    path,
    answers: answers(more),
    ...(rights ? { rights } : {}),
  })
const button = (name: string | RegExp) => screen.findByRole<HTMLButtonElement>('button', { name })
const lastQuestion = () => {
  const { picks, site, date } = asked('POST', '/api/revisions/1/answer').at(-1)!.body as { picks: Picks; site: string | null; date: string | null }
  return { picks, site, date }
}

beforeEach(() => localStorage.clear())

describe('a new configuration', () => {
  it('is for today at first, says what is still needed, and is saved with everything that was answered', async () => {
    open('/configure/1', { 'POST /api/configurations': () => ({ ...saved, name: 'Order 4711' }) })
    expect(await screen.findByText('1 still needed')).toBeTruthy()
    expect(lastQuestion()).toEqual({ picks: [], site: null, date: today() })
    await userEvent.click(await button('Chill'))
    expect(await screen.findByText('ready to build')).toBeTruthy()
    await userEvent.selectOptions(screen.getByRole('combobox', { name: 'Site' }), 'Haldwyn')
    const name = screen.getByRole('textbox', { name: 'Name of the configuration' })
    expect((await button('Save')).disabled).toBe(true)
    await userEvent.type(name, 'Order 4711{Enter}')
    await waitFor(() => expect(screen.getByLabelText('address').textContent).toBe('/configurations/c1'))
    expect(asked('POST', '/api/configurations')[0]!.body).toMatchObject({
      name: 'Order 4711',
      revisionId: 1,
      picks: [{ path: 'duty', value: 'chill' }],
      site: 'HAL',
      date: today(),
    })
    // What is saved need not be kept by the browser any more.
    expect(Object.keys(localStorage).filter((key) => key.startsWith('juniperfall.draft.'))).toEqual([])
  })

  it('is not lost by a reload, and picks are undone and redone', async () => {
    const first = open('/configure/1')
    await userEvent.click(await button('Freezer'))
    await screen.findByText('ready to build')
    const { textContent: here } = screen.getByLabelText('address')
    expect(here).toMatch(/^\/configure\/1\?draft=/)
    first.unmount()
    open(here!)
    expect((await button('Freezer')).getAttribute('aria-pressed')).toBe('true')
    await userEvent.click(await button('Freezer'))
    await screen.findByText('1 still needed')
    await userEvent.click(await button('Undo'))
    await screen.findByText('ready to build')
    await userEvent.click(await button('Redo'))
    expect(await screen.findByText('1 still needed')).toBeTruthy()
  })

  it('starts empty; what is unfinished is offered by name and time, gone on with or thrown away', async () => {
    const first = open('/configure/1')
    await userEvent.click(await button('Freezer'))
    await userEvent.type(screen.getByRole('textbox', { name: 'Name of the configuration' }), 'Quay Street')
    first.unmount()
    const second = open('/configure/1')
    expect((await button('Freezer')).getAttribute('aria-pressed')).toBe('false')
    const offered = screen.getByRole('region', { name: 'Unfinished answers' })
    expect(offered.textContent).toMatch(/Quay Street1 answer, \d+ \w+ \d{4}, \d\d:\d\d/)
    await userEvent.click(within(offered).getByRole('button', { name: 'Quay Street' }))
    expect((await button('Freezer')).getAttribute('aria-pressed')).toBe('true')
    expect(screen.getByRole<HTMLInputElement>('textbox', { name: 'Name of the configuration' }).value).toBe('Quay Street')
    expect(screen.queryByRole('region', { name: 'Unfinished answers' })).toBeNull()
    second.unmount()
    // Another one may be begun meanwhile; the first one stays until it is thrown away.
    open('/configure/1')
    await userEvent.click(await button('Chill'))
    await userEvent.click(await button('throw away'))
    expect(screen.queryByRole('region', { name: 'Unfinished answers' })).toBeNull()
    expect(Object.keys(localStorage).filter((key) => key.endsWith('.of'))).toHaveLength(1)
  })

  it('an address that names no draft, or one of something else, takes nothing up and throws nothing away', async () => {
    const note = (revisionId: number) => JSON.stringify({ revisionId, configurationId: null, name: 'Kept', changedAt: '2026-11-24T08:00:00Z' })
    const [here, elsewhere] = ['0a0b0c0d-0000-4000-8000-000000000001', '0a0b0c0d-0000-4000-8000-000000000002']
    for (const [id, revisionId] of [
      [here, 1],
      [elsewhere, 9],
    ] as const) {
      localStorage.setItem(`juniperfall.draft.${id}`, JSON.stringify({ picks: [{ path: 'duty', value: 'freezer' }], site: null, date: null }))
      localStorage.setItem(`juniperfall.draft.${id}.of`, note(revisionId))
    }
    for (const named of ['', '0', '0a0b0c0d', elsewhere, '../x']) {
      const page = open(`/configure/1?draft=${named}`)
      expect((await button('Freezer')).getAttribute('aria-pressed')).toBe('false')
      expect(screen.getByRole('region', { name: 'Unfinished answers' }).textContent).toContain('Kept')
      page.unmount()
    }
    expect(Object.keys(localStorage).filter((key) => key.endsWith('.of'))).toHaveLength(2)
    expect(localStorage.getItem(`juniperfall.draft.${elsewhere}`)).toContain('freezer')
  })

  it('what the browser keeps is looked at before it is believed', async () => {
    localStorage.setItem('juniperfall.draft.0a0b0c0d-0000-4000-8000-00000000000e', '{"picks": [{"path": 7}]}')
    localStorage.setItem('juniperfall.draft.0a0b0c0d-0000-4000-8000-00000000000e.of', '{"revisionId": 1, "changedAt": "2026-11-24T08:00:00Z"}')
    localStorage.setItem('juniperfall.draft.y.of', 'nothing that can be read')
    open('/configure/1?draft=0a0b0c0d-0000-4000-8000-00000000000e')
    expect((await button('Freezer')).getAttribute('aria-pressed')).toBe('false')
    expect(screen.queryByRole('region', { name: 'Unfinished answers' })).toBeNull()
  })

  it('a number is typed; one that cannot be had gets its reason instead of being picked', async () => {
    open('/configure/1', {
      'POST /api/revisions/1/why': () => ({
        reason: {
          sentence: 'At most 6 m.',
          picks: [],
          causes: [{ kind: 'rule', rowId: 'r', assemblyId: 'room', mark: '§2', sentence: 'At most 6 m.' }],
        },
        possible: false,
        finished: true,
      }),
      'POST /api/revisions/1/ways-out': () => ({ ways: [], cause: { sentence: 'At most 6 m.', picks: [], causes: [] }, finished: true }),
    })
    const field = await screen.findByRole<HTMLInputElement>('textbox', { name: 'Inner length' })
    await userEvent.clear(field)
    await userEvent.type(field, '9000{Enter}')
    const reason = await screen.findByRole('region', { name: 'Why Inner length: 9000 mm' })
    expect(await within(reason).findByText('At most 6 m.')).toBeTruthy()
    expect(await within(reason).findByText('There is no way to it, whatever else is picked.')).toBeTruthy()
    expect(lastQuestion()).toMatchObject({ picks: [] })
    await userEvent.clear(field)
    await userEvent.type(field, '4800{Enter}')
    await waitFor(() => expect(lastQuestion()).toMatchObject({ picks: [{ path: 'length', value: '4800' }] }))
    await userEvent.click(await button('Let go of Inner length'))
    // The answer to no picks is known already: nothing is asked again.
    await waitFor(() => expect(field.value).toBe('3600'))
    expect(lastQuestion()).toMatchObject({ picks: [{ path: 'length', value: '4800' }] })
  })

  it('what cannot be taken is told at its question with what was typed', async () => {
    open('/configure/1')
    const field = await screen.findByRole<HTMLInputElement>('textbox', { name: 'Inner length' })
    await userEvent.clear(field)
    await userEvent.type(field, '99{Enter}')
    expect((await screen.findByRole('alert')).textContent).toContain('lies between 1200 mm and 12000 mm; 99 mm does not. You typed “99”.')
    await userEvent.click(await button('Chill'))
    expect(await screen.findByText('1 cannot be had')).toBeTruthy()
  })

  it('says why a value follows, that an answer rests, and what is ruled out', async () => {
    open('/configure/1', {
      'POST /api/revisions/1/why': () => ({
        reason: { sentence: '', picks: [{ path: 'duty', label: 'Duty', value: 'freezer', valueLabel: 'Freezer' }], causes: [] },
        possible: false,
        finished: true,
      }),
    })
    await userEvent.click(await button('why'))
    expect(await screen.findByText(/Floor: Insulated is all that is left/)).toBeTruthy()
    expect(await button('Duty = Freezer')).toBeTruthy()
    expect(screen.getByText('rests: does not apply now')).toBeTruthy()
    expect(await button('Blast, ruled out: why?')).toBeTruthy()
  })

  it('a text is kept on Enter, and taken away when it is emptied', async () => {
    open('/configure/1')
    await userEvent.type(await screen.findByRole('textbox', { name: 'Door label' }), 'Push{Enter}')
    await waitFor(() => expect(lastQuestion()).toMatchObject({ picks: [{ path: 'label', value: 'Push' }] }))
  })

  it('shows the first thing that is needed from the list of sections', async () => {
    open('/configure/1')
    const sections = await screen.findByRole('navigation', { name: 'Sections' })
    await userEvent.click(await within(sections).findByRole('button', { name: /Duty.*1 needed/ }))
    expect(document.activeElement).toBe(await button('Chill'))
  })
})

describe('a saved configuration', () => {
  it('is saved again only where something has changed, with the version that was seen', async () => {
    open('/configurations/c1', {
      'PUT /api/configurations/c1': () => problem(409, 'Someone else has changed this configuration since you opened it.'),
    })
    expect((await button('Saved')).disabled).toBe(true)
    expect(lastQuestion()).toEqual({ picks: saved.picks, site: 'HAL', date: '2027-02-15' })
    await userEvent.click(await button('Freezer'))
    await userEvent.click(await button('Save changes'))
    await waitFor(() =>
      expect(asked('PUT', '/api/configurations/c1')[0]?.body).toMatchObject({
        name: 'Harbour store',
        version: 3,
        site: 'HAL',
        picks: [{ path: 'duty', value: 'freezer' }],
      }),
    )
    // It was refused: what was answered is still there.
    expect((await button('Freezer')).getAttribute('aria-pressed')).toBe('true')
    expect(await button('Save changes')).toBeTruthy()
  })

  it('is generated once it is saved and nothing is missing, under an id that stays the same', async () => {
    let first = true
    open('/configurations/c1', {
      'POST /api/configurations/c1/structures': () => {
        if (!first) return { id: 's1' }
        first = false
        return problem(503, 'Not reachable just now.')
      },
    })
    const generate = await button('Generate structure')
    await waitFor(() => expect(generate.disabled).toBe(false))
    await userEvent.click(generate)
    await waitFor(() => expect(asked('POST', '/api/configurations/c1/structures')).toHaveLength(1))
    await waitFor(() => expect(generate.disabled).toBe(false))
    await userEvent.click(generate)
    await waitFor(() => expect(screen.getByLabelText('address').textContent).toBe('/structures/s1'))
    const [one, two] = asked('POST', '/api/configurations/c1/structures').map((r) => r.body)
    expect(one).toEqual(two)
  })

  it('is not generated on a draft, nor with changes that are not saved', async () => {
    open('/configurations/c1', { 'GET /api/revisions/1': () => ({ ...revision, state: 'draft' }) })
    await screen.findByText('ready to build')
    expect((await button('Generate structure')).title).toBe('Only on a released revision')
    expect((await button('Generate structure')).disabled).toBe(true)
  })

  it('is only read by those who neither configure nor generate', async () => {
    open('/configurations/c1', {}, ['read'])
    await screen.findByText('ready to build')
    for (const name of ['Saved', 'Generate structure']) expect(screen.queryByRole('button', { name })).toBeNull()
  })

  it('tells of a newer revision, what moving there changes, and moves only when told to', async () => {
    const preview = {
      revisionId: 2,
      number: 3,
      valid: true,
      clashes: [],
      missing: [{ path: 'x', label: 'Voltage', value: '', valueLabel: '' }],
      noLongerAsked: [{ path: 'rails', label: 'Rails', value: 'yes', valueLabel: 'yes' }],
      faults: [{ path: 'duty', value: 'chill', sentence: '“Chill” is to be had only at Haldwyn.' }],
      changes: [{ kind: 'part', name: 'Door gasket', before: 'GSK-D × 6.1 m', after: '' }],
    }
    open('/configurations/c1', {
      'GET /api/configurations/c1': () => ({ ...saved, newerRevisionId: 2, newerNumber: 3 }),
      'GET /api/configurations/c1/move': () => preview,
      'POST /api/configurations/c1/move': () => ({ ...saved, revisionId: 1, version: 4 }),
    })
    await userEvent.click(await button('See what moving there changes'))
    for (const text of [
      'Then still needed: Voltage',
      '“Chill” is to be had only at Haldwyn.',
      'No longer asked (the answers rest): Rails = yes',
      'GSK-D × 6.1 m',
    ])
      expect(await screen.findByText(text)).toBeTruthy()
    expect(server.requests.filter((r) => r.path.endsWith('/move')).map((r) => [r.method, r.search])).toEqual([['GET', '?to=2']])
    await userEvent.click(screen.getByRole('button', { name: 'Move it to revision 3', hidden: true }))
    await waitFor(() => expect(asked('POST', '/api/configurations/c1/move').map((r) => r.body)).toEqual([{ revisionId: 2, version: 3 }]))
  })

  it('that is gone says so and leads back', async () => {
    open('/configurations/c1', { 'GET /api/configurations/c1': () => problem(404, 'There is no such configuration.') })
    expect(await screen.findByText('There is no such configuration.')).toBeTruthy()
    expect(screen.getByRole('link', { name: 'To the configurations' }).getAttribute('href')).toBe('/configurations')
  })
})

describe('the list of configurations', () => {
  const entry = (i: number, structureId: string | null = null) => ({
    id: `c${i}`,
    name: `Store ${i}`,
    revisionId: 1,
    productCode: 'CR',
    productLabel: 'Cold room',
    revisionNumber: 1,
    revisionState: 'released',
    author: 'marit',
    changedBy: 'marit',
    changedAt: '2026-11-24T09:00:00Z',
    structureId,
    matches: [],
  })

  it('leads to each configuration and its structure, and searches by what is in its address', async () => {
    showPage(<ConfigurationsPage />, {
      path: '/configurations?search=store',
      answers: { 'GET /api/configurations': () => [entry(1, 's9'), entry(2)] },
    })
    expect((await screen.findByRole('link', { name: 'Store 1' })).getAttribute('href')).toBe('/configurations/c1')
    expect(screen.getByRole('link', { name: 'open' }).getAttribute('href')).toBe('/structures/s9')
    expect(screen.getByText('not generated')).toBeTruthy()
    expect(asked('GET', '/api/configurations')[0]!.search).toBe('?search=store')
    await userEvent.type(screen.getByRole('searchbox', { name: 'Search configurations' }), ' 2')
    await waitFor(() => expect(screen.getByLabelText('address').textContent).toBe('/configurations?search=store+2'))
  })

  it('says what belongs here, that nothing was found, and that it is cut', async () => {
    const empty = showPage(<ConfigurationsPage />, { answers: { 'GET /api/configurations': () => [] } })
    expect(await screen.findByText(/Nothing saved yet/)).toBeTruthy()
    empty.unmount()
    const none = showPage(<ConfigurationsPage />, { path: '/?search=zz', answers: { 'GET /api/configurations': () => [] } })
    expect(await screen.findByText(/No configuration has “zz”/)).toBeTruthy()
    none.unmount()
    showPage(<ConfigurationsPage />, { answers: { 'GET /api/configurations': () => Array.from({ length: 500 }, (_, i) => entry(i)) } })
    expect(await screen.findByText('The 500 changed last are shown. Search to find others.')).toBeTruthy()
  })
})
