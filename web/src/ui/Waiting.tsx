import { useQuery } from '@tanstack/react-query'
import { useEffect, useState } from 'react'
import { ask, client } from '../api/client'

const shownAfter = 1_500

/** Says why something takes its time: that it is being worked on, or that others have a turn first. Nothing for what comes at once. */
export function Waiting() {
  const [long, setLong] = useState(false)
  useEffect(() => {
    const timer = setTimeout(() => setLong(true), shownAfter)
    return () => clearTimeout(timer)
  }, [])
  const solving = useQuery({
    queryKey: ['solving'],
    queryFn: ({ signal }) => ask(client.GET('/api/solving', { signal })),
    enabled: long,
    refetchInterval: 1_000,
    gcTime: 0,
  })
  if (!long) return null
  const ahead = solving.data?.ahead ?? 0
  return (
    <p role="status" className="quiet mb-2">
      {ahead > 0 ? `Waiting its turn: ${ahead === 1 ? 'one other person has' : `${ahead} others have`} one first.` : 'Still being worked out.'}
    </p>
  )
}
