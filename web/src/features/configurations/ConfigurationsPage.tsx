import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useSearchParams } from 'react-router'
import { ask, client, sentenceOf } from '../../api/client'
import { when } from '../../ui/format'
import { SearchField } from '../../ui/SearchField'
import { TitleBlock } from '../../ui/TitleBlock'

/** As many as the server lists at most. */
const mostListed = 500

export function ConfigurationsPage() {
  const [query, setQuery] = useSearchParams()
  const search = query.get('search') ?? ''
  const configurations = useQuery({
    queryKey: ['configurations', search],
    queryFn: ({ signal }) => ask(client.GET('/api/configurations', { params: { query: { search } }, signal })),
    placeholderData: keepPreviousData,
  })
  const list = configurations.data ?? []
  const [ticked, setTicked] = useState<string[]>([])
  return (
    <div className="mx-auto grid max-w-6xl gap-4 p-5">
      <TitleBlock title="Configurations" sub="Saved answers, each on one revision" cells={[{ label: 'shown', value: list.length }]} />
      <SearchField label="Search configurations" value={search} onChange={(s) => setQuery(s ? { search: s } : {}, { replace: true })} />
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
      {ticked.length > 0 && (
        <p className="flex items-center gap-3">
          {ticked.length === 2 ? (
            <Link className="act act-main" to={`/compare?left=${ticked[0]}&right=${ticked[1]}`}>
              Compare the two
            </Link>
          ) : (
            <span className="quiet italic">Tick one more to compare the two.</span>
          )}
          <button className="link" onClick={() => setTicked([])}>
            Untick
          </button>
        </p>
      )}
      {list.length > 0 && (
        <table className="w-full">
          <thead className="quiet text-left text-sm">
            <tr className="border-b hair [&>th]:py-1 [&>th]:pr-4 [&>th]:font-normal [&>th]:italic">
              <th className="w-8">
                <span className="sr-only">Compare</span>
              </th>
              <th>Name</th>
              <th>Product</th>
              <th>Revision</th>
              <th>Author</th>
              <th>Changed</th>
              <th>Structure</th>
            </tr>
          </thead>
          <tbody>
            {list.map((c) => (
              <tr key={c.id} className="border-b hair hover:bg-base-200 [&>td]:py-1.5 [&>td]:pr-4">
                <td>
                  <input
                    type="checkbox"
                    className="size-4 accent-primary"
                    aria-label={`Compare ${c.name}`}
                    checked={ticked.includes(c.id)}
                    onChange={(e) => setTicked(e.target.checked ? [...ticked, c.id].slice(-2) : ticked.filter((t) => t !== c.id))}
                  />
                </td>
                <td>
                  <Link className="link" to={`/configurations/${c.id}`}>
                    {c.name}
                  </Link>
                </td>
                <td>
                  <b className="font-semibold">{c.productCode}</b> {c.productLabel}
                </td>
                <td>
                  {c.revisionNumber} <span className="quiet">{c.revisionState}</span>
                </td>
                <td>{c.author}</td>
                <td className="whitespace-nowrap">
                  {when(c.changedAt)} {c.changedBy !== c.author && <span className="quiet">by {c.changedBy}</span>}
                </td>
                <td>
                  {c.structureId ? (
                    <Link className="link" to={`/structures/${c.structureId}`}>
                      open
                    </Link>
                  ) : (
                    <span className="quiet">not generated</span>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </div>
  )
}
