import type { Schemas } from '../../api/client'
import { moment } from '../../ui/format'

/** Who asked for a release, with the note, and what came of it. */
export function ReviewLine({ review: r }: { review: Schemas['ReviewView'] }) {
  return (
    <div className="border-l-3 border-primary pl-3">
      <p>
        <b className="font-semibold">{r.askedBy}</b> asked for the release, {moment(r.askedAt)}
        {r.note && <>: “{r.note}”</>}
      </p>
      {r.outcome && r.answeredAt && (
        <p>
          <b className="font-semibold">{r.answeredBy}</b>{' '}
          {r.outcome === 'released' ? 'released it' : r.outcome === 'sent back' ? 'sent it back' : 'took it back'}, {moment(r.answeredAt)}
          {r.answer && <>: “{r.answer}”</>}
        </p>
      )}
    </div>
  )
}
