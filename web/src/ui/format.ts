import { language, t } from '../texts'
import type things from '../texts/en/things.json'

/** English is written as in Europe; other languages as they are. */
export const locale = language === 'en' ? 'en-GB' : language
const time = new Intl.DateTimeFormat(locale, { hour: '2-digit', minute: '2-digit' })
const day = new Intl.DateTimeFormat(locale, { day: 'numeric', month: 'short', year: 'numeric' })

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

const parts = new Intl.NumberFormat(locale).formatToParts(1234567.5)
const separator = (type: 'group' | 'decimal') => parts.find((p) => p.type === type)?.value ?? ''
/** English groups by thin spaces (ISO 80000-1), as commas and points are mixed up between countries; other languages as they are. */
const [groups, point] = [language === 'en' ? '\u202f' : separator('group'), separator('decimal')]

/** A decimal text as the language writes it, in groups of three; its digits stay as they are. */
export function grouped(number: string): string {
  const match = /^(-?)(\d+)(?:\.(\d+))?$/.exec(number)
  return match ? match[1]! + match[2]!.replace(/\B(?=(\d{3})+$)/g, groups) + (match[3] === undefined ? '' : point + match[3]) : number
}

export const inEnglish = (text: Record<string, string> | undefined): string => text?.en ?? Object.values(text ?? {})[0] ?? ''

/** An amount of money with its two decimals; one on the way to whole cents keeps the further ones that it has. */
export function money(number: string): string {
  if (number === '') return ''
  const [whole = '0', decimals = ''] = number.split('.')
  return grouped(`${whole}.${decimals.padEnd(2, '0')}`)
}

/** A difference of money, with its sign. */
export const signedMoney = (number: string): string =>
  number.startsWith('-') ? `− ${money(number.slice(1))}` : /^0(\.0*)?$/.test(number) ? money('0') : `+ ${money(number)}`

/** What a table has many of, by its name among the texts. */
export type Thing = Exclude<keyof typeof things, 'counted'>

export const thing = (one: Thing): string => t(`things.${one}`)

/** “1 row”, “14 rows”. */
export const counted = (count: number, one: Thing): string => t(`things.counted.${one}`, { count, n: grouped(String(count)) })
