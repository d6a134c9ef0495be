import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { ask, client, sentenceOf, type Schemas } from '../../api/client'
import { Sheet } from '../../ui/Sheet'
import { ReasonText } from '../bench/Reason'

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
    <Sheet title={`From revision ${configuration.revisionNumber} to ${configuration.newerNumber}`} onClose={onClose} wide>
      {(preview.error ?? move.error) && <p className="fault mb-2">{sentenceOf(preview.error ?? move.error)}</p>}
      {!p ? (
        <p className="quiet">Comparing …</p>
      ) : (
        <div className="grid gap-3">
          {p.clashes.map((c) => (
            <div key={c.number} className="hatched">
              <p className="fault font-semibold">Clash on the newer revision</p>
              <ReasonText reason={c.reason} />
            </div>
          ))}
          {p.missing.length > 0 && <p>Then still needed: {p.missing.map((m) => m.label).join(', ')}</p>}
          {p.faults.map((f) => (
            <p key={f.path} className="fault">
              {f.sentence}
            </p>
          ))}
          {p.noLongerAsked.length > 0 && (
            <p>No longer asked (the answers rest): {p.noLongerAsked.map((n) => `${n.label} = ${n.valueLabel}`).join(', ')}</p>
          )}
          {p.changes.length === 0 ? (
            <p>Nothing else changes: same answers, figures, parts and operations.</p>
          ) : (
            <table className="w-full">
              <thead className="quiet text-left text-sm">
                <tr className="border-b hair [&>th]:font-normal [&>th]:italic">
                  <th />
                  <th>What</th>
                  <th>On revision {configuration.revisionNumber}</th>
                  <th>On revision {configuration.newerNumber}</th>
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
            <button className="act act-main" disabled={move.isPending} onClick={() => move.mutate()}>
              Move it to revision {configuration.newerNumber}
            </button>
            <button className="act" onClick={onClose}>
              Leave it on revision {configuration.revisionNumber}
            </button>
          </div>
        </div>
      )}
    </Sheet>
  )
}
