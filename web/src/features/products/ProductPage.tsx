import { useMutation, useQuery } from '@tanstack/react-query'
import { Download } from 'lucide-react'
import { Link, Navigate, useNavigate, useParams, useSearchParams } from 'react-router'
import { ask, client, sentenceOf } from '../../api/client'
import { useRight } from '../../app/session'
import { when } from '../../ui/format'
import { TitleBlock } from '../../ui/TitleBlock'

/** One product: its revisions, each with what can be done with it. */
export function ProductPage() {
  const { productId = '' } = useParams()
  const [query] = useSearchParams()
  const mayEdit = useRight('edit')
  const mayConfigure = useRight('configure')
  const go = useNavigate()
  const product = useQuery({ queryKey: ['product', productId], queryFn: ({ signal }) => ask(client.GET('/api/products/{productId}', { params: { path: { productId } }, signal })) })
  const revisions = useQuery({ queryKey: ['revisions', productId], queryFn: ({ signal }) => ask(client.GET('/api/products/{productId}/revisions', { params: { path: { productId } }, signal })) })
  const reusers = useQuery({ queryKey: ['reusers', productId], queryFn: ({ signal }) => ask(client.GET('/api/products/{productId}/reusers', { params: { path: { productId } }, signal })) })
  const next = useMutation({
    mutationFn: () => ask(client.POST('/api/products/{productId}/revisions', { params: { path: { productId } } })),
    onSuccess: (made) => go(`/workshop/${made.revisionId}`),
  })
  const list = revisions.data ?? []
  const released = list.find((r) => r.state === 'released')
  if (query.has('configure') && released) return <Navigate to={`/configure/${released.id}`} replace />

  return (
    <div className="mx-auto grid max-w-5xl gap-4 p-5">
      <TitleBlock
        title={product.data?.label ?? 'Product'}
        sub={product.data?.code}
        cells={[{ label: 'revisions', value: list.length }]}
        actions={
          <>
            {mayConfigure && released && (
              <Link className="act act-main" to={`/configure/${released.id}`}>
                Configure revision {released.number}
              </Link>
            )}
            {mayEdit && list[0]?.state === 'released' && (
              <button className="act" disabled={next.isPending} onClick={() => next.mutate()}>
                Open revision {list[0].number + 1}
              </button>
            )}
          </>
        }
      />
      {(revisions.error ?? next.error) && <p className="fault">{sentenceOf(revisions.error ?? next.error)}</p>}
      {revisions.data && list.length === 0 && <p>There is no such product.</p>}
      <table className="w-full">
        <thead className="quiet text-left text-sm">
          <tr className="border-b hair [&>th]:py-1 [&>th]:pr-4 [&>th]:font-normal [&>th]:italic">
            <th>Revision</th>
            <th>State</th>
            <th>Author</th>
            <th>Changed</th>
            <th>Released by</th>
            <th className="text-right">Configurations</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {list.map((r) => (
            <tr key={r.id} className="border-b hair hover:bg-base-200 [&>td]:py-1.5 [&>td]:pr-4">
              <td className="font-semibold">{r.number}</td>
              <td>{r.state}</td>
              <td>{r.author}</td>
              <td>{when(r.changedAt)}</td>
              <td>{r.releasedBy ? `${r.releasedBy}, ${when(r.releasedAt!)}` : '–'}</td>
              <td className="text-right">{r.configurations}</td>
              <td>
                <span className="flex justify-end gap-1.5">
                  <Link className="act" to={`/workshop/${r.id}`}>
                    {r.state === 'draft' ? 'Workshop' : 'Look at'}
                  </Link>
                  <a className="act" href={`/api/revisions/${r.id}/file`} download aria-label={`Model file of revision ${r.number}`}>
                    <Download className="size-4" /> Model file
                  </a>
                  <a className="act" href={`/api/revisions/${r.id}/file?format=uvl`} download aria-label={`UVL file of revision ${r.number}`} title="As a feature model in UVL; what UVL has no counterpart for is listed at the end">
                    <Download className="size-4" /> UVL
                  </a>
                </span>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {reusers.data && reusers.data.length > 0 && (
        <div>
          <p className="quiet border-b hair text-sm italic">Reused in</p>
          {reusers.data.map((r) => (
            <p key={`${r.revisionId} ${r.reuses}`} className="flex gap-3 border-b hair py-1.5">
              <Link className="link w-16 shrink-0" to={`/workshop/${r.revisionId}`}>
                {r.code}
              </Link>
              <span className="flex-1">
                {r.label}, revision {r.number} {r.state}
              </span>
              <span className="quiet">takes revision {r.reuses} of this</span>
            </p>
          ))}
        </div>
      )}
    </div>
  )
}
