import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'
import { ask, client } from '../../api/client'
import { newId } from '../../api/ids'
import { inEnglish } from '../../ui/format'
import { SearchField } from '../../ui/SearchField'
import { Sheet } from '../../ui/Sheet'
import { remove, reuse, reusedModelOf, set, type ReusedModel, type Row } from './model'
import { useWorkshop } from './Workshop'
import { t } from '../../texts'

type Place = Extract<Row, { kind: 'subassembly' }>

const anotherProduct = '+'

/** What fills a subassembly: an assembly of this model, or a released revision of another product. */
export function FilledBy({ place, ...common }: { place: Place; id: string; disabled: boolean; 'aria-label': string }) {
  const { document, model, goToAssembly } = useWorkshop()
  const [choosing, setChoosing] = useState(false)
  const reused = reusedModelOf(document, place.assemblyId)
  const own = document.assemblies.filter((a) => a.id !== document.root)
  const known = reused !== undefined || own.some((a) => a.id === place.assemblyId)
  // What was given to the inputs of another assembly means nothing to this one.
  const fill = (assemblyId: string) => [...place.inputs.map((i) => remove(i.id)), set(place.id, 'assemblyId', assemblyId, place.assemblyId)]
  return (
    <div className="grid gap-1">
      <span className="flex flex-wrap items-center gap-1">
        <select
          {...common}
          className="select w-auto max-w-full"
          value={place.assemblyId}
          onChange={(e) => (e.target.value === anotherProduct ? setChoosing(true) : model.edit(...fill(e.target.value)))}
        >
          {!known && <option value={place.assemblyId}>{t('workshop.nothingThatIsThere')}</option>}
          <optgroup label={t('workshop.assembliesOfThisModel')}>
            {own.map((a) => (
              <option key={a.id} value={a.id}>
                {a.name}
              </option>
            ))}
          </optgroup>
          <optgroup label={t('workshop.otherProducts')}>
            {document.reused.map((r) => (
              <option key={r.id} value={r.id}>
                {t('workshop.codeRevisionRevision', { code: r.code, revision: r.revision })}
              </option>
            ))}
            <option value={anotherProduct}>{t('workshop.anotherProduct')}</option>
          </optgroup>
        </select>
        {known && (
          <button className="btn shrink-0" onClick={() => goToAssembly(place.assemblyId)}>
            {t('workshop.open')}
          </button>
        )}
        {reused && <PinnedRevision reused={reused} mayTake={!common.disabled} />}
      </span>
      {choosing && (
        <ProductChoice
          onClose={() => setChoosing(false)}
          onChoose={(productId, revision) => {
            const entryId = newId()
            model.edit(reuse(entryId, productId, revision, null), ...fill(entryId))
            setChoosing(false)
          }}
        />
      )}
    </div>
  )
}

/** Which revision of another product is reused, and whether a later one was released since. */
export function PinnedRevision({ reused, mayTake }: { reused: ReusedModel; mayTake: boolean }) {
  const { model } = useWorkshop()
  const product = useQuery({
    queryKey: ['product', reused.productId],
    queryFn: ({ signal }) => ask(client.GET('/api/products/{productId}', { params: { path: { productId: reused.productId } }, signal })),
    retry: false,
  })
  const latest = product.data?.released ?? 0
  return (
    <p className="quiet text-sm">
      {product.data ? (
        <Link className="link" to={`/products/${reused.productId}`}>
          {inEnglish(reused.label) || reused.code}
        </Link>
      ) : (
        inEnglish(reused.label) || reused.code
      )}{' '}
      {t('workshop.asItWasReleasedInRevision', { revision: reused.revision, latest: latest > reused.revision ? '; ' : '.' })}
      {latest > reused.revision && !mayTake && t('workshop.revisionLatestIsOut', { latest })}
      {latest > reused.revision && mayTake && (
        <button className="link" onClick={() => model.edit(reuse(reused.id, reused.productId, latest, reused.revision))}>
          {t('workshop.takeRevisionLatest', { latest })}
        </button>
      )}
    </p>
  )
}

/** The products that have a released revision. */
function ProductChoice({ onChoose, onClose }: { onChoose: (productId: string, revision: number) => void; onClose: () => void }) {
  const { document } = useWorkshop()
  const [search, setSearch] = useState('')
  const products = useQuery({
    queryKey: ['products', search],
    queryFn: ({ signal }) => ask(client.GET('/api/products', { params: { query: { search } }, signal })),
  })
  const others = (products.data ?? []).filter((p) => p.id !== document.id && p.released !== null)
  return (
    <Sheet title={t('workshop.fillItByAnotherProduct')} onClose={onClose}>
      <div className="grid gap-3">
        <SearchField label={t('workshop.searchTheProducts')} value={search} onChange={setSearch} />
        <ul className="max-h-80 overflow-auto">
          {others.map((p) => (
            <li key={p.id}>
              <button
                className="flex w-full items-baseline gap-3 border-b hair py-1.5 text-left hover:bg-base-200"
                onClick={() => onChoose(p.id, p.released!)}
              >
                <b className="w-16 shrink-0 font-semibold">{p.code}</b>
                <span className="flex-1">{p.label}</span>
                <span className="quiet text-sm">
                  {t('workshop.revision')} {p.released}
                </span>
              </button>
            </li>
          ))}
        </ul>
        {products.data && others.length === 0 && (
          <p className="quiet">{t('workshop.noOtherProductSearchHasA', { search: search === '' ? '' : t('workshop.withSearch', { search }) })}</p>
        )}
        <p className="quiet text-sm">{t('workshop.itIsKeptHereAsIt')}</p>
      </div>
    </Sheet>
  )
}
