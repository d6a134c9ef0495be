import { useQuery } from '@tanstack/react-query'
import { Link, useSearchParams } from 'react-router'
import { ask, client, sentenceOf, type Schemas } from '../../api/client'
import { moment } from '../../ui/format'
import { ListTable } from '../../ui/ListTable'
import { TitleBlock } from '../../ui/TitleBlock'
import { stateOf, type Concession } from './useConcessions'
import { t } from '../../texts'

/** All concessions, and the rules that are set aside by them. */
export function ConcessionsPage() {
  const [query, setQuery] = useSearchParams()
  const rule = query.get('rule')
  const product = query.get('product')
  const all = useQuery({
    queryKey: ['concessions', 'all', rule, product],
    queryFn: ({ signal }) =>
      ask(client.GET('/api/concessions', { params: { query: { ...(rule && { rule }), ...(product && { product }) } }, signal })),
  })
  const byRule = useQuery({ queryKey: ['concessions', 'rules'], queryFn: ({ signal }) => ask(client.GET('/api/concessions/rules', { signal })) })
  const list = all.data ?? []
  const rules = byRule.data ?? []
  const named = rules.find((r) => r.row === rule)
  return (
    <div className="mx-auto grid max-w-6xl gap-5 p-5">
      <TitleBlock
        title={t('concessions.concessions')}
        sub={t('concessions.whatTheyAre')}
        cells={[
          { label: t('concessions.askedForNow'), value: list.filter((c) => c.state === 'asked').length },
          { label: t('concessions.inForce'), value: list.filter((c) => c.state === 'holds').length },
        ]}
      />
      {(all.error ?? byRule.error) && <p className="fault">{sentenceOf(all.error ?? byRule.error)}</p>}
      {(rule ?? product) && (
        <p>
          {rule ? t('concessions.onlyOfRule', { mark: named?.mark ?? '' }) : t('concessions.onlyOfOneProduct')}{' '}
          <button className="link" onClick={() => setQuery({})}>
            {t('concessions.showAll')}
          </button>
        </p>
      )}
      {all.data && list.length === 0 && <p className="quiet">{t('concessions.noneYet')}</p>}
      {list.length > 0 && (
        <ListTable<Concession>
          label={t('concessions.concessions')}
          place="concessions"
          rows={list}
          keyOf={(c) => c.id}
          columns={[
            {
              key: 'number',
              name: t('concessions.number'),
              text: (c) => String(c.number),
              cell: (c) => (
                <Link className="link" to={`/concessions/${c.id}`}>
                  {c.number}
                </Link>
              ),
            },
            { key: 'state', name: t('concessions.state'), text: stateOf, cell: (c) => (c.state === 'asked' ? <b>{stateOf(c)}</b> : stateOf(c)) },
            {
              key: 'configuration',
              name: t('concessions.configuration'),
              text: (c) => `${c.configurationName} ${c.productCode}`,
              cell: (c) => (
                <>
                  <Link className="link" to={`/configurations/${c.configurationId}`}>
                    {c.configurationName}
                  </Link>{' '}
                  <span className="quiet">
                    {c.productCode} {c.revisionNumber}
                  </span>
                </>
              ),
            },
            {
              key: 'rules',
              name: t('concessions.rules'),
              text: (c) => c.rules.map((r) => r.mark).join(', '),
              cell: (c) => <span title={c.rules.map((r) => `${r.mark} ${r.sentence}`).join('\n')}>{c.rules.map((r) => r.mark).join(', ')}</span>,
            },
            { key: 'reason', name: t('concessions.reason'), text: (c) => c.reason, cell: (c) => c.reason },
            { key: 'until', name: t('concessions.until'), look: 'whitespace-nowrap', text: (c) => c.until, cell: (c) => c.until },
            {
              key: 'quantity',
              name: t('concessions.used'),
              look: 'text-right whitespace-nowrap',
              text: (c) => String(c.used),
              cell: (c) => t('concessions.usedOf', { used: c.used, quantity: c.quantity }),
            },
            {
              key: 'asked',
              name: t('concessions.askedBy'),
              look: 'whitespace-nowrap',
              text: (c) => c.askedBy,
              cell: (c) => (
                <>
                  {c.askedBy} <span className="quiet">{moment(c.askedAt)}</span>
                </>
              ),
            },
          ]}
        />
      )}
      {rules.length > 0 && rule === null && (
        <section aria-label={t('concessions.byRule')} className="grid gap-1">
          <h2 className="font-semibold">{t('concessions.byRule')}</h2>
          <p className="quiet text-sm">{t('concessions.oftenSetAside')}</p>
          <ListTable<Schemas['RuleConcessionsView']>
            label={t('concessions.byRule')}
            rows={rules}
            keyOf={(r) => r.productCode + r.row}
            columns={[
              { key: 'product', name: t('concessions.product'), text: (r) => r.productCode, cell: (r) => r.productCode },
              {
                key: 'rule',
                name: t('concessions.rule'),
                text: (r) => `${r.mark} ${r.sentence}`,
                cell: (r) => (
                  <button className="text-left hover:text-primary" onClick={() => setQuery({ rule: r.row })}>
                    <b className="link mr-1.5">{r.mark}</b>
                    {r.sentence}
                  </button>
                ),
              },
              { key: 'signed', name: t('concessions.signedTimes'), look: 'text-right', text: (r) => String(r.signed), cell: (r) => r.signed },
              { key: 'open', name: t('concessions.askedForNow'), look: 'text-right', text: (r) => String(r.open), cell: (r) => r.open },
              { key: 'latest', name: t('concessions.lastAsked'), look: 'whitespace-nowrap', text: (r) => r.latest, cell: (r) => moment(r.latest) },
            ]}
          />
        </section>
      )}
    </div>
  )
}
