import type { Place } from '../../api/answer'
import { withPick } from './useBench'
import { type Pick } from '../../api/question'

const under = (prefix: string) => (p: Pick) => p.path.startsWith(prefix)

/** How many there are; a place without a number of its own has all. */
export const countOf = (place: Place): number => place.count ?? place.prefixes.length

/** The same as picked: a click can come before the answer to the one before it. */
function countIn(picks: Pick[], place: Place): number {
  const picked = picks.find((p) => p.path === place.countPath)?.value
  return picked !== undefined && /^\d+$/.test(picked) ? Number(picked) : countOf(place)
}

const withCount = (picks: Pick[], place: Place, count: number): Pick[] =>
  place.countPath === null ? picks : withPick(picks, place.countPath, String(count))

/** One more instance; what was picked for it before is still there. */
export const withOneMore = (picks: Pick[], place: Place): Pick[] => withCount(picks, place, countIn(picks, place) + 1)

/** One more instance, with the picks of another. */
export function withCopy(picks: Pick[], place: Place, instance: number): Pick[] {
  const from = place.prefixes[instance]!
  const to = place.prefixes[countIn(picks, place)]!
  const copies = picks.filter(under(from)).map((p) => ({ ...p, path: to + p.path.slice(from.length) }))
  return [
    ...withOneMore(
      picks.filter((p) => !under(to)(p)),
      place,
    ),
    ...copies,
  ]
}

/** One instance less: the later ones move up, so that what was picked for them stays with them. */
export function without(picks: Pick[], place: Place, instance: number): Pick[] {
  const count = countIn(picks, place)
  const moved = picks.flatMap((p): Pick[] => {
    const at = place.prefixes.findIndex((prefix) => under(prefix)(p))
    if (at === instance) return []
    if (at < instance || at >= count) return [p]
    return [{ ...p, path: place.prefixes[at - 1]! + p.path.slice(place.prefixes[at]!.length) }]
  })
  return withCount(moved, place, count - 1)
}
