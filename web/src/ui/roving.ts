import type { FocusEvent, KeyboardEvent } from 'react'

const reachable = 'button:not(:disabled), [role=option]'

/**
 * Arrows go among the members of a group, Home and End to its ends; Tab takes the group as one. Which member Tab comes to is the chosen one, or
 * the first: `tabIndexOf` says so.
 */
export const roving = {
  onKeyDown: (e: KeyboardEvent<HTMLElement>) => {
    const by = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1 }[e.key]
    if ((by === undefined && e.key !== 'Home' && e.key !== 'End') || e.altKey || e.ctrlKey || e.metaKey) return
    const members = [...e.currentTarget.querySelectorAll<HTMLElement>(reachable)]
    const now = members.indexOf(document.activeElement as HTMLElement)
    if (now < 0) return
    e.preventDefault()
    e.stopPropagation()
    const next = by === undefined ? (e.key === 'Home' ? 0 : members.length - 1) : (now + by + members.length) % members.length
    // Tab leaves from here, and comes back to the chosen one.
    members.forEach((m, i) => (m.tabIndex = i === next ? 0 : -1))
    members[next]!.focus()
  },
  onBlur: (e: FocusEvent<HTMLElement>) => {
    if (e.currentTarget.contains(e.relatedTarget)) return
    const members = [...e.currentTarget.querySelectorAll<HTMLElement>(reachable)]
    const chosen = Math.max(
      0,
      members.findIndex((m) => m.getAttribute('aria-pressed') === 'true'),
    )
    members.forEach((m, i) => (m.tabIndex = i === chosen ? 0 : -1))
  },
  tabIndexOf: (index: number, chosen: number) => (index === Math.max(0, chosen) ? 0 : -1),
}
