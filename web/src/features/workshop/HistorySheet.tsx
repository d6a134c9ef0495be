import { useQuery } from '@tanstack/react-query'
import { ask, client, sentenceOf } from '../../api/client'
import { when } from '../../ui/format'
import { Sheet } from '../../ui/Sheet'
import { placeOf } from './model'
import { useWorkshop } from './Workshop'

/** Who changed what, the latest first. */
export function HistorySheet({ onClose }: { onClose: () => void }) {
  const { revisionId, document, goToRow } = useWorkshop()
  const history = useQuery({ queryKey: ['history', revisionId], queryFn: ({ signal }) => ask(client.GET('/api/revisions/{id}/history', { params: { path: { id: revisionId } }, signal })) })
  const undone = new Set(history.data?.flatMap((h) => (h.undoes === null ? [] : [h.undoes])))
  return (
    <Sheet title="History of this revision" onClose={onClose} wide>
      {history.error && <p className="fault">{sentenceOf(history.error)}</p>}
      {history.data?.length === 0 && <p className="quiet">Nothing has been changed since this revision was opened.</p>}
      <ol className="grid">
        {history.data?.map((h) => (
          <li key={h.sequence} className={`grid grid-cols-[3rem_5rem_5rem_minmax(0,1fr)] gap-2 border-b hair py-1 ${undone.has(h.sequence) ? 'opacity-60' : ''}`}>
            <span className="quiet text-right">{h.sequence}</span>
            <span>{when(h.madeAt)}</span>
            <span>{h.person}</span>
            <div className="min-w-0">
              {h.kind !== 'edit' && <i className="quiet">{h.kind} of {h.undoes}: </i>}
              {undone.has(h.sequence) && <i className="quiet">taken back: </i>}
              {h.changes.map((c, i) => {
                const place = placeOf(document, c.rowId)
                return (
                  <span key={i} className="block">
                    {place ? (
                      <button
                        className="link"
                        onClick={() => {
                          goToRow(place.assembly.id, c.rowId)
                          onClose()
                        }}
                      >
                        {c.name}
                      </button>
                    ) : (
                      <b className="font-semibold">{c.name}</b>
                    )}{' '}
                    {c.what}
                  </span>
                )
              })}
            </div>
          </li>
        ))}
      </ol>
    </Sheet>
  )
}
