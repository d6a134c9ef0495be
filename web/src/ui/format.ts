const time = new Intl.DateTimeFormat('en-GB', { hour: '2-digit', minute: '2-digit' })
const day = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', year: 'numeric' })

/** The time of day for today, the date otherwise. */
export function when(iso: string): string {
  const date = new Date(iso)
  return date.toDateString() === new Date().toDateString() ? time.format(date) : day.format(date)
}

/** The day and the time of day. */
export const moment = (iso: string): string => `${day.format(new Date(iso))}, ${time.format(new Date(iso))}`

/** A day of the calendar, given as year-month-day. */
export const dayOf = (iso: string): string => day.format(new Date(`${iso}T12:00:00`))

export const clock = (date: Date): string => time.format(date)

/** A decimal text with thin spaces between thousands; its digits stay as they are. */
export function grouped(number: string): string {
  const match = /^(-?)(\d+)(\.\d+)?$/.exec(number)
  return match ? match[1]! + match[2]!.replace(/\B(?=(\d{3})+$)/g, '\u202f') + (match[3] ?? '') : number
}

export const inEnglish = (text: Record<string, string> | undefined): string => text?.en ?? Object.values(text ?? {})[0] ?? ''

/** An amount of money with its two decimals; one on the way to whole cents keeps the further ones that it has. */
export function money(number: string): string {
  if (number === '') return ''
  const [whole = '0', decimals = ''] = number.split('.')
  return `${grouped(whole)}.${decimals.padEnd(2, '0')}`
}

/** “1 row”, “14 rows”. */
export const counted = (count: number, one: string): string =>
  `${grouped(String(count))} ${count === 1 ? one : `${one}${one.endsWith('s') ? 'es' : 's'}`}`
