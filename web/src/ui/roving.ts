import type { KeyboardEvent } from 'react'

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
    members[next]!.focus()
  },
  tabIndexOf: (index: number, chosen: number) => (index === Math.max(0, chosen) ? 0 : -1),
}
