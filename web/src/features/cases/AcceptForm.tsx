import { ReasonForm } from '../../ui/ReasonForm'
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
  return (
    <ReasonForm
      className="my-1"
      label={t('cases.whyItIsRightNow')}
      send={t('cases.acceptWhatCameOut')}
      isPending={edit.isPending}
      error={edit.error}
      onSend={(because) => edit.mutate(stepsFor(because), { onSuccess: onDone })}
    />
  )
}
