import { keepPreviousData, useMutation, useQuery } from '@tanstack/react-query'
import { Copy } from 'lucide-react'
import { useState } from 'react'
import { Link, useNavigate, useSearchParams } from 'react-router'
import { toast } from 'sonner'
import { ask, client, sentenceOf, type Schemas } from '../../api/client'
import { useRight } from '../../session/session'
import { moment } from '../../ui/format'
import { ListTable } from '../../ui/ListTable'
import { SearchField } from '../../ui/SearchField'
import { TitleBlock } from '../../ui/TitleBlock'
import { draftFrom } from './drafts'
import { t } from '../../texts'

/** As many as the server lists at most. */
const mostListed = 500

export function ConfigurationsPage() {
  const [query, setQuery] = useSearchParams()
  const search = query.get('search') ?? ''
  const product = query.get('product')
  const configurations = useQuery({
    queryKey: ['configurations', search, product],
    queryFn: ({ signal }) => ask(client.GET('/api/configurations', { params: { query: { search, ...(product && { product }) } }, signal })),
    placeholderData: keepPreviousData,
  })
  const list = configurations.data ?? []
  const [ticked, setTicked] = useState<string[]>([])
  const mayConfigure = useRight('configure')
  const go = useNavigate()
  const copy = useMutation({
    mutationFn: (id: string) => ask(client.GET('/api/configurations/{id}', { params: { path: { id } } })),
    onSuccess: ({ name, revisionId, picks, site, date, customerClass }) =>
      go(draftFrom(t('configurations.copyOf', { name }), revisionId, { picks, site, date, customerClass })),
    onError: (e) => toast.error(sentenceOf(e), { closeButton: true, duration: 15_000 }),
  })
  return (
    <div className="mx-auto grid max-w-6xl gap-4 p-5">
      <TitleBlock
        title={t('configurations.configurations2')}
        sub={t('configurations.savedAnswersEachOnOneRevision')}
        cells={[{ label: t('configurations.shown'), value: list.length }]}
        actions={
          <Link className="btn" to="/concessions">
            {t('configurations.concessions')}
          </Link>
        }
      />
      <SearchField
        label={t('configurations.searchConfigurations')}
        value={search}
        onChange={(s) => setQuery({ ...(s && { search: s }), ...(product && { product }) }, { replace: true })}
      />
      {product && (
        <p>
          {t('configurations.onlyThoseOfOneProduct')}{' '}
          <Link className="link" to="/configurations">
            {t('configurations.showAll')}
          </Link>
        </p>
      )}
      {configurations.error && <p className="fault">{sentenceOf(configurations.error)}</p>}
      {configurations.data && list.length === 0 && (
        <p className="quiet">
          {search ? (
            t('configurations.noConfigurationHasSearchInIts', { search })
          ) : (
            <>
              {t('configurations.nothingSavedYetChooseA')}{' '}
              <Link className="link" to="/products">
                {t('configurations.product')}
              </Link>{' '}
              {t('configurations.withAReleasedRevisionAndConfigure')}
            </>
          )}
        </p>
      )}
      {list.length >= mostListed && <p className="quiet">{t('configurations.theMostListedChangedLastAreShown', { mostListed })}</p>}
      {/* Its line is there before anything is ticked: nothing moves under the pointer. */}
      {list.length > 0 && (
        <p className="flex min-h-8 items-center gap-3">
          {ticked.length === 2 ? (
            <Link className="btn btn-primary" to={`/compare?left=${ticked[0]}&right=${ticked[1]}`}>
              {t('configurations.compareTheTwo')}
            </Link>
          ) : (
            <span className="quiet italic">
              {ticked.length === 0 ? t('configurations.tickTwoToCompareThem') : t('configurations.tickOneMoreToCompareThe')}
            </span>
          )}
          {ticked.length > 0 && (
            <button className="link" onClick={() => setTicked([])}>
              {t('configurations.untick')}
            </button>
          )}
        </p>
      )}
      {list.length > 0 && (
        <ListTable
          label={t('configurations.configurations2')}
          place="configurations"
          rows={list}
          keyOf={(c) => c.id}
          columns={[
            {
              key: 'compare',
              name: t('configurations.compare'),
              isQuiet: true,
              look: 'w-8',
              cell: (c) => (
                <input
                  type="checkbox"
                  className="size-4 accent-primary"
                  aria-label={t('configurations.compareName', { name: c.name })}
                  checked={ticked.includes(c.id)}
                  onChange={(e) => setTicked(e.target.checked ? [...ticked, c.id].slice(-2) : ticked.filter((t) => t !== c.id))}
                />
              ),
            },
            {
              key: 'name',
              name: t('configurations.name'),
              text: (c) => c.name,
              cell: (c) => (
                <>
                  <Link className="link" to={`/configurations/${c.id}`}>
                    {c.name}
                  </Link>
                  {c.matches.map((m) => (
                    <span key={m} className="quiet block text-sm">
                      {m}
                    </span>
                  ))}
                </>
              ),
            },
            {
              key: 'product',
              name: t('configurations.product2'),
              text: (c) => `${c.productCode} ${c.productLabel}`,
              cell: (c) => (
                <>
                  <b className="font-semibold">{c.productCode}</b> {c.productLabel}
                </>
              ),
            },
            {
              key: 'revision',
              name: t('configurations.revision'),
              text: (c) => `${c.revisionNumber} ${c.revisionState}`,
              cell: (c) => (
                <>
                  {c.revisionNumber} <span className="quiet">{c.revisionState}</span>
                </>
              ),
            },
            { key: 'author', name: t('configurations.author'), text: (c) => c.author, cell: (c) => c.author },
            {
              key: 'changed',
              name: t('configurations.changed'),
              look: 'whitespace-nowrap',
              text: (c) => c.changedAt,
              cell: (c) => (
                <>
                  {moment(c.changedAt)}{' '}
                  {c.changedBy !== c.author && <span className="quiet">{t('configurations.byChangedBy', { changedBy: c.changedBy })}</span>}
                </>
              ),
            },
            {
              key: 'structure',
              name: t('configurations.structure'),
              text: (c) => (c.structureId ? t('configurations.open') : t('configurations.notGenerated')),
              cell: (c) =>
                c.structureId ? (
                  <Link className="link" to={`/structures/${c.structureId}`}>
                    {t('configurations.open')}
                  </Link>
                ) : (
                  <span className="quiet">{t('configurations.notGenerated')}</span>
                ),
            },
            ...(mayConfigure
              ? [
                  {
                    key: 'copy',
                    name: t('configurations.copy'),
                    isQuiet: true,
                    cell: (c: Schemas['ConfigurationEntryView']) => (
                      <button className="btn btn-sm" aria-label={t('configurations.copyName', { name: c.name })} onClick={() => copy.mutate(c.id)}>
                        <Copy className="size-3.5" /> {t('configurations.copy')}
                      </button>
                    ),
                  },
                ]
              : []),
          ]}
        />
      )}
    </div>
  )
}
