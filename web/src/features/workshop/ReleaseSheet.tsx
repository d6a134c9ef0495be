import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { ask, client, sentenceOf, type Schemas } from '../../api/client'
import { useRight } from '../../app/session'
import { Sheet } from '../../ui/Sheet'
import { placeOf } from './model'
import { useWorkshop } from './Workshop'

/** What stands against a release, and the release itself for an approver who did not write the draft. */
export function ReleaseSheet({ revision, onClose }: { revision: Schemas['RevisionView']; onClose: () => void }) {
  const { document, goToRow } = useWorkshop()
  const mayRelease = useRight('release')
  const queries = useQueryClient()
  const params = { path: { id: revision.id } }
  const check = useQuery({ queryKey: ['release', revision.id, revision.head], queryFn: ({ signal }) => ask(client.GET('/api/revisions/{id}/release', { params, signal })) })
  const release = useMutation({
    mutationFn: () => ask(client.POST('/api/revisions/{id}/release', { params, body: { head: revision.head } })),
    onSuccess: (released) => {
      queries.setQueryData(['revision', revision.id], released)
      void queries.invalidateQueries({ queryKey: ['products'] })
      onClose()
    },
  })
  const c = check.data
  return (
    <Sheet title={`Release of revision ${revision.number}`} onClose={onClose}>
      {(check.error ?? release.error) && <p className="fault mb-2">{sentenceOf(check.error ?? release.error)}</p>}
      {!c ? (
        <p className="quiet">Checking that every expression is sound and that something can be configured …</p>
      ) : (
        <div className="grid gap-3">
          {c.ready ? (
            <p>Every expression is sound, and at least one complete configuration exists.</p>
          ) : (
            <div className="grid gap-1">
              <p className="fault font-semibold">Against the release:</p>
              {c.problems.map((p) => (
                <p key={p}>{p}</p>
              ))}
              {c.findings.map((f) => {
                const place = placeOf(document, f.rowId)
                return (
                  <button
                    key={f.rowId + f.field + f.message}
                    className="link text-left"
                    disabled={!place}
                    onClick={() => {
                      if (place) goToRow(place.assembly.id, f.rowId)
                      onClose()
                    }}
                  >
                    {f.message}
                  </button>
                )
              })}
            </div>
          )}
          {mayRelease ? (
            <div>
              <button className="act act-main" disabled={!c.ready || c.ownDraft || release.isPending} onClick={() => release.mutate()}>
                Release it
              </button>
              {c.ownDraft && <p className="quiet">A revision is released by someone else than its author.</p>}
            </div>
          ) : (
            <p className="quiet">An approver releases it; the order desk can configure it from then on, and it stays as it is.</p>
          )}
        </div>
      )}
    </Sheet>
  )
}
