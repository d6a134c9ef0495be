import { useState } from 'react'
import { sentenceOf } from '../api/client'

type Props = {
  /** What is asked for, such as why something may stay as it is. */
  label: string
  send: string
  isPending: boolean
  error: unknown
  onSend: (reason: string) => void
  className?: string
}

/** Asks for a reason, without which nothing is accepted. */
export function ReasonForm({ label, send, isPending, error, onSend, className = '' }: Props) {
  const [reason, setReason] = useState('')
  return (
    <form
      className={`flex flex-wrap items-center gap-2 ${className}`}
      onSubmit={(e) => {
        e.preventDefault()
        onSend(reason.trim())
      }}
    >
      <input
        className="input input-sm flex-1"
        aria-label={label}
        placeholder={label}
        autoFocus
        required
        maxLength={1000}
        value={reason}
        onChange={(e) => setReason(e.target.value)}
      />
      <button className="btn btn-sm" disabled={isPending || reason.trim() === ''}>
        {send}
      </button>
      {error != null && <p className="fault w-full text-sm">{sentenceOf(error)}</p>}
    </form>
  )
}
