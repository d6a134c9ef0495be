import { useVirtualizer } from '@tanstack/react-virtual'
import { useLayoutEffect, useRef, useState } from 'react'

/** Shorter tables are drawn whole. */
const longTable = 150

/** What scrolls an element: the nearest one around it that can. */
function scrollerOf(element: HTMLElement | null): HTMLElement | null {
  for (let at = element?.parentElement ?? null; at; at = at.parentElement) if (/auto|scroll/.test(getComputedStyle(at).overflowY)) return at
  return document.scrollingElement as HTMLElement | null
}

/**
 * Of the rows of a long table only those in sight are drawn, with room before and after for the others. Rows can be of any height: each is
 * measured by `measure`, given its `data-index`.
 */
export function useLongRows(count: number, estimate: number, keyOf: (index: number) => string) {
  const table = useRef<HTMLTableElement>(null)
  // What scrolls the table, and how far from its top the table begins.
  const [place, setPlace] = useState<{ scroller: HTMLElement | null; margin: number }>({ scroller: null, margin: 0 })
  const isLong = count > longTable
  useLayoutEffect(() => {
    if (!isLong || !table.current) return
    const scroller = scrollerOf(table.current)
    setPlace({
      scroller,
      margin: scroller ? table.current.getBoundingClientRect().top - scroller.getBoundingClientRect().top + scroller.scrollTop : 0,
    })
  }, [isLong])
  // eslint-disable-next-line react-hooks/incompatible-library -- nothing here is kept that would have to follow the window
  const window = useVirtualizer({
    count,
    getScrollElement: () => place.scroller,
    estimateSize: () => estimate,
    overscan: 25,
    getItemKey: keyOf,
    scrollMargin: place.margin,
    enabled: isLong && place.scroller !== null,
  })
  const items = window.getVirtualItems()
  return {
    table,
    shown: isLong ? items.map((i) => i.index) : Array.from({ length: count }, (_, i) => i),
    before: isLong && items.length > 0 ? items[0]!.start - place.margin : 0,
    after: isLong && items.length > 0 ? window.getTotalSize() - (items.at(-1)!.end - place.margin) : 0,
    measure: isLong ? window.measureElement : undefined,
  }
}
