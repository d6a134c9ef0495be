/** How many decimals a decimal text has. */
export const decimalsOf = (text: string): number => text.split('.')[1]?.length ?? 0

/** The multiple of a step next to a number, within bounds, written with the step's decimals. For dragging and arrow keys only. */
export function snapped(value: number, step: string, min: string, max: string): string {
  const size = Number(step)
  const clamped = Math.min(Number(max), Math.max(Number(min), value))
  return (Math.round(clamped / size) * size).toFixed(decimalsOf(step)).replace(/^-0(\.0*)?$/, '0')
}

/** Whether a text is a plain decimal number with a point. */
export const isDecimal = (text: string): boolean => /^[-+]?\d+(\.\d+)?$/.test(text.trim())

/**
 * The numbers next to one that can be had: the nearest below and above among single ones, or in a range by steps. One that can be had itself has
 * none.
 */
export function nearestTo(
  text: string,
  can: { lowest: string | null; highest: string | null; members: string[] | null; step: string | null },
): string[] {
  if (!isDecimal(text) || can.lowest === null || can.highest === null) return []
  const n = Number(text)
  const among =
    can.members ??
    (n <= Number(can.lowest)
      ? [can.lowest]
      : n >= Number(can.highest)
        ? [can.highest]
        : can.step === null
          ? []
          : [-0.5, 0.5].map((by) => snapped(n + by * Number(can.step), can.step!, can.lowest!, can.highest!)))
  if (among.some((m) => Number(m) === n)) return []
  const sorted = [...new Set(among)].sort((a, b) => Number(a) - Number(b))
  return [sorted.filter((m) => Number(m) < n).at(-1), sorted.find((m) => Number(m) > n)].filter((m) => m !== undefined)
}
