import { useQuery } from '@tanstack/react-query'
import { ask, client, sentenceOf } from '../../../api/client'
import { Sheet } from '../../../ui/Sheet'
import { fieldsOf } from '../fields'
import { placeOf } from '../model'
import { useWorkshop } from '../Workshop'
import { t } from '../../../texts'

/** Where something of the model is named, each place a link. */
export function UsesSheet({ id, name, onClose }: { id: string; name: string; onClose: () => void }) {
  const { revisionId, document, goToRow, goToList, model } = useWorkshop()
  const uses = useQuery({
    queryKey: ['uses', revisionId, id, model.revision?.head],
    queryFn: ({ signal }) => ask(client.GET('/api/revisions/{id}/rows/{rowId}/uses', { params: { path: { id: revisionId, rowId: id } }, signal })),
  })
  return (
    <Sheet title={t('workshop.whereNameIsUsed', { name })} onClose={onClose}>
      {uses.isPending && <p className="quiet">{t('workshop.oneMoment')}</p>}
      {uses.error && <p className="fault">{sentenceOf(uses.error)}</p>}
      {uses.data?.length === 0 && <p className="quiet">{t('workshop.nothingInThisModelNamesIt')}</p>}
      <ul>
        {uses.data?.map((u) => {
          const place = placeOf(document, u.rowId)
          const label = place && fieldsOf[place.row.kind].find((f) => f.field === u.field.split('/')[0])?.label
          return (
            <li key={u.rowId + u.field}>
              <button
                className="flex w-full items-baseline gap-2 py-0.5 text-left hover:bg-base-200"
                onClick={() => {
                  onClose()
                  if (place) goToRow(place.assembly.id, u.rowId)
                  else goToList(u.rowId)
                }}
              >
                <span className="link">{u.name}</span>
                <span className="quiet text-sm">{[label, place?.assembly.label.en ?? place?.assembly.name].filter(Boolean).join(', in ')}</span>
              </button>
            </li>
          )
        })}
      </ul>
    </Sheet>
  )
}
