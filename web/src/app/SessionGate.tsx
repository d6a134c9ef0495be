import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useEffect, type ReactNode } from 'react'
import { ask, client, ProblemError, signedOut } from '../api/client'
import { Session } from '../session/session'
import { SignInPage } from './SignInPage'
import { t } from '../texts'

/** Asks for a sign-in until someone has, and again when the server says that nobody is; the page behind keeps its state. */
export function SessionGate({ children }: { children: ReactNode }) {
  const queries = useQueryClient()
  const session = useQuery({
    queryKey: ['session'],
    queryFn: async () => {
      try {
        return await ask(client.GET('/api/session'))
      } catch (e) {
        if (e instanceof ProblemError && e.problem.status === 401) return null
        throw e
      }
    },
    staleTime: Infinity,
  })
  useEffect(() => {
    const leave = () => queries.setQueryData(['session'], null)
    signedOut.addEventListener('signed-out', leave)
    return () => signedOut.removeEventListener('signed-out', leave)
  }, [queries])

  if (session.data) return <Session value={session.data}>{children}</Session>
  if (session.isPending) return <p className="p-8 quiet">{session.failureCount > 0 ? t('app.theServerCannotBeReachedJust') : t('app.oneMoment')}</p>
  return <SignInPage onDone={(me) => queries.setQueryData(['session'], me)} />
}
