import { useQuery } from '@tanstack/react-query'
import { useEffect, useState } from 'react'
import { ask, client } from '../api/client'
import { t } from '../texts'

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
      {ahead > 0
        ? t('ui.waitingItsTurnAheadOneFirst', { ahead: ahead === 1 ? t('ui.oneOtherPersonHas') : t('ui.aheadOthersHave', { ahead }) })
        : t('ui.stillBeingWorkedOut')}
    </p>
  )
}
