import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'
import { ask, client, sentenceOf, type Schemas } from '../../api/client'
import { Sheet } from '../../ui/Sheet'
import { t } from '../../texts'

/** What a configuration came to at a baseline, held against what it comes to on its revision. */
export function AtBaseline({ configuration: c, onClose }: { configuration: Schemas['ConfigurationView']; onClose: () => void }) {
  const [chosen, setChosen] = useState('')
  const all = useQuery({ queryKey: ['baselines'], queryFn: ({ signal }) => ask(client.GET('/api/baselines', { signal })) })
  const baseline = useQuery({
    queryKey: ['baseline', chosen],
    queryFn: ({ signal }) => ask(client.GET('/api/baselines/{id}', { params: { path: { id: chosen } }, signal })),
    enabled: chosen !== '',
  })
  const then = baseline.data?.products.find((p) => p.productId === c.productId)
  const compared = useQuery({
    queryKey: ['move', c.id, c.version, then?.thenId],
    queryFn: ({ signal }) =>
      ask(client.GET('/api/configurations/{id}/move', { params: { path: { id: c.id }, query: { to: then!.thenId } }, signal })),
    enabled: then !== undefined && then.thenId !== c.revisionId,
  })
  const error = all.error ?? baseline.error ?? compared.error
  return (
    <Sheet title={t('configurations.atABaseline')} onClose={onClose} wide>
      <div className="grid gap-3">
        <select className="select w-72" aria-label={t('configurations.baseline')} value={chosen} onChange={(e) => setChosen(e.target.value)}>
          <option value="">{t('configurations.chooseABaseline')}</option>
          {all.data?.map((b) => (
            <option key={b.id} value={b.id}>
              {b.name}
            </option>
          ))}
        </select>
        {all.data?.length === 0 && (
          <p className="quiet">
            {t('configurations.noBaselineYet')}{' '}
            <Link className="link" to="/baselines">
              {t('configurations.makeOne')}
            </Link>
          </p>
        )}
        {error && <p className="fault">{sentenceOf(error)}</p>}
        {baseline.data && !then && <p>{t('configurations.productWasNotReleased')}</p>}
        {then?.thenId === c.revisionId && <p>{t('configurations.sameRevisionAtBaseline', { number: then.then })}</p>}
        {compared.isLoading && <p className="quiet">{t('configurations.comparing')}</p>}
        {compared.data && then && (
          <>
            {compared.data.valid === false && <p className="fault">{t('configurations.didNotStandThen', { number: then.then })}</p>}
            {compared.data.changes.length === 0 && <p>{t('configurations.cameToTheSame', { number: then.then })}</p>}
            {compared.data.changes.length > 0 && (
              <table className="w-full" aria-label={t('configurations.atABaseline')}>
                <thead className="quiet text-left text-sm">
                  <tr className="border-b hair [&>th]:py-1 [&>th]:pr-4 [&>th]:font-normal [&>th]:italic">
                    <th>{t('configurations.what')}</th>
                    <th>{t('configurations.thenRevision', { number: then.then })}</th>
                    <th>{t('configurations.nowRevision', { number: c.revisionNumber })}</th>
                  </tr>
                </thead>
                <tbody>
                  {compared.data.changes.map((x) => (
                    <tr key={x.kind + x.name} className="border-b hair [&>td]:py-1 [&>td]:pr-4">
                      <td>{x.name}</td>
                      <td>{x.after || '–'}</td>
                      <td>{x.before || '–'}</td>
                    </tr>
                  ))}
                </tbody>
              </table>
            )}
          </>
        )}
      </div>
    </Sheet>
  )
}
