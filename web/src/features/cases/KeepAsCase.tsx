import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { toast } from 'sonner'
import { ask, client, sentenceOf } from '../../api/client'
import type { Bench } from '../bench'
import { Sheet } from '../../ui/Sheet'
import { Waiting } from '../../ui/Waiting'
import { useCaseEdits, type Fact } from './useCases'
import { t } from '../../texts'

type Draft = { ticked: boolean; within: string }

const keyOf = (fact: Fact) => `${fact.of} ${fact.at}`

const groupOf = (of: Fact['of']) =>
  of === 'verdict' || of === 'rule'
    ? t('cases.whetherItStands')
    : of === 'value' || of === 'available'
      ? t('cases.values')
      : of === 'item' || of === 'quantity' || of === 'setup' || of === 'run'
        ? t('cases.linesAndOperations')
        : t('cases.totals')

/** What is usually expected comes first. */
const order = [t('cases.whetherItStands'), t('cases.totals'), t('cases.linesAndOperations'), t('cases.values')]

/** What comes out of the picks on the bench, offered as what has to come out from now on. */
export function KeepAsCase({ revisionId, modelId, bench, onClose }: { revisionId: number; modelId: string; bench: Bench; onClose: () => void }) {
  const [name, setName] = useState('')
  const [quantity, setQuantity] = useState('1')
  const [drafts, setDrafts] = useState<Record<string, Draft>>({})
  const { edit } = useCaseEdits(revisionId)
  const { picks, site, date } = bench.question
  const question = { picks, site, date, quantity: quantity.trim() || '1' }
  const facts = useQuery({
    queryKey: ['caseFacts', revisionId, question],
    queryFn: ({ signal }) => ask(client.POST('/api/revisions/{id}/cases/facts', { params: { path: { id: revisionId } }, body: question, signal })),
    staleTime: 0,
  })
  const of = (fact: Fact): Draft => drafts[keyOf(fact)] ?? { ticked: fact.isUsual, within: '' }
  const change = (fact: Fact, draft: Partial<Draft>) => setDrafts((d) => ({ ...d, [keyOf(fact)]: { ...of(fact), ...draft } }))
  const all = facts.data?.facts ?? []
  const groups = order.filter((group) => all.some((f) => groupOf(f.of) === group))
  const chosen = all.filter((f) => of(f).ticked)

  function keep() {
    const row = {
      id: crypto.randomUUID(),
      name: name.trim(),
      picks: facts.data!.picks,
      ...(site && { site }),
      ...(date && { date }),
      quantity: question.quantity,
      expected: chosen.map((f) => ({ of: f.of, at: f.at, is: f.is, ...(of(f).within.trim() && { within: of(f).within.trim() }) })),
    }
    edit.mutate([{ do: 'add', parentId: modelId, collection: 'cases', afterId: null, row: row as never }], {
      onSuccess: () => {
        toast(t('cases.keptAs', { name: row.name }))
        onClose()
      },
    })
  }

  return (
    <Sheet title={t('cases.keepAsTestCase')} onClose={onClose} wide>
      <form
        className="grid gap-3"
        onSubmit={(e) => {
          e.preventDefault()
          keep()
        }}
      >
        <p className="quiet">{t('cases.whatComesOutNowIsWhat')}</p>
        <div className="flex flex-wrap gap-3">
          <label className="grid flex-1 gap-0.5">
            <span className="quiet text-sm">{t('cases.name')}</span>
            <input className="input w-full" value={name} autoFocus required maxLength={200} onChange={(e) => setName(e.target.value)} />
          </label>
          <label className="grid w-24 gap-0.5">
            <span className="quiet text-sm">{t('cases.quantity')}</span>
            <input className="input" inputMode="decimal" value={quantity} onChange={(e) => setQuantity(e.target.value)} />
          </label>
        </div>
        {facts.error && <p className="fault">{sentenceOf(facts.error)}</p>}
        {facts.isPending && <Waiting />}
        <div className="max-h-[55vh] overflow-auto">
          {groups.map((group) => (
            <fieldset key={group} className="mb-3">
              <legend className="w-full border-b hair pb-0.5 font-semibold">
                {group}
                <button
                  type="button"
                  className="link ml-3 text-sm font-normal"
                  onClick={() => {
                    const those = all.filter((f) => groupOf(f.of) === group)
                    const on = those.some((f) => !of(f).ticked)
                    those.forEach((f) => change(f, { ticked: on }))
                  }}
                >
                  {t('cases.allOrNone')}
                </button>
              </legend>
              {all
                .filter((f) => groupOf(f.of) === group)
                .map((f) => (
                  <div key={keyOf(f)} className="grid grid-cols-[auto_minmax(0,1fr)_minmax(0,14rem)_6rem] items-center gap-2 border-b hair py-0.5">
                    <input
                      type="checkbox"
                      className="checkbox checkbox-sm"
                      aria-label={f.subject}
                      checked={of(f).ticked}
                      onChange={(e) => change(f, { ticked: e.target.checked })}
                    />
                    <span>{f.subject}</span>
                    <span className="truncate text-right" title={f.shown}>
                      {f.shown}
                    </span>
                    {/^-?\d/.test(f.is) && !f.is.includes('|') && !f.is.includes('..') && of(f).ticked ? (
                      <label className="flex items-center gap-1 text-sm">
                        ±
                        <input
                          className="input input-sm w-full"
                          aria-label={t('cases.toleranceOf', { subject: f.subject })}
                          inputMode="decimal"
                          value={of(f).within}
                          onChange={(e) => change(f, { within: e.target.value })}
                        />
                      </label>
                    ) : (
                      <span />
                    )}
                  </div>
                ))}
            </fieldset>
          ))}
        </div>
        {edit.error && <p className="fault">{sentenceOf(edit.error)}</p>}
        <div className="flex items-center gap-3">
          <button className="btn btn-primary" disabled={name.trim() === '' || chosen.length === 0 || facts.isFetching || edit.isPending}>
            {t('cases.keepTestCase')}
          </button>
          <span className="quiet">{t('cases.expectationsOf', { n: chosen.length, all: all.length })}</span>
        </div>
      </form>
    </Sheet>
  )
}
