import { useEffect, useState } from 'react'

/** A value once it has stood still for a while. */
export function useDelayed<T>(value: T, ms: number): T {
  const [now, setNow] = useState(value)
  useEffect(() => {
    const wait = setTimeout(() => setNow(value), ms)
    return () => clearTimeout(wait)
  }, [value, ms])
  return now
}
