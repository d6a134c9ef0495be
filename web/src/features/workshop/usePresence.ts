import { useEffect, useEffectEvent, useState } from 'react'
import { client } from '../../api/client'
import { newId } from '../../api/ids'

/** A page that looks at the model: whose it is, and at which row. */
export type Present = { page: string; person: string; display: string; rowId: string | null }

/** The server takes a page that is silent for 45 seconds to be gone. */
const sayEvery = 20_000

/** Says at which row this page is; what comes back is its id, by which it knows itself among those that are there. */
export function usePresence(revisionId: number, rowId: string | null): string {
  const [page] = useState(newId)
  const say = useEffectEvent((leaves: boolean) => {
    // Who is there is a courtesy: where it cannot be said, nothing is amiss.
    void client
      .POST('/api/revisions/{id}/presence', { params: { path: { id: revisionId } }, body: { page, rowId, leaves }, keepalive: leaves })
      .catch(() => undefined)
  })
  useEffect(() => say(false), [rowId])
  useEffect(() => {
    const again = setInterval(() => document.visibilityState === 'visible' && say(false), sayEvery)
    const leave = () => say(true)
    addEventListener('pagehide', leave)
    return () => {
      clearInterval(again)
      removeEventListener('pagehide', leave)
      leave()
    }
  }, [])
  return page
}

/** Those who are there beside this page, one a person and row. */
export const others = (here: Present[], page: string): Present[] =>
  here.filter((p, i) => p.page !== page && here.findIndex((o) => o.page !== page && o.person === p.person && o.rowId === p.rowId) === i)

/** The initials of a name: “Ines Halloran” is IH. */
export const initials = (display: string): string =>
  display
    .split(/\s+/)
    .filter(Boolean)
    .map((word) => [...word][0]!.toUpperCase())
    .slice(0, 2)
    .join('')
