import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { Download } from 'lucide-react'
import { useState } from 'react'
import { Link, useSearchParams } from 'react-router'
import { ask, client, sentenceOf, type Schemas } from '../../api/client'
import { dayOf } from '../../ui/format'
import { TextField } from '../../ui/TextField'
import { TitleBlock } from '../../ui/TitleBlock'
import { useLongRows } from '../../ui/useLongRows'
import { t } from '../../texts'

const kinds: [kind: string, title: string][] = [
  ['attribute', t('configurations.answers')],
  ['total', t('configurations.priceCostWeightAndWork')],
  ['figure', t('configurations.figures')],
  ['part', t('configurations.parts')],
  ['operation', t('configurations.operations')],
]

/** Two configurations side by side: answers, figures, parts, operations and cost. */
export function ComparePage() {
  const [query, setQuery] = useSearchParams()
  const [left, right, all, quantity] = [query.get('left') ?? '', query.get('right') ?? '', query.get('all') === 'yes', query.get('quantity') ?? '1']
  const compared = useQuery({
    queryKey: ['compare', left, right, quantity],
    queryFn: ({ signal }) => ask(client.GET('/api/compare', { params: { query: { left, right, quantity } }, signal })),
    placeholderData: keepPreviousData,
    enabled: left !== '' && right !== '',
  })
  const [fault, setFault] = useState<string | null>(null)
  const put = (name: string, value: string) => setQuery((now) => ({ ...Object.fromEntries(now), [name]: value }), { replace: true })
  if (left === '' || right === '')
    return (
      <p className="p-8">
        {t('configurations.tickTwo')}{' '}
        <Link className="link" to="/configurations">
          {t('configurations.configurations')}
        </Link>{' '}
        {t('configurations.toCompareThem')}
      </p>
    )
  if (compared.error) return <p className="p-8">{sentenceOf(compared.error)}</p>
  if (!compared.data) return <p className="quiet p-8">{t('configurations.oneMoment')}</p>
  const { rows } = compared.data
  const differing = rows.filter((r) => r.before !== r.after)
  return (
    <div className="grid gap-4 p-5">
      <TitleBlock
        title={t('configurations.comparison')}
        sub={t('configurations.twoConfigurationsSideBySide')}
        cells={[
          { label: t('configurations.differ'), value: differing.length },
          { label: t('configurations.theSame'), value: rows.length - differing.length },
          {
            label: t('configurations.atAQuantityOf'),
            value: (
              <TextField
                className="w-20 text-right"
                inputMode="numeric"
                aria-label={t('configurations.quantity')}
                value={quantity}
                onCommit={(text) => {
                  const wanted = text.trim() || '1'
                  const isOne = /^([1-9]\d{0,5}|1000000)$/.test(wanted)
                  setFault(isOne ? null : t('configurations.wantedIsNotAQuantityIt', { wanted }))
                  if (isOne) put('quantity', wanted)
                }}
              />
            ),
          },
        ]}
        actions={
          <>
            <label className="flex items-center gap-1.5">
              <input type="checkbox" className="size-4 accent-primary" checked={!all} onChange={(e) => put('all', e.target.checked ? 'no' : 'yes')} />
              {t('configurations.onlyWhatDiffers')}
            </label>
            <a className="btn" href={`/api/compare.xlsx?left=${left}&right=${right}&all=${all}&quantity=${encodeURIComponent(quantity)}`} download>
              <Download className="size-3.5" /> {t('configurations.xLSX')}
            </a>
          </>
        }
      />
      {fault && (
        <p role="alert" className="fault">
          {fault}
        </p>
      )}
      <Rows
        key={`${left} ${right}`}
        compared={compared.data}
        rows={kinds.flatMap(([kind, title]) => {
          const shown = (all ? rows : differing).filter((r) => r.kind === kind)
          return shown.length > 0 ? [title, ...shown] : []
        })}
      />
      {differing.length === 0 && !all && <p className="quiet">{t('configurations.nothingDiffers')}</p>}
    </div>
  )
}

/** Both sides row by row, under the titles of their kinds. */
function Rows({ compared, rows }: { compared: Schemas['ComparisonView']; rows: (string | Schemas['MoveChange'])[] }) {
  const { table, shown, before, after, measure } = useLongRows(rows.length, 26, String)
  return (
    <table ref={table} className="w-full table-fixed border-collapse" aria-rowcount={rows.length + 1}>
      <thead>
        <tr className="border-b hair text-left align-top [&>th]:py-1 [&>th]:pr-4">
          <th className="w-1/3" />
          <Head of={compared.left} />
          <Head of={compared.right} />
        </tr>
      </thead>
      <tbody>
        {before > 0 && <tr style={{ height: before }} aria-hidden />}
        {shown.map((i) => {
          const row = rows[i]!
          return typeof row === 'string' ? (
            <tr key={i} ref={measure} data-index={i}>
              <th scope="rowgroup" colSpan={3} className="border-b hair pt-3 pb-0.5 text-left font-semibold">
                {row}
              </th>
            </tr>
          ) : (
            <tr key={i} ref={measure} data-index={i} className="border-b hair align-top [&>td]:py-0.5 [&>td]:pr-4">
              <td>
                {row.before !== row.after && (
                  <span className="text-primary" title={t('configurations.differs')}>
                    ≠{' '}
                  </span>
                )}
                {row.name}
              </td>
              <td>{row.before || <span className="quiet">–</span>}</td>
              <td>{row.after || <span className="quiet">–</span>}</td>
            </tr>
          )
        })}
        {after > 0 && <tr style={{ height: after }} aria-hidden />}
      </tbody>
    </table>
  )
}

function Head({ of }: { of: Schemas['ComparedView'] }) {
  return (
    <th className="font-normal">
      <Link className="link font-semibold" to={`/configurations/${of.id}`}>
        {of.name}
      </Link>
      <span className="quiet block text-sm">
        {t('configurations.productCodeRevisionRevisionNumber', { productCode: of.productCode, revisionNumber: of.revisionNumber })}
        {of.site && `, ${of.site}`}
        {of.date && `, ${dayOf(of.date)}`}
        {of.customerClass !== null && `, ${of.customerClass}`}
        {!of.complete && t('configurations.notCompleteNoPartsToCompare')}
      </span>
    </th>
  )
}
