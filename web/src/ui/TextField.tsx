import { useEffect, useRef, useState, type InputHTMLAttributes } from 'react'

type Props = Omit<InputHTMLAttributes<HTMLInputElement>, 'value' | 'onChange'> & {
  value: string
  /** Called with what was typed, and with what stood there when typing began. */
  onCommit: (text: string, before: string) => void
}

/** A text that is kept on Enter and on leaving, and taken back on Esc. What others change meanwhile does not disturb the typing. */
export function TextField({ value, onCommit, className = '', ...rest }: Props) {
  const [typed, setTyped] = useState<string | null>(null)
  // Enter can move the focus on: the blur then comes before the state is drawn anew, and must not commit a second time.
  const pending = useRef<string | null>(null)
  const before = useRef(value)

  // A field that goes while something is being typed, such as one scrolled out of a long table, keeps it too.
  const latest = useRef(onCommit)
  useEffect(() => {
    latest.current = onCommit
  })
  useEffect(
    () => () => {
      const text = pending.current
      if (text !== null && text !== before.current) latest.current(text, before.current)
    },
    [],
  )

  function type(text: string | null) {
    pending.current = text
    setTyped(text)
  }

  function commit() {
    const text = pending.current
    type(null)
    if (text !== null && text !== before.current) onCommit(text, before.current)
  }

  return (
    <input
      {...rest}
      className={`input ${className}`}
      value={typed ?? value}
      onFocus={(e) => {
        before.current = value
        rest.onFocus?.(e)
      }}
      onChange={(e) => {
        if (typed === null) before.current = value
        type(e.target.value)
      }}
      onBlur={commit}
      onKeyDown={(e) => {
        if (e.key === 'Enter') commit()
        if (e.key === 'Escape') type(null)
        rest.onKeyDown?.(e)
      }}
    />
  )
}
