import { useLayoutEffect, useState } from 'react'

/**
 * The same functions for as long as a component lives, each doing what the latest one of its name would. What is given them is redrawn only where
 * something of its own changes.
 */
export function useStable<T extends Record<string, (...args: never[]) => unknown>>(acts: T): T {
  const [{ stable, put }] = useState(() => {
    let latest = acts
    return {
      stable: Object.fromEntries(Object.keys(acts).map((name) => [name, (...args: never[]) => latest[name]!(...args)])) as T,
      put: (now: T) => {
        latest = now
      },
    }
  })
  useLayoutEffect(() => put(acts))
  return stable
}
