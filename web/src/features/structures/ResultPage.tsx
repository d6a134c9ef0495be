import { useQuery } from '@tanstack/react-query'
import { Download } from 'lucide-react'
import { Link, useParams, useSearchParams } from 'react-router'
import { ask, client, sentenceOf, type Schemas } from '../../api/client'
import { grouped, money, when } from '../../ui/format'
import { StateMark } from '../../ui/StateMark'
import { Tabs } from '../../ui/Tabs'
import { TitleBlock } from '../../ui/TitleBlock'
import { BomTree } from '../../ui/structure/BomTree'
import { CostTime } from '../../ui/structure/CostTime'
import { MarginMark } from '../../ui/structure/Margin'
import { Routing } from '../../ui/structure/Routing'
import { t } from '../../texts'

const views = {
  bom: t('structures.billOfMaterials'),
  routing: t('structures.routing'),
  cost: t('structures.priceCostAndTime'),
  answers: t('structures.answersAndFigures'),
} as const

/** What was generated, as it was generated. */
export function ResultPage() {
  const { structureId = '' } = useParams()
  const [query, setQuery] = useSearchParams()
  const view = (query.get('view') ?? 'bom') as keyof typeof views
  const result = useQuery({
    queryKey: ['structure', structureId],
    queryFn: ({ signal }) => ask(client.GET('/api/structures/{id}', { params: { path: { id: structureId } }, signal })),
    staleTime: Infinity,
  })
  if (result.error) return <p className="p-8">{sentenceOf(result.error)}</p>
  if (!result.data) return <p className="quiet p-8">{t('structures.oneMoment')}</p>
  const r = result.data
  const { totals } = r.structure
  const file = (table: string, format: string) => `/api/structures/${r.id}/${table}.${format}`

  return (
    <div className="grid gap-4 p-5">
      <TitleBlock
        title={r.name}
        sub={
          <>
            <Link className="link" to={`/products/${r.productId}`}>
              {r.productCode}
            </Link>{' '}
            {r.productLabel}
          </>
        }
        cells={[
          { label: t('structures.revision'), value: `${r.revisionNumber} ${r.revisionState}` },
          ...(r.site ? [{ label: t('structures.forTheSite'), value: r.site }] : []),
          ...(r.date ? [{ label: t('structures.onTheDay'), value: r.date }] : []),
          { label: t('structures.generated'), value: t('structures.madeAtByAuthor', { madeAt: when(r.madeAt), author: r.author }) },
          ...(r.costs
            ? [
                { label: t('structures.quantity2'), value: grouped(r.costs.quantity) },
                { label: t('structures.leadTime2'), value: t('structures.daysDays', { days: r.costs.schedule.days }) },
              ]
            : []),
          ...(r.costs?.price?.list != null
            ? [
                {
                  label:
                    r.costs.price.customerClass === null
                      ? t('structures.listPriceEUREach')
                      : t('structures.priceEUREachCustomerClass', { customerClass: r.costs.price.customerClass }),
                  value: money(r.costs.price.each),
                },
              ]
            : []),
          ...(totals.cost === ''
            ? []
            : [
                {
                  label: t('structures.costEUREach'),
                  value: (
                    <span
                      title={t('structures.materialMaterialScrapScrapLabourLabour', {
                        material: totals.material,
                        scrap: totals.scrap ?? 0,
                        labour: totals.labour,
                        machine: totals.machine,
                        overhead: totals.overhead ?? 0,
                      })}
                    >
                      {money((r.costs?.piece ?? totals).cost)}
                    </span>
                  ),
                },
              ]),
          ...(r.costs?.margin ? [{ label: t('structures.margin'), value: <MarginMark margin={r.costs.margin} /> }] : []),
          { label: t('structures.weightKgEach'), value: grouped(totals.weight) },
          { label: t('structures.workMinEach'), value: grouped(totals.work) },
        ]}
        actions={
          <Link className="btn" to={`/configurations/${r.configurationId}`}>
            {t('structures.configuration')}
          </Link>
        }
      />
      {r.concession && <MadeUnder concession={r.concession} />}
      <div className="flex flex-wrap items-end gap-x-4 border-b hair">
        <Tabs label={t('structures.view')} tabs={Object.entries(views)} shown={view} onShow={(key) => setQuery({ view: key }, { replace: true })} />
        <div className="mb-1 ml-auto flex flex-wrap gap-1.5">
          {[
            ['BOM.csv', file('bom', 'csv')],
            ['Routing.csv', file('routing', 'csv')],
            [t('structures.workbook'), file('structure', 'xlsx')],
            ['PDF', file('structure', 'pdf')],
            ['JSON', file('structure', 'json')],
            ['B2MML', file('structure', 'xml')],
          ].map(([label, href]) => (
            <a key={href} className="btn" href={href} download>
              <Download className="size-3.5" /> {label}
            </a>
          ))}
        </div>
      </div>
      {view === 'bom' && <BomTree structure={r.structure} full />}
      {view === 'routing' && (
        <div className="max-w-4xl">
          <Routing structure={r.structure} />
        </div>
      )}
      {view === 'cost' && (r.costs ? <CostTime costs={r.costs} /> : <p className="quiet">{t('structures.thisWasGeneratedBeforeCostBy')}</p>)}
      {view === 'answers' && <Answers result={r} />}
    </div>
  )
}

function Answers({ result }: { result: Schemas['ResultView'] }) {
  const sections = [...new Set(result.answers.map((a) => a.section))]
  return (
    <div className="grid gap-6 md:grid-cols-2">
      <div>
        {sections.map((section) => (
          <section key={section} className="mb-3">
            <h3 className="border-b hair font-semibold">{section}</h3>
            {result.answers
              .filter((a) => a.section === section)
              .map((a) => (
                <p key={a.label} className="flex items-center gap-2 border-b hair py-0.5">
                  <StateMark state={a.state as Schemas['AttributeState']} />
                  <span className="flex-1">{a.label}</span>
                  {a.value}
                </p>
              ))}
          </section>
        ))}
      </div>
      <section>
        <h3 className="border-b hair font-semibold">{t('structures.figures')}</h3>
        {result.figures.map((f) => (
          <p key={f.label} className="flex justify-between gap-4 border-b hair py-0.5">
            <span>{f.label}</span>
            <span className="whitespace-nowrap">{f.value}</span>
          </p>
        ))}
        {result.advice.map((a) => (
          <p key={a.rowId} className="mt-2 border-l-2 border-success px-2">
            <i>{t('structures.advice')}</i> {a.mark} {a.sentence}
          </p>
        ))}
      </section>
    </div>
  )
}

/** The rules that were set aside for it, and by whose leave. */
function MadeUnder({ concession: c }: { concession: Schemas['ConcessionFile'] }) {
  return (
    <section aria-label={t('structures.concession')} className="grid gap-0.5 border-l-2 border-warning px-3 py-1">
      <p>
        <b>{t('structures.madeUnderConcession', { number: c.number })}</b>{' '}
        {t('structures.askedForBySignedBy', { askedBy: c.askedBy, signedBy: c.signedBy, signedOn: c.signedOn, until: c.until, quantity: c.quantity })}{' '}
        {c.reason}
      </p>
      {c.rules.map((r) => (
        <p key={r.row} className="text-sm">
          {t('structures.setAside')} <b>{r.mark}</b> {r.sentence}
        </p>
      ))}
    </section>
  )
}
