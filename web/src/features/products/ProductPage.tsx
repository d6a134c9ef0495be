import { useMutation, useQuery } from '@tanstack/react-query'
import { Download } from 'lucide-react'
import { Link, Navigate, useNavigate, useParams, useSearchParams } from 'react-router'
import { ask, client, sentenceOf, type Schemas } from '../../api/client'
import { useRight } from '../../app/session'
import { moment } from '../../ui/format'
import { ListTable } from '../../ui/ListTable'
import { TitleBlock } from '../../ui/TitleBlock'
import { inShort, useHealth } from '../health/useHealth'
import { ReviewLine } from '../workshop/ReviewLine'
import { useReview } from '../workshop/useReview'

type Revision = Schemas['RevisionEntryView']

const mostTold = 8

/** One product: what it is and how it stands, what changed, what was configured with it, where it is reused, and the next step. */
export function ProductPage() {
  const { productId = '' } = useParams()
  const [query] = useSearchParams()
  const path = { productId }
  const product = useQuery({
    queryKey: ['product', productId],
    queryFn: ({ signal }) => ask(client.GET('/api/products/{productId}', { params: { path }, signal })),
  })
  const revisions = useQuery({
    queryKey: ['revisions', productId],
    queryFn: ({ signal }) => ask(client.GET('/api/products/{productId}/revisions', { params: { path }, signal })),
  })
  const list = revisions.data ?? []
  const [latest, released] = [list[0], list.find((r) => r.state === 'released')]
  const health = useHealth(latest?.id ?? 0, latest?.head)
  const review = useReview(latest?.id)
  if (query.has('configure') && released) return <Navigate to={`/configure/${released.id}`} replace />
  if (product.error && !product.data) return <p className="p-8">{sentenceOf(product.error)}</p>

  return (
    <div className="mx-auto grid max-w-5xl gap-5 p-5">
      <TitleBlock
        title={product.data?.label ?? 'Product'}
        sub={product.data?.code}
        cells={[
          { label: 'latest revision', room: 10, value: latest ? `${latest.number} ${latest.state}` : '–' },
          { label: 'released', value: released ? `${released.number}, ${moment(released.releasedAt!)}` : 'none yet' },
          {
            label: 'health',
            room: 16,
            value: latest ? (
              <Link className="link" to={`/workshop/${latest.id}/health`}>
                {inShort(health.data)}
              </Link>
            ) : (
              '–'
            ),
          },
          { label: 'configurations', value: list.reduce((n, r) => n + r.configurations, 0) },
        ]}
      />
      {revisions.error && <p className="fault">{sentenceOf(revisions.error)}</p>}
      {latest && (
        <NextStep
          latest={latest}
          released={released}
          productId={productId}
          findings={health.data?.findings.filter((f) => f.weight === 'error' && f.accepted === null).length ?? 0}
        />
      )}
      {review && review.outcome !== 'taken back' && <ReviewLine review={review} />}
      <ListTable label="Revisions" rows={list} keyOf={(r) => String(r.id)} columns={revisionColumns} />
      {latest && <Changes revisionId={latest.id} number={latest.number} />}
      <Configurations productId={productId} />
      <Reusers productId={productId} />
    </div>
  )
}

const revisionColumns = [
  { key: 'number', name: 'Revision', text: (r: Revision) => String(r.number), cell: (r: Revision) => <b className="font-semibold">{r.number}</b> },
  { key: 'state', name: 'State', text: (r: Revision) => r.state, cell: (r: Revision) => r.state },
  { key: 'author', name: 'Author', text: (r: Revision) => r.author, cell: (r: Revision) => r.author },
  { key: 'changed', name: 'Changed', text: (r: Revision) => r.changedAt, cell: (r: Revision) => moment(r.changedAt), look: 'whitespace-nowrap' },
  {
    key: 'released',
    name: 'Released by',
    text: (r: Revision) => r.releasedAt ?? '',
    cell: (r: Revision) => (r.releasedBy ? `${r.releasedBy}, ${moment(r.releasedAt!)}` : '–'),
  },
  {
    key: 'configurations',
    name: 'Configurations',
    text: (r: Revision) => String(r.configurations),
    cell: (r: Revision) => r.configurations,
    look: 'text-right',
  },
  {
    key: 'do',
    name: 'What can be done',
    isQuiet: true,
    cell: (r: Revision) => (
      <span className="flex justify-end gap-1.5">
        <Link className="act" to={`/workshop/${r.id}`}>
          {r.state === 'draft' ? 'Workshop' : 'Look at'}
        </Link>
        <a className="act" href={`/api/revisions/${r.id}/file`} download aria-label={`Model file of revision ${r.number}`}>
          <Download className="size-4" /> Model file
        </a>
        <a
          className="act"
          href={`/api/revisions/${r.id}/file?format=uvl`}
          download
          aria-label={`UVL file of revision ${r.number}`}
          title="As a feature model in UVL; what UVL has no counterpart for is listed at the end"
        >
          <Download className="size-4" /> UVL
        </a>
      </span>
    ),
  },
]

/** What someone in this role would do next, in a sentence and a button. */
function NextStep({
  latest,
  released,
  productId,
  findings,
}: {
  latest: Revision
  released: Revision | undefined
  productId: string
  findings: number
}) {
  const [mayEdit, mayRelease, mayConfigure] = [useRight('edit'), useRight('release'), useRight('configure')]
  const go = useNavigate()
  const next = useMutation({
    mutationFn: () => ask(client.POST('/api/products/{productId}/revisions', { params: { path: { productId } } })),
    onSuccess: (made) => go(`/workshop/${made.revisionId}`),
  })
  const steps: { text: string; act: React.ReactNode }[] = []
  const workshop = (text: string, query = '') => (
    <Link className="act act-main" to={`/workshop/${latest.id}${query}`}>
      {text}
    </Link>
  )
  if (mayRelease && latest.state === 'in review')
    steps.push({ text: `Revision ${latest.number} waits for its release.`, act: workshop('Look at it and release it', '?release') })
  if (mayEdit && latest.state === 'draft') {
    steps.push(
      findings > 0
        ? {
            text: `Revision ${latest.number} is a draft in which ${findings === 1 ? 'an error' : `${findings} errors`} was found.`,
            act: workshop('Mend it in the workshop'),
          }
        : { text: `Revision ${latest.number} is a draft.`, act: workshop('Go on in the workshop') },
    )
    steps.push({
      text: 'When it is right, an approver releases it.',
      act: (
        <Link className="act" to={`/workshop/${latest.id}?release`}>
          Ask for its release
        </Link>
      ),
    })
  }
  if (mayEdit && latest.state === 'in review')
    steps.push({ text: `Revision ${latest.number} waits for an approver; it is not edited meanwhile.`, act: workshop('Look at it') })
  if (mayEdit && latest.state === 'released')
    steps.push({
      text: `Revision ${latest.number} is released and stays as it is; changes go into the next one.`,
      act: (
        <button className="act act-main" disabled={next.isPending} onClick={() => next.mutate()}>
          Open revision {latest.number + 1}
        </button>
      ),
    })
  if (mayConfigure && released)
    steps.push({
      text: 'It can be configured and ordered.',
      act: (
        <Link className="act act-main" to={`/configure/${released.id}`}>
          Configure revision {released.number}
        </Link>
      ),
    })
  if (steps.length === 0) return null
  return (
    <section aria-label="Next" className="grid gap-1.5">
      {steps.map((s) => (
        <p
          key={s.text}
          className="flex flex-wrap items-center gap-3 [&:not(:first-child)>.act-main]:border-base-300 [&:not(:first-child)>.act-main]:bg-base-100 [&:not(:first-child)>.act-main]:text-base-content"
        >
          {s.act}
          <span>{s.text}</span>
        </p>
      ))}
      {next.error && <p className="fault">{sentenceOf(next.error)}</p>}
    </section>
  )
}

/** A heading of this page, with what belongs to it. */
function Part({ title, more, children }: { title: string; more?: React.ReactNode; children: React.ReactNode }) {
  return (
    <section aria-label={title}>
      <p className="flex justify-between border-b hair text-sm">
        <span className="quiet italic">{title}</span>
        {more}
      </p>
      {children}
    </section>
  )
}

/** The last edits of a revision, each with a link to its row. */
function Changes({ revisionId, number }: { revisionId: number; number: number }) {
  const history = useQuery({
    queryKey: ['history', revisionId, 'short'],
    queryFn: ({ signal }) => ask(client.GET('/api/revisions/{id}/history', { params: { path: { id: revisionId }, query: {} }, signal })),
  })
  const entries = history.data ?? []
  return (
    <Part title={`What changed last in revision ${number}`}>
      {history.data && entries.length === 0 && <p className="quiet py-1">Nothing yet: it is as it was opened.</p>}
      {entries.slice(0, mostTold).map((h) => (
        <p key={h.sequence} className="grid grid-cols-[9.5rem_6rem_minmax(0,1fr)] gap-3 border-b hair py-1">
          <span className="quiet">{moment(h.madeAt)}</span>
          <span>{h.person}</span>
          <span className="truncate">
            {h.kind !== 'edit' && <i className="quiet">{h.kind}: </i>}
            {h.changes[0] && (
              <Link className="link" to={`/workshop/${revisionId}?row=${h.changes[0].rowId}`}>
                {h.changes[0].name}
              </Link>
            )}{' '}
            {h.changes[0]?.what}
            {h.changes.length > 1 && <span className="quiet"> and {h.changes.length - 1} more</span>}
          </span>
        </p>
      ))}
    </Part>
  )
}

function Configurations({ productId }: { productId: string }) {
  const found = useQuery({
    queryKey: ['configurations', '', productId],
    queryFn: ({ signal }) => ask(client.GET('/api/configurations', { params: { query: { product: productId } }, signal })),
  })
  const list = found.data ?? []
  return (
    <Part title="Configured with it">
      {found.data && list.length === 0 && <p className="quiet py-1">Nothing has been saved yet.</p>}
      {list.slice(0, mostTold).map((c) => (
        <p key={c.id} className="grid grid-cols-[9.5rem_6rem_minmax(0,1fr)_auto] gap-3 border-b hair py-1">
          <span className="quiet">{moment(c.changedAt)}</span>
          <span>{c.changedBy}</span>
          <Link className="link truncate" to={`/configurations/${c.id}`}>
            {c.name}
          </Link>
          <span className="quiet">on revision {c.revisionNumber}</span>
        </p>
      ))}
      {list.length > mostTold && (
        <Link className="link text-sm" to={`/configurations?product=${productId}`}>
          all {list.length}
        </Link>
      )}
    </Part>
  )
}

function Reusers({ productId }: { productId: string }) {
  const reusers = useQuery({
    queryKey: ['reusers', productId],
    queryFn: ({ signal }) => ask(client.GET('/api/products/{productId}/reusers', { params: { path: { productId } }, signal })),
  })
  if (!reusers.data || reusers.data.length === 0) return null
  return (
    <Part title="Reused in">
      {reusers.data.map((r) => (
        <p key={`${r.revisionId} ${r.reuses}`} className="flex gap-3 border-b hair py-1">
          <Link className="link w-16 shrink-0" to={`/workshop/${r.revisionId}`}>
            {r.code}
          </Link>
          <span className="flex-1">
            {r.label}, revision {r.number} {r.state}
          </span>
          <span className="quiet">takes revision {r.reuses} of this</span>
        </p>
      ))}
    </Part>
  )
}
