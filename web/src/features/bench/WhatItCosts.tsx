import { X } from 'lucide-react'
import { useState } from 'react'
import { sentenceOf } from '../../api/client'
import type { Asked } from '../../api/answer'
import type { Pick } from '../../api/question'
import { signedMoney } from '../../ui/format'
import { isDecimal } from '../../ui/numbers'
import { withPick, type Bench } from './useBench'
import { allThatStands, useWhatIf, type WhatIf } from './whatIf'
import { t } from '../../texts'

type Change = (picks: Pick[]) => Pick[]

const mostValues = 12

/** What the price would be with another value of a question: with everything else kept, and with the rest suggested anew. */
export function WhatItCosts({ revisionId, bench, asked, onClose }: { revisionId: number; bench: Bench; asked: Asked; onClose: () => void }) {
  const [typed, setTyped] = useState('')
  const isNumber = asked.kind === 'whole' || asked.kind === 'quantity'
  const numbers = [...new Set([asked.lowest, asked.highest, isDecimal(typed.trim()) ? typed.trim() : null])].filter(
    (n): n is string => n !== null && n !== asked.value,
  )
  const members = asked.several ?? []
  const lines: [string, Change][] = [
    ...members.map((m): [string, Change] => [
      m.chosen ? t('bench.withoutMember', { member: m.label }) : t('bench.withMember', { member: m.label }),
      (picks) => withPick(picks, m.path, m.chosen ? 'no' : 'yes'),
    ]),
    ...(asked.several ? [] : asked.choices)
      .filter((c) => c.can && c.value !== asked.value)
      .map((c): [string, Change] => [c.label, (picks) => withPick(picks, asked.path, c.value)]),
    ...(isNumber ? numbers.map((n): [string, Change] => [`${n} ${asked.unitLabel}`.trim(), (picks) => withPick(picks, asked.path, n)]) : []),
  ]
  return (
    <Panel
      label={t('bench.whatValuesOfLabelCost', { label: asked.label })}
      title={t('bench.comparedWithNow', { label: asked.label })}
      onClose={onClose}
    >
      {lines.length === 0 && !isNumber && <p className="quiet">{t('bench.thereIsNoOtherValueNow')}</p>}
      {lines.length > 0 && (
        <table className="w-full">
          <Heads />
          <tbody>
            {lines.slice(0, mostValues).map(([label, change]) => (
              <Line key={label} label={label} own={asked.label} revisionId={revisionId} bench={bench} change={change} />
            ))}
          </tbody>
        </table>
      )}
      {lines.length > mostValues && <p className="quiet italic">{t('bench.andMore', { more: lines.length - mostValues })}</p>}
      {isNumber && (
        <label className="flex items-center gap-2">
          {t('bench.anotherNumber')}
          <input
            className="input w-24 text-right"
            inputMode="decimal"
            value={typed}
            onChange={(e) => setTyped(e.target.value)}
            onKeyDown={(e) => e.stopPropagation()}
          />
          {asked.unitLabel}
        </label>
      )}
    </Panel>
  )
}

/** What an instance costs: what would be paid less without it. */
export function WhatInstanceCosts({
  revisionId,
  bench,
  name,
  without,
  onClose,
}: {
  revisionId: number
  bench: Bench
  name: string
  without: Change
  onClose: () => void
}) {
  return (
    <Panel label={t('bench.whatNameCosts', { name })} title={t('bench.withoutIt', { name })} onClose={onClose}>
      <table className="w-full">
        <Heads />
        <tbody>
          <Line label={t('bench.withoutMember', { member: name })} own="" revisionId={revisionId} bench={bench} change={without} />
        </tbody>
      </table>
    </Panel>
  )
}

function Panel({ label, title, onClose, children }: { label: string; title: string; onClose: () => void; children: React.ReactNode }) {
  return (
    <div
      role="region"
      aria-live="polite"
      aria-label={label}
      className="my-1.5 grid gap-2 border-l-2 border-primary bg-base-200 px-3 py-2 text-sm"
      onKeyDown={(e) => e.key === 'Escape' && (e.stopPropagation(), onClose())}
    >
      <div className="flex items-start justify-between gap-2">
        <p className="font-semibold">{title}</p>
        <button className="btn btn-ghost btn-sm -m-1" aria-label={t('bench.closeWhatItCosts')} onClick={onClose}>
          <X className="size-3.5" />
        </button>
      </div>
      {children}
    </div>
  )
}

const Heads = () => (
  <thead className="quiet text-left">
    <tr className="border-b hair [&>th]:py-0.5 [&>th]:pr-3 [&>th]:align-bottom [&>th]:font-normal [&>th]:italic">
      <th>{t('bench.instead')}</th>
      <th className="w-28 text-right">{t('bench.everythingElseKept')}</th>
      <th className="w-28 text-right">{t('bench.theRestSuggestedAnew')}</th>
    </tr>
  </thead>
)

function Line({ label, own, revisionId, bench, change }: { label: string; own: string; revisionId: number; bench: Bench; change: Change }) {
  const { question, answer } = bench
  const kept = useWhatIf(revisionId, answer?.head, question, change(allThatStands(bench)), { isWanted: !bench.working, refill: true })
  const anew = useWhatIf(revisionId, answer?.head, question, change(question.picks), { isWanted: !bench.working, refill: true })
  const error = kept.error ?? anew.error
  return (
    <tr className="border-b hair align-baseline [&>td]:py-1 [&>td]:pr-3">
      <td>
        {label}
        {error && <p className="fault">{sentenceOf(error)}</p>}
        {kept.data && <Follows of={kept.data} own={own} />}
      </td>
      <Amount of={kept.data} />
      <Amount of={anew.data} />
    </tr>
  )
}

/** What changes along, by name; or why it cannot be had. */
function Follows({ of, own }: { of: WhatIf; own: string }) {
  const hindrance = of.now.hindrances[0] ?? of.then.hindrances[0]
  if (hindrance !== undefined) return <p className="quiet">{hindrance}</p>
  const along = of.changes.filter((c) => c.kind === 'attribute' && c.name !== own && !c.name.endsWith(`: ${own}`))
  if (along.length === 0) return null
  return (
    <p className="quiet">
      {t('bench.thenAlso')}{' '}
      {along
        .slice(0, mostValues)
        .map((c) => `${c.name}: ${c.before || t('bench.nothing')} → ${c.after || t('bench.nothing')}`)
        .join('; ')}
      {along.length > mostValues && ` ${t('bench.andMore', { more: along.length - mostValues })}`}
    </p>
  )
}

const Amount = ({ of }: { of: WhatIf | undefined }) => (
  <td className="text-right whitespace-nowrap">
    {of === undefined ? '…' : of.difference === null ? '–' : <b>{t('bench.amountEUR', { amount: signedMoney(of.difference) })}</b>}
  </td>
)
