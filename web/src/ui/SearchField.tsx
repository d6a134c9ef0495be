import { useEffect, useRef, useState } from 'react'
import { useShortcut } from './keys'

/** How long the letters stand still before the list follows them. */
const pause = 120

/**
 * A search that narrows a list while one types; `/` goes there. The field keeps every letter at any speed: what is typed stands in it at once, and
 * the list, which may be long or kept in the address, follows when it stands still. Enter makes it follow at once.
 */
export function SearchField({ label, value, onChange }: { label: string; value: string; onChange: (value: string) => void }) {
  const field = useRef<HTMLInputElement>(null)
  const [typed, setTyped] = useState(value)
  const [told, setTold] = useState(value)
  const [seen, setSeen] = useState(value)
  const tell = (text: string) => {
    if (text === told) return
    setTold(text)
    onChange(text)
  }
  // Something else has changed it, such as going back: that counts, unless it is what was typed itself coming back.
  if (value !== seen) {
    setSeen(value)
    if (value !== told) {
      setTold(value)
      setTyped(value)
    }
  }
  const latest = useRef(tell)
  useEffect(() => {
    latest.current = tell
  })
  useEffect(() => {
    const wait = setTimeout(() => latest.current(typed), pause)
    return () => clearTimeout(wait)
  }, [typed])
  useShortcut('/', () => field.current?.focus())
  return (
    <input
      ref={field}
      type="search"
      className="field max-w-72"
      placeholder={`${label}  ( / )`}
      aria-label={label}
      value={typed}
      onChange={(e) => setTyped(e.target.value)}
      onKeyDown={(e) => e.key === 'Enter' && tell(typed)}
    />
  )
}
