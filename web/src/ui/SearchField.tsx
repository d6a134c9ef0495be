import { useRef, useState } from 'react'
import { useShortcut } from './keys'

/**
 * A search that narrows a list while one types; `/` goes there. The field keeps every letter at any speed: what is typed stands in it at once,
 * however late the list, or an address that holds the search, follows.
 */
export function SearchField({ label, value, onChange }: { label: string; value: string; onChange: (value: string) => void }) {
  const field = useRef<HTMLInputElement>(null)
  const [typed, setTyped] = useState(value)
  const [told, setTold] = useState<string[]>([])
  const [seen, setSeen] = useState(value)
  // Something else has changed it, such as going back: that counts, unless it is what was typed itself coming back, late and letter by letter.
  if (value !== seen) {
    setSeen(value)
    if (told.includes(value)) setTold(told.slice(told.indexOf(value) + 1))
    else {
      setTold([])
      setTyped(value)
    }
  }
  // Told at once: told later, it could take back a click on what was found.
  const type = (text: string) => {
    setTyped(text)
    setTold((t) => [...t.slice(-100), text])
    onChange(text)
  }
  useShortcut('/', () => field.current?.focus())
  return (
    <input
      ref={field}
      type="search"
      className="input max-w-72"
      placeholder={`${label}  ( / )`}
      aria-label={label}
      value={typed}
      onChange={(e) => type(e.target.value)}
    />
  )
}
