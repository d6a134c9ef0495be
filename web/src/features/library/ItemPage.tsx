import { useQuery } from '@tanstack/react-query'
import type { ReactNode } from 'react'
import { Link, useParams } from 'react-router'
import { ask, client, sentenceOf, type Schemas } from '../../api/client'
import { useRight } from '../../session/session'
import { grouped, money, moment } from '../../ui/format'
import { TitleBlock } from '../../ui/TitleBlock'
import { useLongRows } from '../../ui/useLongRows'
import { ExchangeItem } from './ExchangeItem'
import { ItemAtBaseline } from './ItemAtBaseline'
import { WouldTouch } from './WouldTouch'
import { t } from '../../texts'

/** One item: what the register knows of it, and every model and structure that uses it. */
export function ItemPage() {
  const { number = '' } = useParams()
  const item = useQuery({
    queryKey: ['item', number],
    queryFn: ({ signal }) => ask(client.GET('/api/items/{number}', { params: { path: { number } }, signal })),
  })
  const mayEdit = useRight('editLibrary')
  const mayExchange = useRight('edit')
  if (item.error) return <p className="p-8">{sentenceOf(item.error)}</p>
  if (!item.data) return <p className="quiet p-8">{t('library.oneMoment')}</p>
  const { item: i, sites, models, structures, properties, conversions, descriptions, more } = item.data
  const unit = i.unit || t('library.pcs')
  return (
    <div className="mx-auto grid max-w-6xl gap-5 p-5">
      <TitleBlock
        title={i.number}
        sub={i.description}
        cells={[
          { label: t('library.kind'), value: i.kind },
          { label: t('library.state'), value: i.active ? t('library.active') : <span className="fault">{t('library.noLongerActive')}</span> },
          { label: t('library.unit'), value: unit },
          ...(i.cost === '' ? [] : [{ label: t('library.costEURPerUnit', { unit }), value: money(i.cost) }]),
          { label: t('library.weightKgPerUnit', { unit }), value: grouped(i.weight) },
          ...(item.data.leadTimeDays
            ? [{ label: t('library.leadTime'), value: t('library.leadTimeDaysDays', { leadTimeDays: item.data.leadTimeDays }) }]
            : []),
          ...(item.data.orderMultiple ? [{ label: t('library.orderedInMultiplesOf'), value: item.data.orderMultiple }] : []),
        ]}
        actions={
          <Link className="btn" to={`/library/items?search=${encodeURIComponent(i.number)}`}>
            {t('library.inTheRegister')}
          </Link>
        }
      />
      <div className="grid gap-x-8 gap-y-4 md:grid-cols-3">
        <Few title={t('library.keptAt')} empty={t('library.itIsKeptAtNoSite')}>
          {sites.map((s) => (
            <Pair
              key={s.site}
              name={s.label}
              value={[s.store || t('library.noStore'), s.cost && `${money(s.cost)} EUR`].filter(Boolean).join(' · ')}
            />
          ))}
        </Few>
        <Few title={t('library.oneOfItIs')} empty={t('library.noConversionsItIsCountedIn')}>
          {Object.entries(conversions).map(([u, each]) => (
            <Pair key={u} name={u} value={each} />
          ))}
        </Few>
        <Few title={t('library.insteadOfIt')} empty={t('library.nothingStandsInForIt')}>
          {item.data.substitutes.map((s) => (
            <p key={s} className="border-b hair py-0.5">
              <Link className="link" to={`/items/${encodeURIComponent(s.split(' in ')[0]!)}`}>
                {s}
              </Link>
            </p>
          ))}
        </Few>
        {Object.keys(properties).length > 0 && (
          <Few title={t('library.properties')} empty="">
            {Object.entries(properties).map(([name, value]) => (
              <Pair key={name} name={name} value={value} />
            ))}
          </Few>
        )}
        {Object.keys(descriptions).length > 1 && (
          <Few title={t('library.descriptions')} empty="">
            {Object.entries(descriptions).map(([language, text]) => (
              <Pair key={language} name={language} value={text} />
            ))}
          </Few>
        )}
      </div>
      <section aria-label={t('library.usedInModels')}>
        <h2 className="border-b hair pb-0.5 font-semibold">{t('library.usedInModels')}</h2>
        {models.length === 0 && <p className="quiet">{t('library.noModelNamesIt')}</p>}
        {models.length > 0 && <UsedInModels models={models} />}
      </section>
      <section aria-label={t('library.usedInStructures')}>
        <h2 className="border-b hair pb-0.5 font-semibold">{t('library.usedInGeneratedStructures')}</h2>
        {structures.length === 0 && <p className="quiet">{t('library.noStructureThatWasGeneratedHolds')}</p>}
        {structures.map((s) => (
          <p key={s.structureId} className="flex flex-wrap gap-x-4 border-b hair py-1">
            <Link className="link" to={`/structures/${s.structureId}`}>
              {s.name}
            </Link>
            <span>{t('library.productCodeRevisionRevision', { productCode: s.productCode, revision: s.revision })}</span>
            <span className="quiet ml-auto">{moment(s.madeAt)}</span>
          </p>
        ))}
      </section>
      {more && <p className="italic">{t('library.thereAreMoreUsesThanAre')}</p>}
      {mayExchange && models.length > 0 && <ExchangeItem number={i.number} substitutes={item.data.substitutes.map((s) => s.split(' in ')[0]!)} />}
      <ItemAtBaseline number={i.number} />
      {mayEdit && <WouldTouch number={i.number} sites={sites} />}
    </div>
  )
}

function UsedInModels({ models }: { models: Schemas['UsedInModel'][] }) {
  const { table, shown, before, after, measure } = useLongRows(models.length, 29, (i) => `${models[i]!.revisionId} ${models[i]!.rowId}`)
  return (
    <table ref={table} className="w-full" aria-rowcount={models.length + 1}>
      <thead className="quiet text-left text-sm">
        <tr className="border-b hair [&>th]:py-0.5 [&>th]:pr-4 [&>th]:font-normal [&>th]:italic">
          <th>{t('library.product')}</th>
          <th>{t('library.revision')}</th>
          <th>{t('library.row')}</th>
          <th>{t('library.how')}</th>
          <th>{t('library.quantity')}</th>
          <th>{t('library.appliesWhen')}</th>
        </tr>
      </thead>
      <tbody>
        {before > 0 && <tr style={{ height: before }} aria-hidden />}
        {shown.map((i) => {
          const m = models[i]!
          return (
            <tr key={`${m.revisionId} ${m.rowId}`} ref={measure} data-index={i} className="border-b hair align-top [&>td]:py-1 [&>td]:pr-4">
              <td>
                <b className="font-semibold">{m.productCode}</b> {m.productLabel}
              </td>
              <td className="whitespace-nowrap">
                {m.revision} <span className="quiet">{m.state}</span>
              </td>
              <td>
                <Link className="link" to={`/workshop/${m.revisionId}?assembly=${m.assemblyId}&row=${m.rowId}`}>
                  {m.rowName}
                </Link>
              </td>
              <td className="whitespace-nowrap">{m.how}</td>
              <td className="font-mono text-sm">{m.quantity}</td>
              <td className="font-mono text-sm">{m.condition}</td>
            </tr>
          )
        })}
        {after > 0 && <tr style={{ height: after }} aria-hidden />}
      </tbody>
    </table>
  )
}

function Few({ title, empty, children }: { title: string; empty: string; children: ReactNode[] }) {
  return (
    <section>
      <h2 className="border-b hair pb-0.5 font-semibold">{title}</h2>
      {children.length === 0 ? <p className="quiet">{empty}</p> : children}
    </section>
  )
}

const Pair = ({ name, value }: { name: string; value: string }) => (
  <p className="flex justify-between gap-3 border-b hair py-0.5">
    <span>{name}</span>
    <span className="text-right">{value}</span>
  </p>
)
