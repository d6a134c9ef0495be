import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'
import { ask, client, sentenceOf, type Schemas } from '../../api/client'
import { useRight } from '../../session/session'
import { Sheet } from '../../ui/Sheet'
import { placeOf } from './model'
import { ReviewLine, useReview } from '../reviews'
import { useWorkshop } from './Workshop'
import { t } from '../../texts'

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
    refetchInterval: (query) => (query.state.data?.pending ? 1_500 : false),
  })
  const review = useReview(revision.id)
  const act = useMutation({
    mutationFn: async (what: 'ask' | 'take back' | 'send back' | 'release') => {
      if (what === 'ask') return void (await ask(client.POST('/api/revisions/{id}/review', { params, body: { head: revision.head, note } })))
      if (what === 'take back') return void (await ask(client.DELETE('/api/revisions/{id}/review', { params })))
      if (what === 'send back') return void (await ask(client.POST('/api/revisions/{id}/review/return', { params, body: { note } })))
      queries.setQueryData(
        ['revision', revision.id],
        await ask(client.POST('/api/revisions/{id}/release', { params, body: { head: revision.head, note } })),
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
  const noteFor = mayRelease && isInReview ? t('workshop.whyItGoesBackIfIt') : t('workshop.whatTheApproverShouldKnow')

  return (
    <Sheet title={t('workshop.releaseOfRevisionNumber', { number: revision.number })} onClose={onClose}>
      {(check.error ?? act.error) && (
        <p role="alert" className="fault mb-2">
          {sentenceOf(check.error ?? act.error)}
        </p>
      )}
      {!c ? (
        <p className="quiet">{t('workshop.checkingThatEveryExpressionIsSound')}</p>
      ) : (
        <div className="grid gap-3">
          {review && <ReviewLine review={review} />}
          <p className="flex gap-4">
            <Link className="link" to={`/workshop/${revision.id}/review`} onClick={onClose}>
              {t('workshop.allAboutItOnOnePage')}
            </Link>
            {c.openRemarks > 0 && <span className="fault">{t('reviews.remarksAreOpen', { count: Number(c.openRemarks) })}</span>}
          </p>
          {c.ready ? <p>{t('workshop.everyExpressionIsSoundAndAt')}</p> : <Against check={c} onClose={onClose} />}
          {((mayEdit && !isInReview && c.ready) || (mayRelease && isInReview)) && (
            <label className="grid gap-0.5">
              <span className="quiet text-sm italic">{noteFor}</span>
              <textarea className="textarea min-h-16" maxLength={2000} value={note} onChange={(e) => setNote(e.target.value)} />
            </label>
          )}
          <div className="flex flex-wrap gap-2">
            {mayEdit && !isInReview && (
              <button className="btn btn-primary" disabled={!c.ready || act.isPending} onClick={() => act.mutate('ask')}>
                {t('workshop.askForItsRelease')}
              </button>
            )}
            {mayEdit && isInReview && (
              <button className="btn" disabled={act.isPending} onClick={() => act.mutate('take back')}>
                {t('workshop.takeItBackToEditIt')}
              </button>
            )}
            {mayRelease && (
              <button className="btn btn-primary" disabled={!c.ready || c.ownDraft || act.isPending} onClick={() => act.mutate('release')}>
                {t('workshop.releaseIt')}
              </button>
            )}
            {mayRelease && isInReview && (
              <button
                className="btn"
                disabled={note.trim() === '' || act.isPending}
                title={note.trim() === '' ? t('workshop.sayWhyFirst') : undefined}
                onClick={() => act.mutate('send back')}
              >
                {t('workshop.sendItBack')}
              </button>
            )}
          </div>
          {mayRelease && c.ownDraft && <p className="quiet">{t('workshop.aRevisionIsReleasedBySomeone')}</p>}
          {!mayRelease && <p className="quiet">{t('workshop.anApproverReleasesItTheOrder')}</p>}
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
      <p className="fault font-semibold">{t('workshop.againstTheRelease')}</p>
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
