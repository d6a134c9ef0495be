import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Download } from 'lucide-react'
import { useState } from 'react'
import { Link, Navigate, useNavigate, useParams, useSearchParams } from 'react-router'
import { ask, client, sentenceOf, type Schemas } from '../../api/client'
import { useRight } from '../../session/session'
import { moment } from '../../ui/format'
import { ListTable } from '../../ui/ListTable'
import { TextField } from '../../ui/TextField'
import { TitleBlock } from '../../ui/TitleBlock'
import { inShort, useHealth } from '../health'
import { ReviewLine, useReview } from '../reviews'
import { WithdrawSheet } from './WithdrawSheet'
import { t } from '../../texts'

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
  const seesCosts = useRight('seeCosts')
  const mayRelease = useRight('release')
  const [withdrawing, setWithdrawing] = useState<Revision | null>(null)
  const margin = useLeastMargin(productId)
  if (query.has('configure') && released) return <Navigate to={`/configure/${released.id}`} replace />
  if (product.error && !product.data) return <p className="p-8">{sentenceOf(product.error)}</p>

  return (
    <div className="mx-auto grid max-w-5xl gap-5 p-5">
      <TitleBlock
        title={product.data?.label ?? t('products.product')}
        sub={product.data?.code}
        cells={[
          { label: t('products.latestRevision'), room: 10, value: latest ? `${latest.number} ${latest.state}` : '–' },
          { label: t('products.released2'), value: released ? `${released.number}, ${moment(released.releasedAt!)}` : t('products.noneYet') },
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
          ...(product.data && seesCosts ? [{ label: t('products.leastMargin'), value: <LeastMargin product={product.data} change={margin} /> }] : []),
          { label: t('products.configurations2'), value: list.reduce((n, r) => n + r.configurations, 0) },
        ]}
        actions={
          <Link className="btn" to={`/products/${productId}/times`}>
            {t('products.whatHoldsWhen')}
          </Link>
        }
      />
      {margin.error && (
        <p role="alert" className="fault">
          {sentenceOf(margin.error)}
        </p>
      )}
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
      <ListTable
        label={t('products.revisions')}
        rows={list}
        keyOf={(r) => String(r.id)}
        columns={[...revisionColumns, whatCanBeDone(seesCosts, mayRelease ? setWithdrawing : null)]}
      />
      {withdrawing && <WithdrawSheet revision={withdrawing} onClose={() => setWithdrawing(null)} />}
      {latest && <Changes revisionId={latest.id} number={latest.number} />}
      <Configurations productId={productId} />
      <Reusers productId={productId} />
    </div>
  )
}

const revisionColumns = [
  {
    key: 'number',
    name: t('products.revision'),
    text: (r: Revision) => String(r.number),
    cell: (r: Revision) => <b className="font-semibold">{r.number}</b>,
  },
  { key: 'state', name: t('products.state'), text: (r: Revision) => r.state, cell: (r: Revision) => r.state },
  { key: 'author', name: t('products.author'), text: (r: Revision) => r.author, cell: (r: Revision) => r.author },
  {
    key: 'changed',
    name: t('products.changed'),
    text: (r: Revision) => r.changedAt,
    cell: (r: Revision) => moment(r.changedAt),
    look: 'whitespace-nowrap',
  },
  {
    key: 'released',
    name: t('products.releasedBy'),
    text: (r: Revision) => r.releasedAt ?? '',
    cell: (r: Revision) =>
      r.releasedBy ? (
        <>
          {r.releasedBy}, {moment(r.releasedAt!)}
          {r.releaseNote && <i className="quiet block">{r.releaseNote}</i>}
          {r.withdrawn && (
            <span className="fault block">
              {t('products.withdrawnBy', { by: r.withdrawn.by, when: moment(r.withdrawn.at), why: r.withdrawn.why })}
            </span>
          )}
        </>
      ) : (
        '–'
      ),
  },
  {
    key: 'configurations',
    name: t('products.configurations'),
    text: (r: Revision) => String(r.configurations),
    cell: (r: Revision) => r.configurations,
    look: 'text-right',
  },
]

/**
 * @param isTaken Whether somebody may take a revision out: a model file carries what its items cost.
 * @param withdraw What is done to withdraw one; null for who may not.
 */
const whatCanBeDone = (isTaken: boolean, withdraw: ((revision: Revision) => void) | null) => ({
  key: 'do',
  name: t('products.whatCanBeDone'),
  isQuiet: true,
  cell: (r: Revision) => (
    <span className="flex justify-end gap-1.5">
      <Link className="btn" to={`/workshop/${r.id}`}>
        {r.state === 'draft' ? t('products.workshop') : t('products.lookAt')}
      </Link>
      {r.state === 'released' && (
        <Link className="btn" to={`/workshop/${r.id}/impact`} title={t('products.whatIsSavedOnEarlierOnes')}>
          {t('products.moveSaved')}
        </Link>
      )}
      {r.state === 'released' && withdraw && (
        <button className="btn" onClick={() => withdraw(r)}>
          {t('products.withdraw')}
        </button>
      )}
      {isTaken && (
        <>
          <a className="btn" href={`/api/revisions/${r.id}/file`} download aria-label={t('products.modelFileOfRevisionNumber', { number: r.number })}>
            <Download className="size-4" /> {t('products.modelFile')}
          </a>
          <a
            className="btn"
            href={`/api/revisions/${r.id}/file?format=uvl`}
            download
            aria-label={t('products.uVLFileOfRevisionNumber', { number: r.number })}
            title={t('products.asAFeatureModelInUVL')}
          >
            <Download className="size-4" /> {t('products.uVL')}
          </a>
        </>
      )}
    </span>
  ),
})

/** What is to be left of the price at the least; below that a price is marked wherever its margin is seen. */
function useLeastMargin(productId: string) {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: (percent: string) =>
      ask(client.PUT('/api/products/{productId}/least-margin', { params: { path: { productId } }, body: { percent } })),
    onSuccess: (stored) => queries.setQueryData(['product', productId], stored),
  })
}

function LeastMargin({ product, change }: { product: Schemas['ProductView']; change: ReturnType<typeof useLeastMargin> }) {
  if (!useRight('edit')) return product.leastMargin === null ? '–' : `${product.leastMargin} %`
  return (
    <span className="flex items-center gap-1" title={t('products.belowItAPriceIsMarked')}>
      <TextField
        className="w-16 text-right"
        inputMode="decimal"
        aria-label={t('products.leastMarginInPercent')}
        aria-invalid={change.error !== null}
        value={change.error ? change.variables : (product.leastMargin ?? '')}
        onCommit={(text) => change.mutate(text)}
      />
      %
    </span>
  )
}

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
    <Link className="btn btn-primary" to={`/workshop/${latest.id}${query}`}>
      {text}
    </Link>
  )
  if (mayRelease && latest.state === 'in review')
    steps.push({
      text: t('products.revisionNumberWaitsForItsRelease', { number: latest.number }),
      act: workshop(t('products.lookAtItAndReleaseIt'), '?release'),
    })
  if (mayEdit && latest.state === 'draft') {
    steps.push(
      findings > 0
        ? {
            text: t('products.revisionNumberIsADraftIn', {
              number: latest.number,
              findings: findings === 1 ? t('products.anError') : t('products.findingsErrors', { findings }),
            }),
            act: workshop(t('products.mendItInTheWorkshop')),
          }
        : { text: t('products.revisionNumberIsADraft', { number: latest.number }), act: workshop(t('products.goOnInTheWorkshop')) },
    )
    steps.push({
      text: t('products.whenItIsRightAnApprover'),
      act: (
        <Link className="btn" to={`/workshop/${latest.id}?release`}>
          {t('products.askForItsRelease')}
        </Link>
      ),
    })
  }
  if (mayEdit && latest.state === 'in review')
    steps.push({ text: t('products.revisionNumberWaitsForAnApprover', { number: latest.number }), act: workshop(t('products.lookAtIt')) })
  if (mayEdit && latest.state === 'released')
    steps.push({
      text: t('products.revisionNumberIsReleasedAndStays', { number: latest.number }),
      act: (
        <button className="btn btn-primary" disabled={next.isPending} onClick={() => next.mutate()}>
          {t('products.openRevisionNumber', { number: latest.number + 1 })}
        </button>
      ),
    })
  if (mayConfigure && released)
    steps.push({
      text: t('products.itCanBeConfiguredAndOrdered'),
      act: (
        <Link className="btn btn-primary" to={`/configure/${released.id}`}>
          {t('products.configureRevisionNumber', { number: released.number })}
        </Link>
      ),
    })
  if (steps.length === 0) return null
  return (
    <section aria-label={t('products.next')} className="grid gap-1.5">
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
    <Part title={t('products.whatChangedLastInRevisionNumber', { number })}>
      {history.data && entries.length === 0 && <p className="quiet py-1">{t('products.nothingYetItIsAsIt')}</p>}
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
            {h.changes.length > 1 && <span className="quiet"> {t('products.andMore', { more: h.changes.length - 1 })}</span>}
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
    <Part title={t('products.configuredWithIt')}>
      {found.data && list.length === 0 && <p className="quiet py-1">{t('products.nothingHasBeenSavedYet')}</p>}
      {list.slice(0, mostTold).map((c) => (
        <p key={c.id} className="grid grid-cols-[9.5rem_6rem_minmax(0,1fr)_auto] gap-3 border-b hair py-1">
          <span className="quiet">{moment(c.changedAt)}</span>
          <span>{c.changedBy}</span>
          <Link className="link truncate" to={`/configurations/${c.id}`}>
            {c.name}
          </Link>
          <span className="quiet">{t('products.onRevisionRevisionNumber', { revisionNumber: c.revisionNumber })}</span>
        </p>
      ))}
      {list.length > mostTold && (
        <Link className="link text-sm" to={`/configurations?product=${productId}`}>
          {t('products.allOf', { n: list.length })}
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
    <Part title={t('products.reusedIn')}>
      {reusers.data.map((r) => (
        <p key={`${r.revisionId} ${r.reuses}`} className="flex gap-3 border-b hair py-1">
          <Link className="link w-16 shrink-0" to={`/workshop/${r.revisionId}`}>
            {r.code}
          </Link>
          <span className="flex-1">{t('products.labelRevisionNumberState', { label: r.label, number: r.number, state: r.state })}</span>
          <span className="quiet">{t('products.takesRevisionReusesOfThis', { reuses: r.reuses })}</span>
        </p>
      ))}
    </Part>
  )
}
