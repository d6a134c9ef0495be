import { createContext, useContext } from 'react'
import type { Schemas } from '../api/client'

export type Me = Schemas['Me']

export const Session = createContext<Me | null>(null)

/** Who is signed in; only below SessionGate. */
export function useMe(): Me {
  const me = useContext(Session)
  if (!me) throw new Error('useMe outside SessionGate')
  return me
}

export const useRight = (right: Schemas['Right']): boolean => useMe().rights.includes(right)
