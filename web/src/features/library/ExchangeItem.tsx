import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useId, useState } from 'react'
import { Link } from 'react-router'
import { ask, client, sentenceOf, type Schemas } from '../../api/client'
import { newId } from '../../api/ids'
import { DayField } from '../../ui/WhereFields'
import { TouchedProduct } from './TouchedProduct'
import { t } from '../../texts'

type Seen = Schemas['ExchangeProductView']

/** Replaces an item by another one in the drafts of chosen products, once it was seen what that changes. */
export function ExchangeItem({ number, substitutes }: { number: string; substitutes: string[] }) {
  const queries = useQueryClient()
  const known = useId()
  const [other, setOther] = useState('')
  const [from, setFrom] = useState<string | null>(null)
  const [left, setLeft] = useState<number[]>([])
  const path = { number }
  const look = useMutation({
    mutationFn: (asked: { with: string; from: string | null }) =>
      ask(client.POST('/api/items/{number}/exchange/preview', { params: { path }, body: asked })),
    onSuccess: () => {
      setLeft([])
      make.reset()
    },
  })
  const make = useMutation({
    mutationFn: (products: Seen[]) =>
      ask(
        client.POST('/api/items/{number}/exchange', {
          params: { path },
          body: { id: newId(), ...look.variables!, revisions: products.map((p) => ({ revisionId: p.touched.revisionId, head: p.head })) },
        }),
      ),
    onSuccess: () => queries.invalidateQueries({ predicate: (q) => ['item', 'products', 'product', 'revision'].includes(String(q.queryKey[0])) }),
  })
  const seen = look.data?.products ?? []
  const chosen = seen.filter((p) => p.places.length > 0 && !left.includes(p.touched.revisionId))
  return (
    <section aria-label={t('library.exchangeIt')}>
      <h2 className="border-b hair pb-0.5 font-semibold">{t('library.exchangeIt')}</h2>
      <form
        className="my-2 flex flex-wrap items-center gap-2"
        onSubmit={(e) => {
          e.preventDefault()
          look.mutate({ with: other.trim(), from })
        }}
      >
        <input
          className="input input-sm w-40"
          aria-label={t('library.theItemInItsPlace')}
          placeholder={t('library.theItemInItsPlace')}
          list={known}
          required
          value={other}
          onChange={(e) => setOther(e.target.value)}
        />
        <datalist id={known}>
          {substitutes.map((s) => (
            <option key={s} value={s} />
          ))}
        </datalist>
        <span className="quiet">{t('library.fromTheDay')}</span>
        <DayField date={from} onChange={setFrom} />
        <button className="btn btn-sm" disabled={look.isPending || other.trim() === ''}>
          {t('library.seeWhatItChanges')}
        </button>
        <span className="quiet text-sm">{from ? t('library.twoLinesEach') : t('library.forAlways')}</span>
      </form>
      {look.isPending && <p className="quiet">{t('library.everyProductIsAsked')}</p>}
      {(look.error ?? make.error) && (
        <p role="alert" className="fault">
          {sentenceOf(look.error ?? make.error)}
        </p>
      )}
      {look.data && !look.isPending && (
        <div className="grid gap-3">
          {seen.length === 0 && <p>{t('library.noDraftNamesIt')}</p>}
          {!look.data.finished && <p className="fault">{t('library.timeRanOut')}</p>}
          {seen.map((p) => (
            <OfProduct
              key={p.touched.code}
              seen={p}
              isChosen={chosen.includes(p)}
              onChoose={(choose) => setLeft(choose ? left.filter((x) => x !== p.touched.revisionId) : [...left, p.touched.revisionId])}
              made={make.data?.find((m) => m.productCode === p.touched.code)}
            />
          ))}
          {seen.length > 0 && !make.data && (
            <button
              className="btn btn-primary justify-self-start"
              disabled={chosen.length === 0 || make.isPending}
              onClick={() => make.mutate(chosen)}
            >
              {t('library.exchangeInN', { count: chosen.length })}
            </button>
          )}
        </div>
      )}
    </section>
  )
}

type OfProductProps = { seen: Seen; isChosen: boolean; onChoose: (choose: boolean) => void; made?: Schemas['ExchangeMade'] }

function OfProduct({ seen, isChosen, onChoose, made }: OfProductProps) {
  const { touched, places, left, sites } = seen
  const worse = sites.filter((s) => s.more.length > 0)
  return (
    <TouchedProduct product={touched}>
      {made ? (
        <p role="status" className={made.why ? 'fault' : 'font-semibold'}>
          {made.why || (
            <>
              {t('library.exchangedInPlaces', { count: made.places })}{' '}
              <Link className="link" to={`/workshop/${made.revisionId}`}>
                {t('library.openTheDraft')}
              </Link>
            </>
          )}
        </p>
      ) : (
        places.length > 0 && (
          <label className="flex items-center gap-2">
            <input type="checkbox" className="size-4 accent-primary" checked={isChosen} onChange={(e) => onChoose(e.target.checked)} />
            {t('library.exchangeHere', { count: places.length })}
          </label>
        )
      )}
      <ul className="text-sm">
        {places.map((p) => (
          <li key={p.rowId + p.field} className="border-b hair py-px">
            <b className="font-semibold">{p.name}</b> {p.before} → {p.after}
            {p.from && <i className="quiet"> {t('library.newLineFrom', { from: p.from })}</i>}
          </li>
        ))}
        {left.map((p) => (
          <li key={p.rowId + p.why} className="fault border-b hair py-px">
            <b className="font-semibold">{p.name}</b> {p.why}
          </li>
        ))}
      </ul>
      {worse.map((s) => (
        <p key={s.site} className="fault text-sm">
          {t('library.missingAt', { site: s.label })} {s.more.join(' ')}
        </p>
      ))}
    </TouchedProduct>
  )
}
