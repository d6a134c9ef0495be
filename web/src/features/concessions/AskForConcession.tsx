import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { askAnswer, type Answer } from '../../api/answer'
import { ask, client, sentenceOf } from '../../api/client'
import { newId } from '../../api/ids'
import { Sheet } from '../../ui/Sheet'
import { today } from '../../ui/WhereFields'
import type { Bench } from '../bench'
import { useAct } from './useConcessions'
import { t } from '../../texts'

type Rule = { rowId: string; mark: string; sentence: string }

/** The rules that take part in the clashes of an answer. */
const rulesOf = (answer: Answer | undefined): Rule[] =>
  (answer?.clashes ?? []).flatMap((c) => c.reason.causes.filter((x) => x.kind === 'rule' && x.mark !== ''))

const inMonths = (months: number): string => {
  const day = new Date()
  day.setMonth(day.getMonth() + months)
  return today(day)
}

type Props = {
  revisionId: number
  configuration: { id: string; version: number; name: string }
  bench: Bench
  /** The rules of one that is used up, where it is asked for more; those of the clashes otherwise. */
  again?: Rule[]
  onClose: () => void
}

/** Asks for a concession: which rules, why, until when, for how many; and shows what would stand in the way still. */
export function AskForConcession({ revisionId, configuration, bench, again, onClose }: Props) {
  const queries = useQueryClient()
  const [id] = useState(newId)
  const first = again ?? rulesOf(bench.answer)
  const [rules, setRules] = useState<string[]>(() => (again || first.length === 1 ? first.map((r) => r.rowId) : []))
  const [reason, setReason] = useState('')
  const [until, setUntil] = useState(() => inMonths(3))
  const [quantity, setQuantity] = useState('1')
  const { question, answer } = bench
  const tried = useQuery({
    queryKey: ['answer', revisionId, answer?.head, question, 'without', rules],
    queryFn: ({ signal }) => askAnswer(queries, revisionId, { ...question, setAside: rules }, signal, () => undefined),
    enabled: rules.length > 0,
    staleTime: Infinity,
  })
  // A rule that shows itself once another is set aside is offered, too; and none goes while it is ticked.
  const [offered, setOffered] = useState<Rule[]>([])
  const known = [...first, ...offered, ...rulesOf(tried.data)].filter((r, i, all) => all.findIndex((x) => x.rowId === r.rowId) === i)
  if (known.length > first.length + offered.length) setOffered(known.filter((r) => first.every((x) => x.rowId !== r.rowId)))
  const send = useAct(() =>
    ask(
      client.POST('/api/configurations/{id}/concessions', {
        params: { path: { id: configuration.id } },
        body: { id, rules, reason, until, quantity: Number(quantity), version: configuration.version },
      }),
    ),
  )
  const stands = rules.length > 0 && tried.data?.valid === true
  return (
    <Sheet title={t('concessions.askForAConcession')} onClose={onClose}>
      <form
        className="grid gap-3"
        onSubmit={(e) => {
          e.preventDefault()
          send.mutate(undefined, { onSuccess: onClose })
        }}
      >
        <p>{t('concessions.whatOneIs', { name: configuration.name })}</p>
        <fieldset className="grid gap-1">
          <legend className="quiet text-sm italic">{t('concessions.rulesToSetAside')}</legend>
          {known.map((r) => (
            <label key={r.rowId} className="flex gap-2">
              <input
                type="checkbox"
                className="mt-0.5 size-4 accent-primary"
                checked={rules.includes(r.rowId)}
                onChange={(e) => setRules(e.target.checked ? [...rules, r.rowId] : rules.filter((x) => x !== r.rowId))}
              />
              <span>
                <b className="mr-1.5">{r.mark}</b>
                {r.sentence}
              </span>
            </label>
          ))}
        </fieldset>
        <p role="status" className="min-h-5 text-sm">
          {rules.length === 0 ? (
            <span className="quiet">{t('concessions.tickARule')}</span>
          ) : tried.isFetching ? (
            <span className="quiet">{t('concessions.beingTried')}</span>
          ) : tried.error ? (
            <span className="fault">{sentenceOf(tried.error)}</span>
          ) : tried.data && !tried.data.valid ? (
            <span className="fault">{t('concessions.stillClashes')}</span>
          ) : tried.data && tried.data.missing.length > 0 ? (
            <span className="fault">{t('concessions.stillNeeded', { missing: tried.data.missing.map((m) => m.label).join(', ') })}</span>
          ) : (
            t('concessions.standsWithoutThem')
          )}
        </p>
        <label className="grid gap-0.5">
          <span className="quiet text-sm italic">{t('concessions.why')}</span>
          <textarea className="textarea min-h-16" maxLength={2000} required value={reason} onChange={(e) => setReason(e.target.value)} />
        </label>
        <div className="flex flex-wrap gap-4">
          <label className="grid gap-0.5">
            <span className="quiet text-sm italic">{t('concessions.untilTheDay')}</span>
            <input type="date" className="input w-36" required min={today()} value={until} onChange={(e) => setUntil(e.target.value)} />
          </label>
          <label className="grid gap-0.5">
            <span className="quiet text-sm italic">{t('concessions.piecesInAll')}</span>
            <input
              className="input w-20 text-right"
              inputMode="numeric"
              pattern="[0-9]{1,7}"
              required
              value={quantity}
              onChange={(e) => setQuantity(e.target.value)}
            />
          </label>
        </div>
        {send.error && (
          <p role="alert" className="fault">
            {sentenceOf(send.error)}
          </p>
        )}
        <button
          className="btn btn-primary justify-self-start"
          disabled={!stands || tried.data!.missing.length > 0 || reason.trim() === '' || send.isPending}
        >
          {t('concessions.ask')}
        </button>
      </form>
    </Sheet>
  )
}
