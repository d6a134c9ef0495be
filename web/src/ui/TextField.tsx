import { useRef, useState, type InputHTMLAttributes } from 'react'

type Props = Omit<InputHTMLAttributes<HTMLInputElement>, 'value' | 'onChange'> & {
  value: string
  /** Called with what was typed, and with what stood there when typing began. */
  onCommit: (text: string, before: string) => void
}

/** A text that is kept on Enter and on leaving, and taken back on Esc. What others change meanwhile does not disturb the typing. */
export function TextField({ value, onCommit, className = '', ...rest }: Props) {
  const [typed, setTyped] = useState<string | null>(null)
  const before = useRef(value)

  function commit() {
    if (typed !== null && typed !== before.current) onCommit(typed, before.current)
    setTyped(null)
  }

  return (
    <input
      {...rest}
      className={`field ${className}`}
      value={typed ?? value}
      onFocus={(e) => {
        before.current = value
        rest.onFocus?.(e)
      }}
      onChange={(e) => {
        if (typed === null) before.current = value
        setTyped(e.target.value)
      }}
      onBlur={commit}
      onKeyDown={(e) => {
        if (e.key === 'Enter') commit()
        if (e.key === 'Escape') setTyped(null)
        rest.onKeyDown?.(e)
      }}
    />
  )
}
