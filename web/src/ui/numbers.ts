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
