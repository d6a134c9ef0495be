import { useEffect, useLayoutEffect, useRef, type KeyboardEvent } from 'react'

type Props = {
  label: string
  /** What stands in it when it opens: nothing where typing replaces the cell. */
  text: string
  /** Whether the arrows leave the cell, as they do after typing over it, or go through its text. */
  arrowsLeave: boolean
  look: string
  /** Called once: with what was typed, or null where it was given back. */
  onDone: (text: string | null, key: string, shift: boolean) => void
}

/** The field in which a cell is typed. Enter, Tab and leaving keep what was typed, Esc gives back what stood there. */
export function CellEditor({ label, text, arrowsLeave, look, onDone }: Props) {
  const field = useRef<HTMLInputElement>(null)
  const typed = useRef(text)
  const isDone = useRef(false)
  const latest = useRef(onDone)
  useEffect(() => {
    latest.current = onDone
  })

  function done(kept: string | null, key: string, shift = false) {
    if (isDone.current) return
    isDone.current = true
    latest.current(kept, key, shift)
  }

  useLayoutEffect(() => {
    isDone.current = false
    field.current!.focus()
    field.current!.setSelectionRange(typed.current.length, typed.current.length)
    // A cell whose row goes while it is being typed keeps it too.
    return () => {
      if (!isDone.current) {
        isDone.current = true
        latest.current(typed.current, 'gone', false)
      }
    }
  }, [])

  function press(e: KeyboardEvent) {
    e.stopPropagation()
    if (e.nativeEvent.isComposing) return
    const leaves = ['Enter', 'Tab'].includes(e.key) || (arrowsLeave && e.key.startsWith('Arrow'))
    if (e.key === 'F2') e.preventDefault()
    if (leaves || e.key === 'Escape') {
      e.preventDefault()
      done(e.key === 'Escape' ? null : typed.current, e.key, e.shiftKey)
    }
  }

  return (
    <input
      ref={field}
      aria-label={label}
      className={`absolute inset-0 z-10 w-full bg-base-100 px-1.5 outline-2 -outline-offset-2 outline-primary ${look}`}
      defaultValue={text}
      onChange={(e) => (typed.current = e.target.value)}
      onKeyDown={press}
      onBlur={() => done(typed.current, 'left')}
      onPointerDown={(e) => e.stopPropagation()}
      onDoubleClick={(e) => e.stopPropagation()}
    />
  )
}
