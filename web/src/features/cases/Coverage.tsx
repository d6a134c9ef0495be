import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'
import { toast } from 'sonner'
import { ask, client, sentenceOf, type Schemas } from '../../api/client'
import { Waiting } from '../../ui/Waiting'
import { useCaseEdits } from './useCases'
import { t } from '../../texts'

type Kind = Schemas['CoverageOfKindView']['kind']

const nameOf: Record<Kind, string> = {
  rule: t('cases.rulesThatRuleSomethingOut'),
  value: t('cases.valuesThatAreHad'),
  there: t('cases.linesThatAreThere'),
  notThere: t('cases.linesThatAreLeftOut'),
  gridRow: t('cases.gridRowsThatMatch'),
}

/** What of the model the cases reach, and cases that would reach the rest, made by a click. */
export function Coverage({ revisionId, head, modelId, mayEdit }: { revisionId: number; head: number; modelId: string; mayEdit: boolean }) {
  const [wanted, setWanted] = useState(false)
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set())
  const { edit, undo } = useCaseEdits(revisionId)
  const coverage = useQuery({
    queryKey: ['caseCoverage', revisionId, head],
    queryFn: ({ signal }) => ask(client.GET('/api/revisions/{id}/cases/coverage', { params: { path: { id: revisionId } }, signal })),
    enabled: wanted,
    // While cases are still being asked, what they reach is not all known.
    refetchInterval: (query) => (query.state.data?.pending ? 1_500 : false),
    staleTime: Infinity,
  })
  const proposals = coverage.data?.proposals ?? []
  const chosen = proposals.filter((p) => !left.has(p.case.id))

  function make() {
    edit.mutate(
      chosen.map((p) => ({
        do: 'add' as const,
        parentId: modelId,
        collection: 'cases',
        afterId: null,
        row: { ...p.case, expected: p.case.expected.map((e) => ({ of: e.of, at: e.at, is: e.is })) } as never,
      })),
      {
        onSuccess: (id) =>
          toast(t('cases.madeCases', { n: chosen.length }), { action: { label: t('cases.undo'), onClick: () => undo.mutate(id) }, duration: 15_000 }),
      },
    )
  }

  return (
    <section aria-label={t('cases.whatTheyReach')} className="border hair p-3">
      <h2 className="font-semibold">{t('cases.whatTheyReach')}</h2>
      {!wanted && (
        <>
          <p className="quiet my-1 text-sm">{t('cases.whichRulesValuesLinesAndGrid')}</p>
          <button className="btn btn-sm" onClick={() => setWanted(true)}>
            {t('cases.find')}
          </button>
        </>
      )}
      {wanted && coverage.isPending && (
        <>
          <p className="quiet my-1 text-sm">{t('cases.askingWhatIsMissing')}</p>
          <Waiting />
        </>
      )}
      {coverage.error && <p className="fault">{sentenceOf(coverage.error)}</p>}
      {coverage.data && (
        <>
          <dl className="my-2 grid gap-1">
            {coverage.data.kinds.map((k) => (
              <div key={k.kind}>
                <div className="flex justify-between gap-2">
                  <dt>{nameOf[k.kind]}</dt>
                  <dd className={k.reached < k.all ? 'font-semibold' : 'quiet'}>{t('cases.reachedOfAll', { reached: k.reached, all: k.all })}</dd>
                </div>
                {k.missing.length > 0 && (
                  <details className="text-sm">
                    <summary className="link cursor-pointer">{t('cases.notReached')}</summary>
                    <ul className="ml-3 max-h-48 overflow-auto">
                      {k.missing.map((m) => (
                        <li key={`${m.rowId} ${m.part}`}>
                          <Link
                            className="link"
                            to={`/workshop/${revisionId}?assembly=${encodeURIComponent(m.assemblyId ?? '')}&row=${encodeURIComponent(m.rowId)}`}
                          >
                            {m.name}
                          </Link>{' '}
                          {m.part}
                        </li>
                      ))}
                    </ul>
                  </details>
                )}
              </div>
            ))}
          </dl>
          {coverage.data.pending && <p className="quiet text-sm italic">{t('cases.casesAreStillBeingAsked')}</p>}
          {!coverage.data.finished && !coverage.data.pending && <p className="quiet text-sm italic">{t('cases.timeRanOut')}</p>}
          {proposals.length === 0 && coverage.data.finished && <p className="quiet text-sm">{t('cases.nothingMoreCanBeReached')}</p>}
          {proposals.length > 0 && (
            <>
              <h3 className="mt-3 font-semibold">{t('cases.casesThatReachTheRest', { n: proposals.length })}</h3>
              <ul className="max-h-80 overflow-auto border-y hair text-sm">
                {proposals.map((p) => (
                  <li key={p.case.id} className="border-b hair py-0.5">
                    <label className="flex items-baseline gap-2">
                      <input
                        type="checkbox"
                        className="checkbox checkbox-xs translate-y-0.5"
                        checked={!left.has(p.case.id)}
                        onChange={(e) =>
                          setLeft((l) => {
                            const now = new Set(l)
                            if (e.target.checked) now.delete(p.case.id)
                            else now.add(p.case.id)
                            return now
                          })
                        }
                      />
                      <span>
                        {p.name}
                        <span className="quiet block">
                          {t('cases.reaches', {
                            what: p.reaches
                              .slice(0, 4)
                              .map((r) => `${r.name} ${r.part}`.trim())
                              .join('; '),
                          })}
                          {p.reaches.length > 4 && ` +${p.reaches.length - 4}`}
                        </span>
                      </span>
                    </label>
                  </li>
                ))}
              </ul>
              {mayEdit && (
                <button className="btn btn-sm mt-2" disabled={chosen.length === 0 || edit.isPending} onClick={make}>
                  {t('cases.makeTheseCases', { n: chosen.length })}
                </button>
              )}
              <p className="quiet mt-1 text-sm">{t('cases.whatComesOutNowIsExpected')}</p>
            </>
          )}
          {edit.error && <p className="fault text-sm">{sentenceOf(edit.error)}</p>}
        </>
      )}
    </section>
  )
}
