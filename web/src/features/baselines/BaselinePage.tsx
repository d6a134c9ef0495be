import { useQuery } from '@tanstack/react-query'
import { Link, useParams } from 'react-router'
import { ask, client, sentenceOf, type Schemas } from '../../api/client'
import { moment } from '../../ui/format'
import { ListTable } from '../../ui/ListTable'
import { TitleBlock } from '../../ui/TitleBlock'
import { t } from '../../texts'

type Product = Schemas['BaselineProductView']

/** A baseline, and what is otherwise by now: revisions of products, items of the library. */
export function BaselinePage() {
  const { baselineId = '' } = useParams()
  const baseline = useQuery({
    queryKey: ['baseline', baselineId],
    queryFn: ({ signal }) => ask(client.GET('/api/baselines/{id}', { params: { path: { id: baselineId } }, signal })),
  })
  if (baseline.error) return <p className="fault p-8">{sentenceOf(baseline.error)}</p>
  if (!baseline.data) return <p className="quiet p-8">{t('baselines.oneMoment')}</p>
  const { baseline: b, products, items, allItems } = baseline.data
  return (
    <div className="mx-auto grid max-w-6xl gap-5 p-5">
      <TitleBlock
        title={b.name}
        sub={b.note || t('baselines.baseline')}
        cells={[
          { label: t('baselines.made'), value: `${moment(b.madeAt)}, ${b.person}` },
          { label: t('baselines.productsOtherwise'), value: products.filter((p) => p.nowId !== p.thenId).length },
          { label: t('baselines.itemsOtherwise'), value: allItems },
        ]}
        actions={
          <Link className="btn" to="/baselines">
            {t('baselines.allBaselines')}
          </Link>
        }
      />
      <section aria-label={t('baselines.products')} className="grid gap-1">
        <h2 className="border-b hair pb-0.5 font-semibold">{t('baselines.products')}</h2>
        <ListTable<Product>
          label={t('baselines.products')}
          rows={products}
          keyOf={(p) => p.productId}
          columns={[
            {
              key: 'product',
              name: t('baselines.product'),
              text: (p) => `${p.code} ${p.label}`,
              cell: (p) => (
                <>
                  <Link className="link" to={`/products/${p.productId}`}>
                    {p.code}
                  </Link>{' '}
                  {p.label}
                </>
              ),
            },
            {
              key: 'then',
              name: t('baselines.revisionThen'),
              text: (p) => String(p.then),
              cell: (p) => (
                <>
                  <Link className="link" to={`/workshop/${p.thenId}`}>
                    {p.then}
                  </Link>{' '}
                  {p.state !== 'released' && <span className="fault">{t('baselines.isNow', { state: p.state })}</span>}
                </>
              ),
            },
            {
              key: 'now',
              name: t('baselines.revisionNow'),
              text: (p) => String(p.now ?? ''),
              cell: (p) => (p.nowId === null ? '–' : p.nowId === p.thenId ? <span className="quiet">{t('baselines.theSame')}</span> : <b>{p.now}</b>),
            },
            {
              key: 'look',
              name: t('baselines.lookAt'),
              isQuiet: true,
              cell: (p) => (
                <span className="flex gap-3">
                  <Link className="link" to={`/workshop/${p.thenId}/structure`}>
                    {t('baselines.structureThen')}
                  </Link>
                  {p.nowId !== null && p.nowId !== p.thenId && (
                    <Link className="link" to={`/workshop/${p.nowId}/difference?from=${p.thenId}`}>
                      {t('baselines.whatHasChanged')}
                    </Link>
                  )}
                </span>
              ),
            },
          ]}
        />
      </section>
      <section aria-label={t('baselines.items')} className="grid gap-1">
        <h2 className="border-b hair pb-0.5 font-semibold">{t('baselines.items')}</h2>
        {items.length === 0 && <p className="quiet">{t('baselines.noItemIsOtherwise')}</p>}
        {items.length < allItems && <p className="quiet">{t('baselines.theFirstOf', { shown: items.length, all: allItems })}</p>}
        {items.length > 0 && (
          <ListTable<Schemas['ItemDifference']>
            label={t('baselines.items')}
            rows={items}
            keyOf={(i) => i.number}
            columns={[
              {
                key: 'number',
                name: t('baselines.item'),
                text: (i) => i.number,
                cell: (i) => (
                  <Link className="link" to={`/items/${encodeURIComponent(i.number)}`}>
                    {i.number}
                  </Link>
                ),
              },
              {
                key: 'changes',
                name: t('baselines.whatHasChanged'),
                text: said,
                cell: said,
              },
            ]}
          />
        )}
      </section>
    </div>
  )
}

const said = (i: Schemas['ItemDifference']): string =>
  i.kind === 'added'
    ? t('baselines.isNew')
    : i.kind === 'removed'
      ? t('baselines.isGone')
      : i.fields.map((f) => `${f.field}: ${f.before || '–'} → ${f.after || '–'}`).join('; ')
