import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { useState, type ReactNode } from 'react'
import { ask, client, sentenceOf } from '../../api/client'
import { grouped, money } from '../../ui/format'
import { TextField } from '../../ui/TextField'
import { Waiting } from '../../ui/Waiting'
import { BomTree } from '../../ui/structure/BomTree'
import { CostTime } from '../../ui/structure/CostTime'
import { MarginMark, UnderMargin } from '../../ui/structure/Margin'
import { Routing } from '../../ui/structure/Routing'
import { TriedOut } from '../../ui/structure/Steps'
import { CustomerClassChoice } from './CustomerClassChoice'
import { Figures } from './Figures'
import { goToAsked } from './Questions'
import type { GoTo } from '../../ui/goTo'
import { TotalsSoFar } from './TotalsSoFar'
import { Tabs } from '../../ui/Tabs'
import type { Bench } from './useBench'
import { t } from '../../texts'

const tabs = { Parts: t('bench.billOfMaterials'), Work: t('bench.routing'), Cost: t('bench.priceAndCost'), Figures: t('bench.figures') }
type Tab = keyof typeof tabs

const keptAs = 'juniperfall.outcome'

/** The view that was looked at last in this window, also after the bench was moved or the page read anew. */
function useTab(): [Tab, (tab: Tab) => void] {
  const [tab, setTab] = useState<Tab>(() => {
    const kept = sessionStorage.getItem(keptAs)
    return kept !== null && kept in tabs ? (kept as Tab) : 'Parts'
  })
  return [
    tab,
    (to) => {
      sessionStorage.setItem(keptAs, to)
      setTab(to)
    },
  ]
}

const suggestionsCounted = (count: number) =>
  count === 1 ? t('bench.oneAnswerIsASuggestionThat') : t('bench.nAnswersAreSuggestionsThatNobody', { n: String(count) })

/** What comes of the picks: bill of materials, routing and figures, always up to date. */
export function Outcome({ revisionId, bench, goTo, belowParts }: { revisionId: number; bench: Bench; goTo?: GoTo; belowParts?: ReactNode }) {
  const [tab, setTab] = useTab()
  const answer = bench.answer
  if (!answer) return null
  const { structure } = answer
  return (
    <TriedOut value={{ revisionId, question: bench.question }}>
      <section aria-label={t('bench.outcome')} className="flex h-full min-h-0 flex-col" aria-busy={bench.working}>
        <div className="flex shrink-0 flex-wrap items-end gap-x-4 border-b hair px-3">
          <Tabs label={t('bench.outcome')} tabs={Object.entries(tabs) as [Tab, string][]} shown={tab} onShow={setTab} />
          {structure && (
            <p className="ml-auto flex flex-wrap items-baseline justify-end gap-x-3 py-1 text-sm whitespace-nowrap">
              {answer.price && (
                <button className="hover:text-primary" title={t('bench.priceOfOnePieceClick')} onClick={() => setTab('Cost')}>
                  {answer.price.customerClass ?? t('bench.price')} <b>{money(answer.price.each)}</b> {t('bench.eUR')}
                </button>
              )}
              {structure.totals.cost !== '' && (
                <span title={t('bench.materialLabourAndMachineCostAt')}>
                  {t('bench.cost2')} <b>{money(structure.totals.cost)}</b> {t('bench.eUR')}
                </span>
              )}
              {answer.price?.margin && <MarginMark margin={answer.price.margin} />}
              <span title={t('bench.netWeightOfAllParts')}>
                {t('bench.weight')} <b>{grouped(structure.totals.weight)}</b> {t('bench.kg')}
              </span>
            </p>
          )}
        </div>
        <div className={`min-h-0 flex-1 overflow-auto p-3 ${bench.working ? 'opacity-60 transition-opacity delay-300' : ''}`}>
          {bench.working && <Waiting />}
          {!answer.exact && <p className="fault mb-2">{t('bench.timeRanOutNothingHereIs')}</p>}
          {answer.leftOut > 0 && (
            <p className="mb-2 border-l-2 border-warning px-2 text-sm">
              <b>{t('bench.draft')}</b>{' '}
              {t('bench.theModelHasLeftOutWhatIs', {
                leftOut: answer.leftOut === 1 ? t('bench.aFault') : t('bench.leftOutFaults', { leftOut: String(answer.leftOut) }),
              })}
            </p>
          )}
          {answer.advice.map((a) => (
            <p
              key={a.rowId}
              className={`mb-2 border-l-2 px-2 text-sm ${bench.question.setAside?.includes(a.rowId) ? 'border-warning' : 'border-success'}`}
            >
              <span className="italic">{bench.question.setAside?.includes(a.rowId) ? t('bench.setAside') : t('bench.advice')}</span>{' '}
              {a.mark && <b>{a.mark} </b>}
              {a.sentence}
            </p>
          ))}
          {answer.price?.fault && <p className="fault mb-2 text-sm">{answer.price.fault}</p>}
          {answer.price?.margin?.isUnder && <UnderMargin margin={answer.price.margin} />}
          {tab !== 'Figures' && !structure && <NotYet bench={bench} />}
          {structure && answer.suggestions > 0 && (
            <p className="quiet mb-2 text-sm italic">
              {t('bench.asSuggestedNowSuggestions', { suggestions: suggestionsCounted(answer.suggestions) })}
            </p>
          )}
          {tab === 'Cost' && !structure && answer.valid && <TotalsSoFar revisionId={revisionId} bench={bench} />}
          {tab === 'Parts' && structure && <BomTree structure={structure} goTo={goTo} goToPick={goToAsked} />}
          {tab === 'Work' && structure && <Routing structure={structure} goTo={goTo} goToPick={goToAsked} />}
          {tab === 'Parts' && !structure && <LinesSoFar bench={bench} kind="part" />}
          {tab === 'Parts' && belowParts}
          {tab === 'Work' && !structure && <LinesSoFar bench={bench} kind="operation" />}
          {tab === 'Cost' && structure && answer.suggestions > 0 && (
            <div className="mb-4">
              <TotalsSoFar revisionId={revisionId} bench={bench} />
            </div>
          )}
          {tab === 'Cost' && structure && <AtQuantity revisionId={revisionId} bench={bench} goTo={goTo} />}
          {tab === 'Figures' && <Figures revisionId={revisionId} bench={bench} goTo={goTo} goToPick={goToAsked} />}
        </div>
      </section>
    </TriedOut>
  )
}

/** Price, cost and lead time of a quantity. */
function AtQuantity({ revisionId, bench, goTo }: { revisionId: number; bench: Bench; goTo?: GoTo }) {
  const [quantity, setQuantity] = useState('1')
  const costs = useQuery({
    queryKey: ['costs', revisionId, bench.question, quantity, bench.answer?.head],
    queryFn: ({ signal }) =>
      ask(
        client.POST('/api/revisions/{id}/costs', {
          params: { path: { id: revisionId } },
          body: { ...bench.question, quantity },
          signal,
        }),
      ),
    placeholderData: keepPreviousData,
    enabled: !bench.working,
  })
  return (
    <div className="grid grid-cols-[minmax(0,1fr)] gap-3">
      <div className="flex flex-wrap items-center gap-2">
        <span className="quiet italic">{t('bench.quantity')}</span>
        <TextField
          className="w-20 text-right"
          inputMode="numeric"
          aria-label={t('bench.quantity')}
          value={quantity}
          onCommit={(text) => setQuantity(text.trim() || '1')}
        />
        {bench.answer?.priced && <CustomerClassChoice bench={bench} />}
      </div>
      {costs.error && <p className="fault">{sentenceOf(costs.error)}</p>}
      {costs.data && <CostTime costs={costs.data} onRow={goTo} goToPick={goToAsked} />}
    </div>
  )
}

function NotYet({ bench }: { bench: Bench }) {
  const answer = bench.answer!
  return (
    <div className="mb-3 grid gap-1">
      {answer.clashes.length > 0 && <p>{t('bench.nothingCanBeBuiltWhilePicks')}</p>}
      {answer.missing.length > 0 && (
        <p>
          {t('bench.stillNeeded')}{' '}
          {answer.missing.map((m, i) => (
            <span key={m.path}>
              {i > 0 && ', '}
              <button className="link" onClick={() => goToAsked(m.path)}>
                {m.label}
              </button>
            </span>
          ))}
        </p>
      )}
      {answer.structureFaults.map((f) => (
        <p key={f.rowId + f.sentence} className="fault">
          {f.sentence}
        </p>
      ))}
    </div>
  )
}

/** While something is open: the lines that are there or may come over all that can still be picked, and what of them is suggested. Only “maybe” is marked. */
function LinesSoFar({ bench, kind }: { bench: Bench; kind: 'part' | 'operation' }) {
  const lines = bench.answer!.lines.filter((l) => l.state !== 'out' && l.kind === kind)
  if (lines.length === 0)
    return (
      <p className="quiet">{t('bench.nothingYetKindOfTheModel', { kind: kind === 'part' ? t('bench.partLines') : t('bench.operationLines') })}</p>
    )
  const differs = lines.some((l) => l.suggested !== l.state || (l.suggested !== 'out' && l.suggestedQuantity !== l.quantity))
  return (
    <table className="w-full">
      {differs && (
        <thead>
          <tr className="border-b hair quiet text-right text-sm italic">
            <th />
            <th className="py-0.5 pl-4 align-bottom font-normal whitespace-nowrap">{t('bench.asSuggestedNow')}</th>
            <th className="py-0.5 pl-4 align-bottom font-normal">{t('bench.overAllThatCanStillBe2')}</th>
          </tr>
        </thead>
      )}
      <tbody>
        {lines.map((l) => (
          <tr key={l.prefix + l.rowId} className="border-b hair">
            <td className="py-0.5">
              {l.state !== 'in' && <i className="quiet mr-1.5 text-sm">{t('bench.maybe')}</i>}
              {l.name} <span className="quiet">{l.description}</span>
            </td>
            {differs && (
              <td className="pl-4 text-right whitespace-nowrap">
                {l.suggested === 'out' ? <span className="quiet italic">{t('bench.notThere')}</span> : l.suggestedQuantity}
              </td>
            )}
            <td className="pl-4 text-right whitespace-nowrap">{l.quantity}</td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}
