import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useParams } from 'react-router'
import { ask, client, sentenceOf } from '../../api/client'
import { useMe, useRight } from '../../session/session'
import { when } from '../../ui/format'
import { ReasonForm } from '../../ui/ReasonForm'
import { TitleBlock } from '../../ui/TitleBlock'
import { stateOf, useAct, type Concession } from './useConcessions'
import { t } from '../../texts'

/** One concession: what it sets aside, why, and whoever may sign it signs it here. */
export function ConcessionPage() {
  const { concessionId = '' } = useParams()
  const concession = useQuery({
    queryKey: ['concession', concessionId],
    queryFn: ({ signal }) => ask(client.GET('/api/concessions/{id}', { params: { path: { id: concessionId } }, signal })),
  })
  if (concession.error)
    return (
      <p className="p-8">
        {sentenceOf(concession.error)}{' '}
        <Link className="link" to="/concessions">
          {t('concessions.toAll')}
        </Link>
      </p>
    )
  if (!concession.data) return <p className="quiet p-8">{t('concessions.oneMoment')}</p>
  const c = concession.data
  return (
    <div className="mx-auto grid max-w-4xl gap-5 p-5">
      <TitleBlock
        title={t('concessions.concessionNumber', { number: c.number })}
        sub={
          <>
            {t('concessions.forTheConfiguration')}{' '}
            <Link className="link" to={`/configurations/${c.configurationId}`}>
              {c.configurationName}
            </Link>
          </>
        }
        cells={[
          { label: t('concessions.state'), value: stateOf(c) },
          { label: t('concessions.product'), value: `${c.productCode} ${c.productLabel}` },
          { label: t('concessions.revision'), value: c.revisionNumber },
          { label: t('concessions.until'), value: c.until },
          { label: t('concessions.used'), value: t('concessions.usedOf', { used: c.used, quantity: c.quantity }) },
        ]}
      />
      <section aria-label={t('concessions.rules')} className="grid gap-2">
        <p className="quiet border-b hair text-sm italic">{t('concessions.setAsideForIt')}</p>
        {c.rules.map((r) => (
          <p key={r.row} className="flex items-baseline gap-2">
            <b>{r.mark}</b>
            <span className="flex-1">{r.sentence}</span>
            <Link className="link text-sm whitespace-nowrap" to={`/concessions?rule=${encodeURIComponent(r.row)}`}>
              {t('concessions.othersOfThisRule')}
            </Link>
          </p>
        ))}
      </section>
      <section aria-label={t('concessions.reason')} className="grid gap-2">
        <p className="quiet border-b hair text-sm italic">{t('concessions.whatHappened')}</p>
        <p>
          <b>{c.askedBy}</b> <span className="quiet">{when(c.askedAt)}</span> {t('concessions.askedForIt')} {c.reason}
        </p>
        {c.answeredBy && (
          <p>
            <b>{c.answeredBy}</b> <span className="quiet">{when(c.answeredAt!)}</span> {answered(c)} {c.answer}
          </p>
        )}
        {c.withdrawnBy && (
          <p>
            <b>{c.withdrawnBy}</b> <span className="quiet">{when(c.withdrawnAt!)}</span> {t('concessions.withdrewIt')} {c.withdrawnWhy}
          </p>
        )}
      </section>
      <Acts concession={c} />
    </div>
  )
}

const answered = (c: Concession): string =>
  c.state === 'refused' ? t('concessions.refusedIt') : c.state === 'takenBack' ? t('concessions.tookItBack') : t('concessions.signedIt')

/** What may be done with it, by whom. */
function Acts({ concession: c }: { concession: Concession }) {
  const maySign = useRight('release')
  const own = useMe().name === c.askedBy
  const [asking, setAsking] = useState<'refuse' | 'withdraw' | null>(null)
  const at = { params: { path: { id: c.id } } }
  const sign = useAct(() => ask(client.POST('/api/concessions/{id}/sign', { ...at, body: { note: '' } })))
  const refuse = useAct((note: string) => ask(client.POST('/api/concessions/{id}/refuse', { ...at, body: { note } })))
  const takeBack = useAct(() => ask(client.POST('/api/concessions/{id}/take-back', at)))
  const withdraw = useAct((note: string) => ask(client.POST('/api/concessions/{id}/withdraw', { ...at, body: { note } })))
  const error = sign.error ?? takeBack.error
  const isSigned = ['holds', 'usedUp'].includes(c.state)
  return (
    <section aria-label={t('concessions.whatCanBeDone')} className="grid gap-3">
      <div className="flex flex-wrap gap-2">
        {maySign && !own && c.state === 'asked' && (
          <>
            <button className="btn btn-primary" disabled={sign.isPending} onClick={() => sign.mutate(undefined)}>
              {t('concessions.sign')}
            </button>
            <button className="btn" aria-expanded={asking === 'refuse'} onClick={() => setAsking(asking === 'refuse' ? null : 'refuse')}>
              {t('concessions.refuse')}
            </button>
          </>
        )}
        {own && c.state === 'asked' && (
          <button className="btn" disabled={takeBack.isPending} onClick={() => takeBack.mutate(undefined)}>
            {t('concessions.takeBack')}
          </button>
        )}
        {maySign && isSigned && (
          <button className="btn" aria-expanded={asking === 'withdraw'} onClick={() => setAsking(asking === 'withdraw' ? null : 'withdraw')}>
            {t('concessions.withdraw')}
          </button>
        )}
      </div>
      {own && maySign && c.state === 'asked' && <p className="quiet text-sm">{t('concessions.someoneElseSigns')}</p>}
      {asking === 'refuse' && c.state === 'asked' && (
        <ReasonForm
          label={t('concessions.whyItIsRefused')}
          send={t('concessions.refuseIt')}
          isPending={refuse.isPending}
          error={refuse.error}
          onSend={refuse.mutate}
        />
      )}
      {asking === 'withdraw' && isSigned && (
        <ReasonForm
          label={t('concessions.whyItIsWithdrawn')}
          send={t('concessions.withdrawIt')}
          isPending={withdraw.isPending}
          error={withdraw.error}
          onSend={withdraw.mutate}
        />
      )}
      {error && (
        <p role="alert" className="fault">
          {sentenceOf(error)}
        </p>
      )}
    </section>
  )
}
