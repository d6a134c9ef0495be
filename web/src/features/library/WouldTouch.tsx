import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'
import { ask, client, sentenceOf, type Schemas } from '../../api/client'
import { t } from '../../texts'

type Touched = Schemas['TouchedProductView']

const columns = [
  ['cost', t('library.otherwiseCost')],
  ['weight', t('library.otherwiseWeight')],
  ['active', t('library.otherwiseActive')],
  ['unit', t('library.otherwiseUnit')],
] as const

/** What another cost, weight, unit or state of an item would touch, before it is stored. */
export function WouldTouch({ number, sites }: { number: string; sites: { site: string; label: string }[] }) {
  const [column, setColumn] = useState<string>('cost')
  const [value, setValue] = useState('')
  const look = useMutation({
    mutationFn: () =>
      ask(
        client.POST('/api/library/{table}/impact', {
          params: { path: { table: 'items' } },
          body: { columns: ['number', column], rows: [[number, value]], before: null },
        }),
      ),
  })
  return (
    <section aria-label={t('library.whatWouldItTouch')}>
      <h2 className="border-b hair pb-0.5 font-semibold">{t('library.whatWouldItTouch')}</h2>
      <form
        className="my-2 flex flex-wrap items-center gap-2"
        onSubmit={(e) => {
          e.preventDefault()
          look.mutate()
        }}
      >
        <select
          className="select select-sm w-40"
          aria-label={t('library.whatIsOtherwise')}
          value={column}
          onChange={(e) => setColumn(e.target.value)}
        >
          {columns.map(([key, name]) => (
            <option key={key} value={key}>
              {name}
            </option>
          ))}
          {sites.map((s) => (
            <option key={s.site} value={`store ${s.site}`}>
              {t('library.storeAt', { site: s.label })}
            </option>
          ))}
        </select>
        <input
          className="input input-sm w-40"
          aria-label={t('library.wouldBe')}
          placeholder={column === 'active' ? t('library.yesOrNo') : t('library.wouldBe')}
          value={value}
          onChange={(e) => setValue(e.target.value)}
        />
        <button className="btn btn-sm" disabled={look.isPending}>
          {t('library.seeWhatItTouches')}
        </button>
        <span className="quiet text-sm">{t('library.nothingIsStored')}</span>
      </form>
      {look.isPending && <p className="quiet">{t('library.everyProductIsAsked')}</p>}
      {look.error && (
        <p role="alert" className="fault">
          {sentenceOf(look.error)}
        </p>
      )}
      {look.data && !look.isPending && (
        <div role="status" className="grid gap-3">
          {look.data.products.length === 0 && <p>{t('library.itTouchesNothing')}</p>}
          {!look.data.finished && <p className="fault">{t('library.timeRanOut')}</p>}
          {look.data.products.map((p) => (
            <Product key={p.code} product={p} />
          ))}
        </div>
      )}
    </section>
  )
}

function Product({ product: p }: { product: Touched }) {
  return (
    <div className="border-l-3 border-primary pl-3">
      <p>
        <Link className="link" to={`/workshop/${p.revisionId}`}>
          {p.code}
        </Link>{' '}
        {p.label} <span className="quiet">{p.state === 'draft' || p.state === 'in review' ? t('library.itsDraft') : t('library.itsNextDraft')}</span>
      </p>
      {p.faults.map((f) => (
        <p key={f} className="fault">
          {f}
        </p>
      ))}
      {p.failingCases > 0 && (
        <details>
          <summary className="cursor-pointer">{t('library.casesWouldFail', { n: p.failingCases, all: p.cases })}</summary>
          <ul className="text-sm">
            {p.failing.map((f) => (
              <li key={f}>{f}</li>
            ))}
          </ul>
        </details>
      )}
      {p.entries.length > 0 && (
        <details>
          <summary className="cursor-pointer">{t('library.savedWouldChange', { n: p.entries.length, asked: p.asked })}</summary>
          <ul className="text-sm">
            {p.entries.map((e) => (
              <li key={e.id} className="border-b hair py-px">
                {e.name}:{' '}
                {e.because ||
                  e.changes
                    .slice(0, 3)
                    .map((c) => `${c.subject} ${c.before} → ${c.after}`)
                    .join('; ')}
              </li>
            ))}
          </ul>
        </details>
      )}
    </div>
  )
}
