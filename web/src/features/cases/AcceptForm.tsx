import { useState } from 'react'
import { sentenceOf } from '../../api/client'
import type { Case, Expected, useCaseEdits } from './useCases'
import { t } from '../../texts'

type Steps = Parameters<ReturnType<typeof useCaseEdits>['edit']['mutate']>[0]

/** The steps by which what came out is what has to come out from now on, and why. */
export const acceptSteps = (one: Case, e: Expected, because: string): Steps => [
  { do: 'set', rowId: one.id, field: `expected/${e.index}/is`, value: e.actual, before: e.is },
  { do: 'set', rowId: one.id, field: `expected/${e.index}/because`, value: because, before: e.because },
]

type Props = { edit: ReturnType<typeof useCaseEdits>['edit']; stepsFor: (because: string) => Steps; onDone: () => void }

/** Asks for the reason, and accepts. */
export function AcceptForm({ edit, stepsFor, onDone }: Props) {
  const [reason, setReason] = useState('')
  return (
    <>
      <form
        className="my-1 flex gap-2"
        onSubmit={(s) => {
          s.preventDefault()
          edit.mutate(stepsFor(reason.trim()), { onSuccess: onDone })
        }}
      >
        <input
          className="input input-sm flex-1"
          aria-label={t('cases.whyItIsRightNow')}
          placeholder={t('cases.whyItIsRightNow')}
          autoFocus
          required
          maxLength={1000}
          value={reason}
          onChange={(c) => setReason(c.target.value)}
        />
        <button className="btn btn-sm" disabled={reason.trim() === '' || edit.isPending}>
          {t('cases.acceptWhatCameOut')}
        </button>
      </form>
      {edit.error && <p className="fault">{sentenceOf(edit.error)}</p>}
    </>
  )
}
