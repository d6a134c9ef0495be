import type { Asked } from '../../api/answer'
import type { Pick } from '../../api/question'
import { RotateCcw, Tag } from 'lucide-react'
import { createContext, memo, useContext, useState } from 'react'
import { DimensionLine } from '../../ui/DimensionLine'
import { isDecimal, nearestTo } from '../../ui/numbers'
import { StateMark } from '../../ui/StateMark'
import { ChoiceList } from './ChoiceList'
import { SeveralChoice } from './SeveralChoice'
import { AgainstAll, ReasonPanel } from './Reason'
import { type GoTo } from '../../ui/goTo'
import { WhatItCosts } from './WhatItCosts'
import { filledInFor } from './goals'
import type { Bench } from './useBench'
import { t } from '../../texts'

const yesNo = ['yes', 'no'].map((value) => ({ value, label: value, color: null, can: true, unknown: false }))

/** The element of a question; each value of several choices stands in the one of its attribute. */
export const askedId = (path: string, scope = '') => `asked-${scope}${path.split('#')[0]}`

type Props = {
  asked: Asked
  revisionId: number
  goTo?: GoTo | undefined
  goToPick?: ((path: string) => void) | undefined
}

type Own = Props & {
  /** What was picked for it; of several choices, for one of its values. */
  pick: Pick | undefined
  /** Where it stands as completion filled it in: for what. */
  note: string | undefined
  /** Whether the answer to that is still on its way. */
  working: boolean
  /** Whether there is a price to ask for. */
  priced: boolean
  scope: string
  /** What is wrong with what was picked. */
  fault: NonNullable<Bench['answer']>['faults'][number] | undefined
  onPick: Bench['pick']
  onChange: Bench['change']
}

const BenchContext = createContext<Bench | null>(null)

/** A question as it stands on a bench. */
export function AskedRow({ bench, ...props }: Props & { bench: Bench }) {
  const { path } = props.asked
  const isOwn = (p: { path: string }) => p.path === path || p.path.startsWith(`${path}#`)
  const pick = bench.picks.find(isOwn)
  const fillIn = bench.fillIns.find(isOwn)
  return (
    <BenchContext value={bench}>
      <QuestionRow
        {...props}
        pick={pick}
        note={fillIn ? filledInFor(fillIn.filledIn!, bench.answer) : undefined}
        working={pick !== undefined && bench.working}
        priced={bench.answer?.priced ?? false}
        scope={bench.scope}
        fault={bench.answer?.faults.find(isOwn)}
        onPick={bench.pick}
        onChange={bench.change}
      />
    </BenchContext>
  )
}

/**
 * One question: its mark, its label, what can be answered, and on request why something cannot. It is redrawn only where it stands differently;
 * what asks about the whole bench takes that from around.
 */
const QuestionRow = memo(function QuestionRow(props: Own) {
  const { asked, pick, note, working, priced, scope, fault, onPick, onChange, revisionId, goTo, goToPick } = props
  const [all, setAll] = useState(false)
  const [costs, setCosts] = useState(false)
  const ruledOut = asked.several ? 0 : asked.choices.filter((c) => !c.can && !c.unknown && c.value !== 'none' && c.value !== asked.value).length
  const [reasonOf, setReasonOf] = useState<{ value: string; path: string } | null>(null)
  // What was just picked is shown at once; the rest follows with the answer.
  const value = pick?.value ?? asked.value
  const state = asked.missing ? 'needed' : pick && working && asked.state !== 'clash' ? 'picked' : asked.state
  const asWhy = (value: string, path = asked.path) => setReasonOf((now) => (now?.value === value && now.path === path ? null : { value, path }))
  const near = reasonOf !== null && isNumber(asked) ? nearestTo(reasonOf.value, asked) : []
  /** Closes what was asked for; the focus goes back into the question where it was in what closes. */
  function close() {
    const row = document.getElementById(askedId(asked.path, scope))
    const wasWithin = row?.contains(document.activeElement) ?? false
    setReasonOf(null)
    setAll(false)
    if (wasWithin)
      requestAnimationFrame(
        () =>
          document.activeElement === document.body &&
          (row?.querySelector<HTMLElement>('[role=group] [tabindex="0"]') ?? row?.querySelector<HTMLElement>('input, button'))?.focus(),
      )
  }
  const member = asked.several?.find((m) => m.path === reasonOf?.path)

  return (
    <div
      id={askedId(asked.path, scope)}
      onKeyDown={(e) => {
        if (e.key !== 'Escape' || (reasonOf === null && !all)) return
        e.stopPropagation()
        close()
      }}
      className={`group border-b hair py-1 last:border-b-0 ${asked.state === 'clash' ? 'hatched' : ''} ${asked.state === 'resting' ? 'opacity-70' : ''}`}
    >
      <div className="grid grid-cols-[1rem_minmax(6rem,9rem)_minmax(0,1fr)_auto] items-center gap-x-2">
        <StateMark state={state} clash={asked.clash} note={state === 'suggested' ? note : undefined} />
        <div className="min-w-0 leading-tight">
          {asked.label}
          {asked.state === 'follows' && asked.value !== null && (
            <button className="link ml-1.5 text-sm" onClick={() => asWhy(asked.value!)}>
              {t('bench.why')}
            </button>
          )}
          {ruledOut > 1 && asked.state !== 'resting' && (
            <button
              className="quiet block text-left text-sm underline underline-offset-2 hover:text-primary"
              aria-expanded={all}
              onClick={() => setAll(!all)}
            >
              {t('bench.ruledOutRuledOut', { ruledOut })}
            </button>
          )}
          {asked.state === 'resting' && <span className="quiet block text-sm italic">{t('bench.restsDoesNotApplyNow')}</span>}
        </div>
        {asked.several ? (
          <SeveralChoice label={asked.label} members={asked.several} onPick={onPick} onWhy={(m, v) => asWhy(v, m.path)} />
        ) : (
          <Control
            asked={asked}
            value={value}
            refused={reasonOf?.value ?? null}
            state={state}
            onPick={(v) => (setReasonOf(null), onPick(asked.path, v))}
            onWhy={asWhy}
          />
        )}
        <span className="flex w-12 justify-end">
          {priced && asked.kind !== 'text' && asked.state !== 'resting' && (
            <button
              className="btn btn-ghost btn-sm opacity-0 group-focus-within:opacity-100 group-hover:opacity-100 aria-expanded:opacity-100 pointer-coarse:opacity-100"
              aria-label={t('bench.whatDoesLabelCost', { label: asked.label })}
              title={t('bench.whatOtherValuesCost')}
              aria-expanded={costs}
              onClick={() => setCosts(!costs)}
            >
              <Tag className="size-3.5" />
            </button>
          )}
          {pick && (
            <button
              className="btn btn-ghost btn-sm"
              aria-label={t('bench.letGoOfLabel2', { label: asked.label })}
              title={t('bench.letGoOfThisAnswer')}
              onClick={() => onChange((picks) => picks.filter((p) => p.path !== asked.path && !p.path.startsWith(`${asked.path}#`)))}
            >
              <RotateCcw className="size-3.5" />
            </button>
          )}
        </span>
      </div>
      {fault && (
        <p role="alert" className="fault ml-6 text-sm">
          {t('bench.sentenceYouTypedValue', { sentence: fault.sentence, value: fault.value })}
        </p>
      )}
      {costs && <WhatItCostsHere revisionId={revisionId} asked={asked} onClose={() => setCosts(false)} />}
      {all && ruledOut > 1 && <AgainstAllHere revisionId={revisionId} asked={asked} onClose={close} goTo={goTo} goToPick={goToPick} />}
      {near.length > 0 && (
        <p className="ml-6 text-sm">
          {t('bench.theNearestThatCanBeHad')}{' '}
          {near.map((n, i) => (
            <span key={n}>
              {i > 0 && t('bench.or')}
              <button className="link" onClick={() => (setReasonOf(null), onPick(asked.path, n))}>
                {n} {asked.unitLabel}
              </button>
            </span>
          ))}
        </p>
      )}
      {reasonOf !== null && (
        <ReasonHere
          key={reasonOf.path + reasonOf.value}
          revisionId={revisionId}
          asked={
            member
              ? {
                  ...asked,
                  path: member.path,
                  label: `${asked.label}: ${member.label}`,
                  state: member.state,
                  value: member.chosen === null ? null : member.chosen ? 'yes' : 'no',
                  choices: yesNo,
                }
              : asked
          }
          value={reasonOf.value}
          onClose={close}
          goTo={goTo}
          goToPick={goToPick}
        />
      )}
    </div>
  )
})

type Of<T> = Omit<T, 'bench'>

const ReasonHere = (props: Of<Parameters<typeof ReasonPanel>[0]>) => <ReasonPanel {...props} bench={useContext(BenchContext)!} />
const WhatItCostsHere = (props: Of<Parameters<typeof WhatItCosts>[0]>) => <WhatItCosts {...props} bench={useContext(BenchContext)!} />
const AgainstAllHere = (props: Of<Parameters<typeof AgainstAll>[0]>) => <AgainstAll {...props} bench={useContext(BenchContext)!} />

const isNumber = (asked: Asked) => asked.kind === 'whole' || asked.kind === 'quantity'

type ControlProps = {
  asked: Asked
  value: string | null
  refused: string | null
  state: string
  onPick: (value: string | null) => void
  onWhy: (value: string) => void
}

function Control({ asked, value, refused, state, onPick, onWhy }: ControlProps) {
  if (isNumber(asked)) return <NumberControl asked={asked} value={value} refused={refused} state={state} onPick={onPick} onWhy={onWhy} />
  if (asked.kind === 'text')
    return (
      <input
        key={value}
        className="input"
        aria-label={asked.label}
        defaultValue={value ?? ''}
        maxLength={2000}
        onBlur={(e) => e.target.value !== (value ?? '') && onPick(e.target.value === '' ? null : e.target.value)}
        onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
      />
    )
  return <ChoiceList label={asked.label} choices={asked.choices} value={value} state={state} onPick={onPick} onWhy={onWhy} />
}

/** A number by its range and as text. One that cannot be had stays as it was typed while its reason is shown. */
function NumberControl({ asked, value, refused, state, onPick, onWhy }: ControlProps) {
  const [typed, setTyped] = useState<string | null>(null)
  const none = asked.choices.find((c) => c.value === 'none')

  const isOut = (text: string) => {
    if (!isDecimal(text) || asked.min === null || asked.max === null) return false
    const n = Number(text)
    if (n < Number(asked.min) || n > Number(asked.max) || asked.unknown) return false
    return asked.lowest === null || asked.highest === null || n < Number(asked.lowest) || n > Number(asked.highest)
  }

  function take(text: string) {
    setTyped(null)
    // What is typed is an answer, also where it is what was suggested.
    if (text.trim() === (refused ?? value ?? '') && (state === 'picked' || refused !== null || text.trim() === '')) return
    if (text.trim() === '') onPick(null)
    else if (isOut(text)) onWhy(text.trim())
    else onPick(text.trim())
  }

  return (
    <div className="flex items-center gap-2">
      {asked.min !== null && asked.max !== null && asked.step !== null && (
        <DimensionLine
          label={t('bench.labelDimensionLine', { label: asked.label })}
          unit={asked.unitLabel}
          min={asked.min}
          max={asked.max}
          step={asked.step}
          lowest={asked.lowest}
          highest={asked.highest}
          members={asked.members}
          unknown={asked.unknown}
          value={value !== null && isDecimal(value) ? value : null}
          strong={state === 'picked'}
          onChange={take}
        />
      )}
      <span className="flex shrink-0 items-center gap-1">
        <input
          className={`input w-18 text-right ${state === 'suggested' ? 'underline decoration-dotted underline-offset-4' : ''}`}
          inputMode="decimal"
          aria-label={asked.label}
          aria-invalid={refused !== null && isDecimal(refused)}
          value={typed ?? (refused !== null && isDecimal(refused) ? refused : value === 'none' ? '' : (value ?? ''))}
          placeholder={value === 'none' ? t('bench.none') : ''}
          onChange={(e) => setTyped(e.target.value)}
          onBlur={(e) => typed !== null && take(e.target.value)}
          onKeyDown={(e) => {
            if (e.key === 'Enter') take(e.currentTarget.value)
            if (e.key === 'Escape') {
              setTyped(null)
              // Asking again closes the reason.
              if (typed === null && refused !== null) onWhy(refused)
            }
          }}
        />
        <span className="quiet w-9 text-sm">{asked.unitLabel}</span>
        {none && (
          <ChoiceList
            label={t('bench.labelNone', { label: asked.label })}
            choices={[none]}
            value={value}
            state={state}
            onPick={onPick}
            onWhy={onWhy}
          />
        )}
      </span>
    </div>
  )
}
