import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useSearchParams } from 'react-router'
import { ask, client, sentenceOf } from '../../api/client'
import { moment } from '../../ui/format'
import { ListTable } from '../../ui/ListTable'
import { SearchField } from '../../ui/SearchField'
import { TitleBlock } from '../../ui/TitleBlock'

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
  return (
    <div className="mx-auto grid max-w-6xl gap-4 p-5">
      <TitleBlock title="Configurations" sub="Saved answers, each on one revision" cells={[{ label: 'shown', value: list.length }]} />
      <SearchField
        label="Search configurations"
        value={search}
        onChange={(s) => setQuery({ ...(s && { search: s }), ...(product && { product }) }, { replace: true })}
      />
      {product && (
        <p>
          Only those of one product.{' '}
          <Link className="link" to="/configurations">
            Show all
          </Link>
        </p>
      )}
      {configurations.error && <p className="fault">{sentenceOf(configurations.error)}</p>}
      {configurations.data && list.length === 0 && (
        <p className="quiet">
          {search ? (
            `No configuration has “${search}” in its name, product or people.`
          ) : (
            <>
              Nothing saved yet. Choose a{' '}
              <Link className="link" to="/products">
                product
              </Link>{' '}
              with a released revision and configure it.
            </>
          )}
        </p>
      )}
      {list.length >= mostListed && <p className="quiet">The {mostListed} changed last are shown. Search to find others.</p>}
      {/* Its line is there before anything is ticked: nothing moves under the pointer. */}
      {list.length > 0 && (
        <p className="flex min-h-8 items-center gap-3">
          {ticked.length === 2 ? (
            <Link className="act act-main" to={`/compare?left=${ticked[0]}&right=${ticked[1]}`}>
              Compare the two
            </Link>
          ) : (
            <span className="quiet italic">{ticked.length === 0 ? 'Tick two to compare them.' : 'Tick one more to compare the two.'}</span>
          )}
          {ticked.length > 0 && (
            <button className="link" onClick={() => setTicked([])}>
              Untick
            </button>
          )}
        </p>
      )}
      {list.length > 0 && (
        <ListTable
          label="Configurations"
          rows={list}
          keyOf={(c) => c.id}
          columns={[
            {
              key: 'compare',
              name: 'Compare',
              isQuiet: true,
              look: 'w-8',
              cell: (c) => (
                <input
                  type="checkbox"
                  className="size-4 accent-primary"
                  aria-label={`Compare ${c.name}`}
                  checked={ticked.includes(c.id)}
                  onChange={(e) => setTicked(e.target.checked ? [...ticked, c.id].slice(-2) : ticked.filter((t) => t !== c.id))}
                />
              ),
            },
            {
              key: 'name',
              name: 'Name',
              text: (c) => c.name,
              cell: (c) => (
                <Link className="link" to={`/configurations/${c.id}`}>
                  {c.name}
                </Link>
              ),
            },
            {
              key: 'product',
              name: 'Product',
              text: (c) => `${c.productCode} ${c.productLabel}`,
              cell: (c) => (
                <>
                  <b className="font-semibold">{c.productCode}</b> {c.productLabel}
                </>
              ),
            },
            {
              key: 'revision',
              name: 'Revision',
              text: (c) => `${c.revisionNumber} ${c.revisionState}`,
              cell: (c) => (
                <>
                  {c.revisionNumber} <span className="quiet">{c.revisionState}</span>
                </>
              ),
            },
            { key: 'author', name: 'Author', text: (c) => c.author, cell: (c) => c.author },
            {
              key: 'changed',
              name: 'Changed',
              look: 'whitespace-nowrap',
              text: (c) => c.changedAt,
              cell: (c) => (
                <>
                  {moment(c.changedAt)} {c.changedBy !== c.author && <span className="quiet">by {c.changedBy}</span>}
                </>
              ),
            },
            {
              key: 'structure',
              name: 'Structure',
              text: (c) => (c.structureId ? 'open' : 'not generated'),
              cell: (c) =>
                c.structureId ? (
                  <Link className="link" to={`/structures/${c.structureId}`}>
                    open
                  </Link>
                ) : (
                  <span className="quiet">not generated</span>
                ),
            },
          ]}
        />
      )}
    </div>
  )
}
