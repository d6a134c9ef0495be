import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { ask, client, sentenceOf, type Schemas } from '../../api/client'
import { Sheet } from '../../ui/Sheet'
import { ReasonText } from '../bench'
import { t } from '../../texts'

/** What moving a configuration to the newer revision changes, before it is done. */
export function MovePanel({ configuration, onClose }: { configuration: Schemas['ConfigurationView']; onClose: () => void }) {
  const queries = useQueryClient()
  const to = configuration.newerRevisionId!
  const preview = useQuery({
    queryKey: ['move', configuration.id, configuration.version, to],
    queryFn: ({ signal }) => ask(client.GET('/api/configurations/{id}/move', { params: { path: { id: configuration.id }, query: { to } }, signal })),
  })
  const move = useMutation({
    mutationFn: () =>
      ask(
        client.POST('/api/configurations/{id}/move', {
          params: { path: { id: configuration.id } },
          body: { revisionId: to, version: configuration.version },
        }),
      ),
    onSuccess: (stored) => {
      queries.setQueryData(['configuration', stored.id], stored)
      void queries.invalidateQueries({ queryKey: ['configurations'] })
      onClose()
    },
  })
  const p = preview.data
  return (
    <Sheet
      title={t('configurations.fromRevisionRevisionNumberToNewerNumber', {
        revisionNumber: configuration.revisionNumber,
        newerNumber: configuration.newerNumber,
      })}
      onClose={onClose}
      wide
    >
      {(preview.error ?? move.error) && <p className="fault mb-2">{sentenceOf(preview.error ?? move.error)}</p>}
      {!p ? (
        <p className="quiet">{t('configurations.comparing')}</p>
      ) : (
        <div className="grid gap-3">
          {p.clashes.map((c) => (
            <div key={c.number} className="hatched">
              <p className="fault font-semibold">{t('configurations.clashOnTheNewerRevision')}</p>
              <ReasonText reason={c.reason} />
            </div>
          ))}
          {p.missing.length > 0 && <p>{t('configurations.thenStillNeeded', { questions: p.missing.map((m) => m.label).join(', ') })}</p>}
          {p.faults.map((f) => (
            <p key={f.path} className="fault">
              {f.sentence}
            </p>
          ))}
          {p.noLongerAsked.length > 0 && (
            <p>{t('configurations.noLongerAsked', { questions: p.noLongerAsked.map((n) => `${n.label} = ${n.valueLabel}`).join(', ') })}</p>
          )}
          {p.changes.length === 0 ? (
            <p>{t('configurations.nothingElseChangesSameAnswersFigures')}</p>
          ) : (
            <table className="w-full">
              <thead className="quiet text-left text-sm">
                <tr className="border-b hair [&>th]:font-normal [&>th]:italic">
                  <th />
                  <th>{t('configurations.what')}</th>
                  <th>{t('configurations.onRevisionRevisionNumber', { revisionNumber: configuration.revisionNumber })}</th>
                  <th>
                    {t('configurations.onRevision')} {configuration.newerNumber}
                  </th>
                </tr>
              </thead>
              <tbody>
                {p.changes.map((c) => (
                  <tr key={c.kind + c.name + c.before + c.after} className="border-b hair align-top [&>td]:py-0.5 [&>td]:pr-3">
                    <td className="quiet italic">{c.kind}</td>
                    <td>{c.name}</td>
                    <td>{c.before || '–'}</td>
                    <td>{c.after || '–'}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
          <div className="flex gap-2">
            <button className="btn btn-primary" disabled={move.isPending} onClick={() => move.mutate()}>
              {t('configurations.moveItToRevision')} {configuration.newerNumber}
            </button>
            <button className="btn" onClick={onClose}>
              {t('configurations.leaveItOnRevisionRevisionNumber', { revisionNumber: configuration.revisionNumber })}
            </button>
          </div>
        </div>
      )}
    </Sheet>
  )
}
