import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { ask, client, sentenceOf } from '../../api/client'
import { t } from '../../texts'

/** What of an item is otherwise than it was at a baseline; nothing where there is no baseline. */
export function ItemAtBaseline({ number }: { number: string }) {
  const [chosen, setChosen] = useState('')
  const all = useQuery({ queryKey: ['baselines'], queryFn: ({ signal }) => ask(client.GET('/api/baselines', { signal })) })
  const difference = useQuery({
    queryKey: ['item', number, 'at', chosen],
    queryFn: async ({ signal }) =>
      (await ask(client.GET('/api/baselines/{id}/items/{number}', { params: { path: { id: chosen, number } }, signal }))) ?? null,
    enabled: chosen !== '',
  })
  if (!all.data || all.data.length === 0) return null
  const d = difference.data
  return (
    <section aria-label={t('library.againstABaseline')}>
      <h2 className="border-b hair pb-0.5 font-semibold">{t('library.againstABaseline')}</h2>
      <select
        className="select select-sm my-2 w-60"
        aria-label={t('library.againstABaseline')}
        value={chosen}
        onChange={(e) => setChosen(e.target.value)}
      >
        <option value="">{t('library.chooseABaseline')}</option>
        {all.data.map((b) => (
          <option key={b.id} value={b.id}>
            {b.name}
          </option>
        ))}
      </select>
      {difference.error && <p className="fault">{sentenceOf(difference.error)}</p>}
      {d === null && <p>{t('library.itIsAsItWas')}</p>}
      {d?.kind === 'added' && <p>{t('library.itWasNotThereThen')}</p>}
      {d?.fields.map((f) => (
        <p key={f.field} className="flex gap-3 border-b hair py-0.5">
          <span className="quiet w-40 italic">{f.field}</span>
          {f.before || '–'} → {f.after || '–'}
        </p>
      ))}
    </section>
  )
}
