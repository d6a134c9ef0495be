const day = 24 * 60 * 60 * 1000

const isWorkingDay = (date: Date) => date.getUTCDay() !== 0 && date.getUTCDay() !== 6

/**
 * The day that is so many working days before another one, Saturdays and Sundays left out; a part of a day counts as a whole one.
 * @param date The calendar day, as year-month-day.
 */
export function workingDaysBefore(date: string, days: number): string {
  let at = Date.parse(`${date}T00:00:00Z`)
  while (!isWorkingDay(new Date(at))) at -= day
  for (let left = Math.ceil(days - 1e-9); left > 0;) {
    at -= day
    if (isWorkingDay(new Date(at))) left--
  }
  return new Date(at).toISOString().slice(0, 10)
}
