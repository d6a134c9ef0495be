import type { Schemas } from '../../api/client'
import { moment } from '../../ui/format'
import { t } from '../../texts'

/** Who asked for a release, with the note, and what came of it. */
export function ReviewLine({ review: r }: { review: Schemas['ReviewView'] }) {
  return (
    <div className="border-l-3 border-primary pl-3">
      <p>
        <b className="font-semibold">{r.askedBy}</b> {t('workshop.askedForTheReleaseAskedAt', { askedAt: moment(r.askedAt) })}
        {r.note && <>: “{r.note}”</>}
      </p>
      {r.outcome && r.answeredAt && (
        <p>
          <b className="font-semibold">{r.answeredBy}</b>{' '}
          {r.outcome === 'released' ? t('workshop.releasedIt') : r.outcome === 'sent back' ? t('workshop.sentItBack') : t('workshop.tookItBack')},{' '}
          {moment(r.answeredAt)}
          {r.answer && <>: “{r.answer}”</>}
        </p>
      )}
    </div>
  )
}
