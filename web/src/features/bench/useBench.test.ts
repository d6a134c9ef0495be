import { expect, it } from 'vitest'
import { snapped } from '../../ui/numbers'
import { withFillIns, withPick } from './useBench'

it('keeps the order in which picks were first made', () => {
  const picks = [
    { path: 'a', value: '1' },
    { path: 'b', value: '2' },
  ]
  expect(withPick(picks, 'a', '3')).toEqual([
    { path: 'a', value: '3' },
    { path: 'b', value: '2' },
  ])
  expect(withPick(picks, 'c', '4').at(-1)).toEqual({ path: 'c', value: '4' })
  expect(withPick(picks, 'a', null)).toEqual([{ path: 'b', value: '2' }])
})

it('drags to steps that are written exactly', () => {
  expect(snapped(0.30000000000000004, '0.1', '0', '1')).toBe('0.3')
  expect(snapped(-3, '50', '0', '1000')).toBe('0')
  expect(snapped(1234, '50', '0', '3000')).toBe('1250')
  expect(snapped(-0.01, '0.5', '-1', '1')).toBe('0.0')
})

it('What is filled in yields to a pick, is replaced by what is filled in next, and is dropped with nothing', () => {
  const picked = { path: 'core', value: '100' }
  const filled = ['finish', 'floor'].map((path) => ({ path, value: 'x', filledIn: 'lowest #cost' }))
  const all = withFillIns([picked], [...filled, { path: 'core', value: '80', filledIn: 'lowest #cost' }])
  expect(all).toEqual([picked, ...filled])
  expect(withPick(all, 'floor', 'y')).toEqual([picked, filled[0], { path: 'floor', value: 'y' }])
  expect(withFillIns(all, [{ path: 'lamp', value: 'z', filledIn: 'suggested' }])).toEqual([
    picked,
    { path: 'lamp', value: 'z', filledIn: 'suggested' },
  ])
  expect(withFillIns(all, [])).toEqual([picked])
})
