import { describe, expect, it } from 'vitest'
import { withCopy, without, withOneMore } from './instances'

const place = {
  path: 'doors',
  name: 'Door',
  countPath: 'count',
  count: 3,
  canAdd: true,
  canRemove: true,
  prefixes: ['doors:1/', 'doors:2/', 'doors:3/', 'doors:4/'],
}
const picks = [
  { path: 'count', value: '3' },
  { path: 'doors:1/width', value: '800' },
  { path: 'doors:2/width', value: '900' },
  { path: 'doors:3/width', value: '1000' },
  { path: 'doors:3/window', value: 'yes' },
  { path: 'doors:4/width', value: '700' },
]
const at = (changed: { path: string; value: string }[]) => Object.fromEntries(changed.map((p) => [p.path, p.value]))

describe('instances of a subassembly', () => {
  it('come back with what was picked for them before', () => {
    expect(at(withOneMore(picks, place))).toEqual({ ...at(picks), count: '4' })
  })

  it('are copied over whatever rested in the new place', () => {
    expect(at(withCopy(picks, place, 2))).toEqual({ ...at(picks), count: '4', 'doors:4/width': '1000', 'doors:4/window': 'yes' })
  })

  it('go by what was picked last, also before its answer is there', () => {
    const fewer = without(picks, place, 2)
    expect(at(without(fewer, place, 0))).toEqual({ count: '1', 'doors:1/width': '900', 'doors:4/width': '700' })
    expect(at(withOneMore(fewer, place)).count).toBe('3')
  })

  it('move up when one before them goes, and those beyond stay where they rest', () => {
    expect(at(without(picks, place, 0))).toEqual({
      count: '2',
      'doors:1/width': '900',
      'doors:2/width': '1000',
      'doors:2/window': 'yes',
      'doors:4/width': '700',
    })
    expect(at(without(picks, place, 2))).toEqual({ count: '2', 'doors:1/width': '800', 'doors:2/width': '900', 'doors:4/width': '700' })
  })
})
