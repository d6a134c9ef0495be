import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { ask, client, sentenceOf } from '../../api/client'
import { TouchedProduct } from './TouchedProduct'
import { t } from '../../texts'

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
            <TouchedProduct key={p.code} product={p} />
          ))}
        </div>
      )}
    </section>
  )
}
