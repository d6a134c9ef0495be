import { useInfiniteQuery } from '@tanstack/react-query'
import { ask, client, sentenceOf } from '../../api/client'
import { when } from '../../ui/format'
import { Sheet } from '../../ui/Sheet'
import { placeOf } from './model'
import { useWorkshop } from './Workshop'

/** Who changed what, the latest first. */
export function HistorySheet({ onClose }: { onClose: () => void }) {
  const { revisionId, document, goToRow } = useWorkshop()
  const history = useInfiniteQuery({
    queryKey: ['history', revisionId],
    queryFn: ({ signal, pageParam }) => ask(client.GET('/api/revisions/{id}/history', { params: { path: { id: revisionId }, query: pageParam === null ? {} : { before: pageParam } }, signal })),
    initialPageParam: null as number | null,
    // The last page is the one that has nothing older than its entries, which the next one tells.
    getNextPageParam: (page) => page.at(-1)?.sequence,
  })
  const entries = history.data?.pages.flat()
  const undone = new Set(entries?.flatMap((h) => (h.undoes === null ? [] : [h.undoes])))
  return (
    <Sheet title="History of this revision" onClose={onClose} wide>
      {history.error && <p className="fault">{sentenceOf(history.error)}</p>}
      {entries?.length === 0 && <p className="quiet">Nothing has been changed since this revision was opened.</p>}
      <ol className="grid">
        {entries?.map((h) => (
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
      {history.hasNextPage && entries!.at(-1)!.sequence > 1 && (
        <button className="act mt-3" disabled={history.isFetchingNextPage} onClick={() => void history.fetchNextPage()}>
          Earlier ones
        </button>
      )}
    </Sheet>
  )
}
