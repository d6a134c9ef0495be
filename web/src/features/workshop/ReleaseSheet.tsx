import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { ask, client, sentenceOf, type Schemas } from '../../api/client'
import { useRight } from '../../app/session'
import { Sheet } from '../../ui/Sheet'
import { placeOf } from './model'
import { ReviewLine } from './ReviewLine'
import { useReview } from './useReview'
import { useWorkshop } from './Workshop'

/** What stands against a release; asking for it, taking that back, sending it back, and the release itself by someone who did not write the draft. */
export function ReleaseSheet({ revision, onClose }: { revision: Schemas['RevisionView']; onClose: () => void }) {
  const mayRelease = useRight('release')
  const mayEdit = useRight('edit')
  const queries = useQueryClient()
  const [note, setNote] = useState('')
  const params = { path: { id: revision.id } }
  const check = useQuery({
    queryKey: ['release', revision.id, revision.head],
    queryFn: ({ signal }) => ask(client.GET('/api/revisions/{id}/release', { params, signal })),
  })
  const review = useReview(revision.id)
  const act = useMutation({
    mutationFn: async (what: 'ask' | 'take back' | 'send back' | 'release') => {
      if (what === 'ask') return void (await ask(client.POST('/api/revisions/{id}/review', { params, body: { head: revision.head, note } })))
      if (what === 'take back') return void (await ask(client.DELETE('/api/revisions/{id}/review', { params })))
      if (what === 'send back') return void (await ask(client.POST('/api/revisions/{id}/review/return', { params, body: { note } })))
      queries.setQueryData(
        ['revision', revision.id],
        await ask(client.POST('/api/revisions/{id}/release', { params, body: { head: revision.head } })),
      )
    },
    onSuccess: async () => {
      await queries.invalidateQueries({
        predicate: (q) => ['revision', 'review', 'reviews', 'products', 'revisions', 'product'].includes(String(q.queryKey[0])),
      })
      onClose()
    },
  })
  const c = check.data
  const isInReview = revision.state === 'in review'
  const noteFor = mayRelease && isInReview ? 'Why it goes back, if it does' : 'What the approver should know'

  return (
    <Sheet title={`Release of revision ${revision.number}`} onClose={onClose}>
      {(check.error ?? act.error) && (
        <p role="alert" className="fault mb-2">
          {sentenceOf(check.error ?? act.error)}
        </p>
      )}
      {!c ? (
        <p className="quiet">Checking that every expression is sound and that something can be configured …</p>
      ) : (
        <div className="grid gap-3">
          {review && <ReviewLine review={review} />}
          {c.ready ? <p>Every expression is sound, and at least one complete configuration exists.</p> : <Against check={c} onClose={onClose} />}
          {((mayEdit && !isInReview && c.ready) || (mayRelease && isInReview)) && (
            <label className="grid gap-0.5">
              <span className="quiet text-sm italic">{noteFor}</span>
              <textarea className="field min-h-16" maxLength={2000} value={note} onChange={(e) => setNote(e.target.value)} />
            </label>
          )}
          <div className="flex flex-wrap gap-2">
            {mayEdit && !isInReview && (
              <button className="act act-main" disabled={!c.ready || act.isPending} onClick={() => act.mutate('ask')}>
                Ask for its release
              </button>
            )}
            {mayEdit && isInReview && (
              <button className="act" disabled={act.isPending} onClick={() => act.mutate('take back')}>
                Take it back to edit it
              </button>
            )}
            {mayRelease && (
              <button className="act act-main" disabled={!c.ready || c.ownDraft || act.isPending} onClick={() => act.mutate('release')}>
                Release it
              </button>
            )}
            {mayRelease && isInReview && (
              <button
                className="act"
                disabled={note.trim() === '' || act.isPending}
                title={note.trim() === '' ? 'Say why first' : undefined}
                onClick={() => act.mutate('send back')}
              >
                Send it back
              </button>
            )}
          </div>
          {mayRelease && c.ownDraft && <p className="quiet">A revision is released by someone else than its author.</p>}
          {!mayRelease && <p className="quiet">An approver releases it; the order desk can configure it from then on, and it stays as it is.</p>}
        </div>
      )}
    </Sheet>
  )
}

/** What stands against it, each fault with the way to it. */
function Against({ check, onClose }: { check: Schemas['ReleaseCheck']; onClose: () => void }) {
  const { document, goToRow } = useWorkshop()
  return (
    <div className="grid gap-1">
      <p className="fault font-semibold">Against the release:</p>
      {check.problems.map((p) => (
        <p key={p}>{p}</p>
      ))}
      {check.findings.map((f) => {
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
  )
}
