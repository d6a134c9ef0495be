import { expect, test } from 'vitest'

const sources = import.meta.glob<string>(['./**/*.{ts,tsx}', '!./**/*.test.*', '!./testing/**', '!./api/schema.d.ts'], {
  eager: true,
  query: '?raw',
  import: 'default',
})

/** The floors from the ground up: each may look at those below it. */
const floors = ['texts', 'api', 'ui', 'session', 'features', 'app']

/** Which feature knows which others, through their doors; what is not listed is refused, and what is listed is needed. */
const arrows: Record<string, string[]> = {
  baselines: [],
  bench: ['library'],
  cases: ['bench'],
  concessions: ['bench'],
  configurations: ['bench', 'cases', 'concessions'],
  differences: ['bench'],
  health: ['bench'],
  impact: ['bench'],
  library: [],
  people: [],
  products: ['health', 'reviews'],
  reviews: ['cases', 'differences', 'health', 'impact'],
  structures: [],
  workshop: ['bench', 'cases', 'health', 'impact', 'library', 'reviews'],
}

/** Every import of every file: from where to where, as paths below the sources. */
const imports = Object.entries(sources).flatMap(([path, source]) =>
  [...source.matchAll(/(?:from|import\()\s*'(\.[^']*)'/g)].map(([, to]) => ({
    from: path.slice(2),
    to: new URL(to!, `file:///${path.slice(2)}`).pathname.slice(1),
  })),
)
const floorOf = (path: string) => floors.indexOf(path.split('/')[0]!)
const featureOf = (path: string) => (path.startsWith('features/') ? path.split('/')[1]! : undefined)

test('A floor looks at those below it only', () => {
  expect(imports.length).toBeGreaterThan(300)
  expect(imports.filter((i) => floorOf(i.to) > floorOf(i.from))).toEqual([])
})

test('A feature is entered by its door, and only from where the table says', () => {
  const across = imports.filter((i) => featureOf(i.to) !== undefined && featureOf(i.from) !== featureOf(i.to))
  expect(across.filter((i) => i.to.split('/').length > 2)).toEqual([])
  const known = Object.fromEntries(
    Object.keys(arrows).map((f) => [f, [...new Set(across.filter((i) => featureOf(i.from) === f).map((i) => featureOf(i.to)!))].sort()]),
  )
  expect(known).toEqual(arrows)
  expect([...new Set(Object.keys(sources).flatMap((p) => featureOf(p.slice(2)) ?? []))].sort()).toEqual(Object.keys(arrows))
})
