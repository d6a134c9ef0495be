import { QueryClient, QueryClientProvider, replaceEqualDeep } from '@tanstack/react-query'
import { render } from '@testing-library/react'
import { Profiler } from 'react'
import { expect, it, vi } from 'vitest'
import { Questions } from './Questions'
import type { Bench } from './useBench'

const drawn: string[] = []

// The values stand in every question, so that React's profiler counts how often the question around them is drawn.
vi.mock('./ChoiceList', async (actual) => {
  const { ChoiceList } = await actual<typeof import('./ChoiceList')>()
  return {
    ChoiceList: (props: Parameters<typeof ChoiceList>[0]) => (
      <Profiler id={props.label} onRender={(id) => void drawn.push(id)}>
        <ChoiceList {...props} />
      </Profiler>
    ),
  }
})

const names = ['finish', 'core', 'floor', 'lamp']
const asked = (path: string, value: string | null, can: boolean) => ({
  path,
  rowId: path,
  label: path,
  kind: 'choice',
  state: value === null ? 'open' : 'picked',
  value,
  valueLabel: value,
  missing: false,
  several: null,
  choices: ['white', 'grey'].map((v) => ({ value: v, label: v, color: null, can: can || v === value, unknown: false })),
})
const answer = (finish: string | null) => ({
  sections: [
    {
      id: 's',
      title: 'Room',
      place: '',
      prefix: '',
      asked: names.map((n) => asked(n, n === 'finish' ? finish : null, n !== 'core' || finish === null)),
    },
  ],
  places: [],
  faults: [],
  clashes: [],
})

it('A pick draws its question and those whose values it changes, and no other', () => {
  const queries = new QueryClient()
  const acts = { pick: vi.fn(), change: vi.fn() }
  const tree = (of: object, picks: object[]) => (
    <QueryClientProvider client={queries}>
      <Questions bench={{ answer: of, picks, fillIns: [], working: false, ...acts } as unknown as Bench} revisionId={1} />
    </QueryClientProvider>
  )
  const before = answer(null)
  const page = render(tree(before, []))
  expect(drawn.splice(0)).toEqual(names)
  // As the bench keeps answers: what is equal stays the same object.
  page.rerender(tree(replaceEqualDeep(before, answer('white')), [{ path: 'finish', value: 'white' }]))
  expect(drawn.splice(0)).toEqual(['finish', 'core'])
})
