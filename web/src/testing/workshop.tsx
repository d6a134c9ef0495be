import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { render } from '@testing-library/react'
import type { ReactNode } from 'react'
import { MemoryRouter } from 'react-router'
import { vi } from 'vitest'
import type { Bench } from '../features/bench/useBench'
import type { Assembly, Document, Finding, Row, Step, ValueList } from '../features/workshop/model'
import { WorkshopContext, type Workshop } from '../features/workshop/Workshop'
import { Session, type Me } from '../session/session'

const shared = { appliesWhen: '', sites: [] as string[] }

/** Rows of each kind, as the server sends them. */
export const rows = {
  width: {
    ...shared,
    kind: 'attribute',
    id: 'width',
    name: 'width',
    label: { en: 'Clear width' },
    attributeKind: 'quantity',
    unit: 'mm',
    min: '600',
    max: '1200',
    step: '50',
    required: true,
    input: false,
  },
  finish: {
    ...shared,
    kind: 'attribute',
    id: 'finish',
    name: 'finish',
    label: { en: 'Finish' },
    attributeKind: 'choice',
    listId: 'finishes',
    unit: '',
    required: true,
    input: false,
  },
  area: { ...shared, kind: 'computed', id: 'area', name: 'area', label: {}, unit: 'm2', decimals: 2, expression: 'width * 2 m' },
  wide: {
    ...shared,
    kind: 'statement',
    id: 'wide',
    number: 4,
    expression: 'width >= 700 mm',
    message: { en: 'Doors are at least 700 mm wide.' },
    strength: 'must',
  },
  spans: {
    ...shared,
    kind: 'grid',
    id: 'spans',
    drawnFrom: '',
    name: 'spans',
    number: 5,
    label: {},
    message: {},
    strength: 'must',
    columns: [
      { id: 'c1', name: 'finish', reference: 'finish', unit: '', type: 'number', itemProperty: '' },
      { id: 'c2', name: 'longest', reference: '', unit: 'mm', type: 'number', itemProperty: '' },
    ],
    rows: [
      { id: 'r1', cells: ['white', '900'] },
      { id: 'r2', cells: ['grey'] },
    ],
  },
  hinge: {
    ...shared,
    kind: 'part',
    id: 'hinge',
    item: 'HNG-L',
    itemFrom: '',
    quantity: '2',
    step: '',
    scrap: '',
    issue: 'hand',
    store: '',
    perOrder: false,
    operationId: null,
    position: 0,
    oneOf: '',
    substitutes: '',
    figures: [],
  },
  hang: {
    ...shared,
    kind: 'operation',
    id: 'hang',
    sequence: 10,
    name: 'hang',
    label: { en: 'Hang the leaf' },
    workCentre: 'DOOR',
    setup: '5 min',
    run: '2 min',
    queue: '',
    instructions: {},
  },
} as unknown as Record<'width' | 'finish' | 'area' | 'wide' | 'spans' | 'hinge' | 'hang', Row>

export const finishes = {
  id: 'finishes',
  name: 'finishes',
  label: { en: 'Finish' },
  properties: [{ id: 'p.cost', name: 'cost', type: 'number', unit: '' }],
  values: [
    { id: 'v.white', code: 'white', label: { en: 'White' }, color: '#ffffff', properties: { 'p.cost': '3' }, sites: [] },
    { id: 'v.grey', code: 'grey', label: { en: 'Grey' }, color: null, properties: {}, sites: [] },
  ],
} as unknown as ValueList

export function documentOf(...shown: Row[]): Document {
  const door = {
    id: 'door',
    name: 'door',
    label: { en: 'Door set' },
    topics: [
      { id: 'leaf', label: { en: 'Leaf' }, rows: shown },
      { id: 'rest', label: { en: 'Rest' }, rows: [] },
    ],
  }
  return {
    format: 'juniperfall-model/1',
    language: '1',
    id: 'm',
    code: 'DS',
    label: { en: 'Door set' },
    root: 'door',
    lists: [finishes],
    assemblies: [door],
    reused: [],
  } as unknown as Document
}

export const finding = (rowId: string, field: string, message: string, more: Partial<Finding> = {}): Finding => ({
  rowId,
  field,
  id: 'JF020',
  start: 0,
  length: 1,
  message,
  suggestion: null,
  blocks: true,
  ...more,
})

/** Shows a part of the workshop; what it wants to change is kept in `edits`, one entry an edit. */
export function inWorkshop(
  part: (document: Document, assembly: Assembly) => ReactNode,
  more: Partial<Omit<Workshop, 'model'>> & { model?: object } = {},
) {
  const edits: Step[][] = []
  const document = more.document ?? documentOf(...Object.values(rows))
  const [goToRow, goToList, goToAssembly, hold] = [vi.fn(), vi.fn(), vi.fn(), vi.fn()]
  const workshop = {
    revisionId: 1,
    findings: [],
    health: [],
    bench: { question: { picks: [], site: null, date: null }, picks: [], fillIns: [], answer: undefined } as unknown as Bench,
    library: {
      sites: [
        { code: 'HAL', label: 'Haldwyn' },
        { code: 'TRN', label: 'Tarn Bridge' },
      ],
      workCentres: [{ code: 'DOOR', label: 'Door bench' }],
      units: ['mm', 'm2'],
      standardOperations: [],
      customerClasses: [],
    },
    mayEdit: true,
    language: 'en',
    goToRow,
    goToList,
    goToAssembly,
    present: [],
    renaming: null,
    showUses: vi.fn(),
    ...more,
    document,
    model: { edit: (...steps: Step[]) => edits.push(steps), undo: vi.fn(), redo: vi.fn(), refusals: [], dismiss: vi.fn(), hold, ...more.model },
  } as unknown as Workshop
  const queries = new QueryClient({ defaultOptions: { queries: { retry: false } } })
  // Nobody has remarked on anything, unless a test says so.
  queries.setQueryDefaults(['remarks'], { staleTime: Infinity })
  queries.setQueryData(['remarks', 1], [])
  const tree = (of: Workshop) => (
    <QueryClientProvider client={queries}>
      <MemoryRouter>
        <Session value={{ name: 'ines', display: 'Ines', role: 'engineer', rights: of.mayEdit ? ['read', 'edit', 'remark'] : ['read'] } as Me}>
          <WorkshopContext value={of}>{part(of.document, of.document.assemblies[0]!)}</WorkshopContext>
        </Session>
      </MemoryRouter>
    </QueryClientProvider>
  )
  const page = render(tree(workshop))
  /** Shows the same part after something of the workshop has changed. */
  const update = (changed: Partial<Omit<Workshop, 'bench'>> & { bench?: object }) => page.rerender(tree({ ...workshop, ...changed } as Workshop))
  return { ...page, update, edits, goToRow, goToList, goToAssembly, hold }
}
