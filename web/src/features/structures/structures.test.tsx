import { render, screen, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, it, vi } from 'vitest'
import type { Schemas } from '../../api/client'
import { showPage } from '../../testing/page'
import { problem } from '../../testing/server'
import { ResultPage } from './ResultPage'
import { made, Routing } from '../../ui/structure/Routing'

type Structure = Schemas['StructureView']
const totals = { material: '1234.50', labour: '20.00', machine: '5.00', cost: '1259.50', weight: '88.10', work: '95.0' }
const operation = (more: object = {}) => ({
  sequence: 10,
  name: 'Foam the panels',
  workCentre: 'FOAM',
  workCentreLabel: 'Foaming press',
  setup: '20.0',
  run: '75.0',
  queue: '0',
  instructions: 'Let it rest 10 min.',
  condition: 'core <> 80',
  because: [{ path: 'r.core', label: 'Core', value: '100 mm' }],
  runFormula: 'wall_panels * 2 min',
  runBecause: [{ path: 'r.panels', label: 'Wall panels', value: '37' }],
  cost: '20.00',
  rowId: 'op',
  assemblyId: 'room',
  prefix: '',
  ...more,
})
const door = {
  item: 'DS',
  description: 'Door set',
  totals,
  bom: [],
  routing: [
    operation({ rowId: 'hang', name: 'Hang the leaf', setup: '5.0', run: '0.0', condition: '', because: [], runFormula: '', instructions: '' }),
  ],
}
const room = {
  item: 'CR',
  description: 'Cold room',
  totals,
  bom: [
    {
      position: 10,
      item: 'PW-80',
      description: 'Wall panel',
      net: '30.5',
      gross: '31',
      unit: 'm2',
      unitLabel: 'm²',
      perOrder: false,
      issue: 'by hand',
      store: 'Panels',
      operation: 10,
      condition: '',
      because: [],
      quantity: 'wall_area',
      scrap: '2',
      step: '0.5',
      quantityBecause: [],
      cost: '10',
      weight: '1',
      rowId: 'wall',
      assemblyId: 'room',
      prefix: '',
      below: null,
    },
    {
      position: 20,
      item: 'DS',
      description: 'Door set',
      net: '1',
      gross: '1',
      unit: '',
      unitLabel: 'pcs',
      perOrder: false,
      issue: 'by hand',
      store: '',
      operation: null,
      condition: '',
      because: [],
      quantity: '',
      scrap: '0',
      step: '',
      quantityBecause: [],
      cost: '5',
      weight: '1',
      rowId: 'door',
      assemblyId: 'room',
      prefix: '',
      below: door,
    },
  ],
  routing: [operation()],
} as unknown as Structure

const result = {
  id: 's1',
  configurationId: 'c1',
  name: 'Harbour store',
  productId: 'm',
  productCode: 'CR',
  productLabel: 'Cold room',
  revisionId: 1,
  revisionNumber: 2,
  revisionState: 'released',
  site: 'Haldwyn',
  date: '2027-02-15',
  author: 'odile',
  madeAt: '2026-11-24T09:00:00Z',
  answers: [
    { section: 'Duty', label: 'Duty', value: 'Freezer', state: 'picked' },
    { section: 'Door: Leaf', label: 'Handing', value: 'Left', state: 'suggested' },
  ],
  figures: [{ label: 'Heat load', value: '2.4 kW' }],
  advice: [{ kind: 'rule', rowId: 'r', assemblyId: 'room', mark: '§18', sentence: 'Logging is advised.' }],
  structure: room,
}

const show = (path = '/structures/s1', answer: unknown = result) =>
  showPage(<ResultPage />, { route: '/structures/:structureId', path, answers: { 'GET /api/structures/s1': () => answer } })

describe('what was generated', () => {
  it('has a head with what it is for, what it costs and where it comes from', async () => {
    show()
    const head = await screen.findByRole('banner').catch(() => screen.findByText('Harbour store').then((e) => e.closest('header')!))
    for (const text of ['2 released', 'Haldwyn', '2027-02-15', '1 259.50', '88.10'])
      expect(head.textContent!.replace(/[\u00a0\u2009\u202f]/g, ' ')).toContain(text)
    expect(screen.getByRole('link', { name: 'Configuration' }).getAttribute('href')).toBe('/configurations/c1')
    expect(screen.getByRole('link', { name: 'BOM.csv' }).getAttribute('href')).toBe('/api/structures/s1/bom.csv')
  })

  it('says nothing of a site or a day where it is for none', async () => {
    show('/structures/s1', { ...result, site: null, date: null })
    await screen.findByText('Harbour store')
    expect(screen.queryByText('for the site')).toBeNull()
  })

  it('each line says why it is there and how its quantity comes about; levels open and close', async () => {
    show()
    await userEvent.click(await screen.findByRole('button', { name: 'Why is PW-80 on the bill?' }))
    expect(screen.getByText('A standard part: it is always there.')).toBeTruthy()
    expect(screen.getByText('Its quantity, rounded up to steps of 0.5, with 2 % scrap: net 30.5, gross 31')).toBeTruthy()
    await userEvent.click(screen.getByRole('button', { name: 'Close DS' }))
    expect(screen.getByRole('button', { name: 'Open DS' }).getAttribute('aria-expanded')).toBe('false')
  })

  it('is looked at by an address of its own: parts, work, answers', async () => {
    show('/structures/s1?view=answers')
    expect(await screen.findByText('Door: Leaf')).toBeTruthy()
    expect(screen.getByText('2.4 kW')).toBeTruthy()
    expect(screen.getByText(/Logging is advised/)).toBeTruthy()
    await userEvent.click(screen.getByRole('tab', { name: 'Routing' }))
    expect(screen.getByLabelText('address').textContent).toBe('/structures/s1?view=routing')
    expect(screen.getByRole('region', { name: 'Routing of DS' })).toBeTruthy()
  })

  it('that is not there says so', async () => {
    show('/structures/s1', problem(404, 'There is no such structure.'))
    expect(await screen.findByText('There is no such structure.')).toBeTruthy()
  })
})

describe('a routing', () => {
  it('lists the operations of each made item with their times to one scale', () => {
    render(<Routing structure={room} />)
    expect(made(room).map((s) => s.item)).toEqual(['CR', 'DS'])
    const bars = [...document.querySelectorAll('[title^="set-up"] > span')].map((b) => (b as HTMLElement).style.width)
    // 95 minutes is the longest operation.
    expect(bars.map((w) => Math.round(Number.parseFloat(w) * 0.95))).toEqual([20, 75, 5, 0])
  })

  it('each operation says why it is there, what its time is made of, and what to do', async () => {
    const goToPick = vi.fn()
    const goTo = vi.fn()
    render(<Routing structure={room} goTo={goTo} goToPick={goToPick} />)
    await userEvent.click(screen.getByRole('button', { name: 'Foam the panels' }))
    expect(screen.getByText('core <> 80')).toBeTruthy()
    expect(screen.getByText('wall_panels * 2 min')).toBeTruthy()
    expect(screen.getByText('Let it rest 10 min.')).toBeTruthy()
    await userEvent.click(screen.getByRole('button', { name: 'Wall panels' }))
    await userEvent.click(screen.getByRole('button', { name: 'To its row' }))
    expect(goToPick).toHaveBeenCalledWith('r.panels')
    expect(goTo).toHaveBeenCalledWith('room', 'op')
    await userEvent.click(screen.getByRole('button', { name: 'Hang the leaf' }))
    expect(within(screen.getByRole('region', { name: 'Routing of DS' })).getByText('A standard operation: it is always there.')).toBeTruthy()
  })

  it('without any operation says so', () => {
    render(<Routing structure={{ ...room, bom: [], routing: [] }} />)
    expect(screen.getByText('No operation applies.')).toBeTruthy()
  })
})
