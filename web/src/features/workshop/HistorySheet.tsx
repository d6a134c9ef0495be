import { useInfiniteQuery, useQuery } from '@tanstack/react-query'
import { ask, client, sentenceOf, type Schemas } from '../../api/client'
import { moment } from '../../ui/format'
import { Sheet } from '../../ui/Sheet'
import { placeOf } from './model'
import { useWorkshop } from './Workshop'
import { t } from '../../texts'

/** Who changed what, the latest first. */
export function HistorySheet({ onClose }: { onClose: () => void }) {
  const { revisionId, document, goToRow, model } = useWorkshop()
  const productId = model.revision?.productId
  const revisions = useQuery({
    queryKey: ['revisions', productId],
    queryFn: ({ signal }) => ask(client.GET('/api/products/{productId}/revisions', { params: { path: { productId: productId! } }, signal })),
    enabled: productId !== undefined,
  })
  const history = useInfiniteQuery({
    queryKey: ['history', revisionId, 'all'],
    queryFn: async ({ signal, pageParam: { of, before } }) => ({
      of,
      entries: await ask(
        client.GET('/api/revisions/{id}/history', { params: { path: { id: of }, query: before === null ? {} : { before } }, signal }),
      ),
    }),
    initialPageParam: { of: revisionId, before: null as number | null },
    // After the first entry of a revision come those of the one before it.
    getNextPageParam: ({ of, entries }) => {
      const first = entries.at(-1)?.sequence ?? 1
      if (first > 1) return { of, before: first }
      const number = revisions.data?.find((r) => r.id === of)?.number
      const earlier = revisions.data?.find((r) => number !== undefined && r.number < number)
      return earlier ? { of: earlier.id, before: null } : undefined
    },
  })
  const pages = history.data?.pages ?? []
  const undone = new Set(pages.flatMap((p) => p.entries.flatMap((h) => (h.undoes === null ? [] : [`${p.of} ${h.undoes}`]))))
  return (
    <Sheet title={t('workshop.historyOfThisRevision')} onClose={onClose} wide>
      {history.error && <p className="fault">{sentenceOf(history.error)}</p>}
      {pages[0]?.entries.length === 0 && <p className="quiet">{t('workshop.nothingHasBeenChangedSinceThis')}</p>}
      {pages.map(({ of, entries }, n) => (
        <div key={n}>
          {n > 0 && pages[n - 1]!.of !== of && <RevisionHead revision={revisions.data?.find((r) => r.id === of)} isEmpty={entries.length === 0} />}
          <ol className="grid">
            {entries.map((h) => (
              <li
                key={h.sequence}
                className={`grid grid-cols-[3rem_9.5rem_5rem_minmax(0,1fr)] gap-2 border-b hair py-1 ${undone.has(`${of} ${h.sequence}`) ? 'opacity-60' : ''}`}
              >
                <span className="quiet text-right">{h.sequence}</span>
                <span>{moment(h.madeAt)}</span>
                <span>{h.person}</span>
                <div className="min-w-0">
                  {h.kind !== 'edit' && (
                    <i className="quiet">
                      {t('workshop.kindOf', { kind: h.kind })} {h.undoes}:{' '}
                    </i>
                  )}
                  {undone.has(`${of} ${h.sequence}`) && <i className="quiet">{t('workshop.takenBack')} </i>}
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
        </div>
      ))}
      {history.hasNextPage && (
        <button className="btn mt-3" disabled={history.isFetchingNextPage} onClick={() => void history.fetchNextPage()}>
          {(pages.at(-1)?.entries.at(-1)?.sequence ?? 1) > 1 ? t('workshop.earlierOnes') : t('workshop.thoseOfTheRevisionBefore')}
        </button>
      )}
    </Sheet>
  )
}

/** Where the history of an earlier revision begins. */
function RevisionHead({ revision: r, isEmpty }: { revision: Schemas['RevisionEntryView'] | undefined; isEmpty: boolean }) {
  if (!r) return null
  return (
    <p className="mt-3 border-b border-base-content/60 py-1">
      <b className="font-semibold">{t('workshop.revisionNumber', { number: r.number })}</b> {t('workshop.byAuthor', { author: r.author })}
      {r.releasedAt && t('workshop.releasedByReleasedByReleasedAt', { releasedBy: r.releasedBy, releasedAt: moment(r.releasedAt) })}
      {isEmpty && <span className="quiet">{t('workshop.itWasTakenInAsIt')}</span>}
    </p>
  )
}
