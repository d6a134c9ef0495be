import { useRef } from 'react'
import { useShortcut } from './keys'

/** A search that narrows a list while one types; `/` goes there. */
export function SearchField({ label, value, onChange }: { label: string; value: string; onChange: (value: string) => void }) {
  const field = useRef<HTMLInputElement>(null)
  useShortcut('/', () => field.current?.focus())
  return <input ref={field} type="search" className="field max-w-72" placeholder={`${label}  ( / )`} aria-label={label} value={value} onChange={(e) => onChange(e.target.value)} />
}
