import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Plus, Upload } from 'lucide-react'
import { useRef, useState, type FormEvent } from 'react'
import { Link, useNavigate, useSearchParams } from 'react-router'
import { toast } from 'sonner'
import { ask, client, ProblemError, sentenceOf } from '../../api/client'
import { newId } from '../../api/ids'
import { useRight } from '../../session/session'
import { moment } from '../../ui/format'
import { ListTable } from '../../ui/ListTable'
import { SearchField } from '../../ui/SearchField'
import { Sheet } from '../../ui/Sheet'
import { TitleBlock } from '../../ui/TitleBlock'
import { WaitingForMe } from '../reviews'
import { t } from '../../texts'

/** As many as the server lists. */
const mostListed = 500

export function ProductsPage() {
  const [query, setQuery] = useSearchParams()
  const search = query.get('search') ?? ''
  const mayEdit = useRight('edit')
  const mayConfigure = useRight('configure')
  const [making, setMaking] = useState(false)
  const products = useQuery({
    queryKey: ['products', search],
    queryFn: ({ signal }) => ask(client.GET('/api/products', { params: { query: { search } }, signal })),
    placeholderData: keepPreviousData,
  })
  const list = products.data ?? []

  return (
    <div className="mx-auto grid max-w-6xl gap-4 p-5">
      <TitleBlock
        title={t('products.products')}
        sub={t('products.whatCanBeOrderedAndThe')}
        cells={[{ label: t('products.shown'), value: list.length }]}
        actions={
          <>
            <Link className="btn" to="/baselines">
              {t('products.baselines')}
            </Link>
            {mayEdit && (
              <>
                <button className="btn btn-primary" onClick={() => setMaking(true)}>
                  <Plus className="size-4" /> {t('products.newProduct')}
                </button>
                <ImportButton />
              </>
            )}
          </>
        }
      />
      <SearchField label={t('products.searchProducts')} value={search} onChange={(s) => setQuery(s ? { search: s } : {}, { replace: true })} />
      <WaitingForMe />
      {products.error && <p className="fault">{sentenceOf(products.error)}</p>}
      {products.data && list.length === 0 && (
        <p className="quiet">{search ? t('products.noProductHasSearchInIts', { search }) : t('products.noProductYetAProductHas')}</p>
      )}
      {list.length >= mostListed && <p className="quiet">{t('products.theFirstMostListedByCodeAre', { mostListed })}</p>}
      {list.length > 0 && (
        <ListTable
          label={t('products.products')}
          rows={list}
          keyOf={(p) => p.id}
          columns={[
            { key: 'code', name: t('products.code'), text: (p) => p.code, cell: (p) => <b className="font-semibold">{p.code}</b> },
            {
              key: 'label',
              name: t('products.product'),
              text: (p) => p.label,
              cell: (p) => (
                <Link className="link" to={`/products/${p.id}`}>
                  {p.label}
                </Link>
              ),
            },
            {
              key: 'revision',
              name: t('products.latestRevision2'),
              text: (p) => `${p.number} ${p.state}`,
              cell: (p) => (
                <>
                  {p.number} <span className={p.state === 'in review' ? 'font-semibold text-primary' : 'quiet'}>{p.state}</span>
                </>
              ),
            },
            { key: 'released', name: t('products.released'), text: (p) => String(p.released ?? ''), cell: (p) => p.released ?? '–' },
            { key: 'author', name: t('products.author'), text: (p) => p.author, cell: (p) => p.author },
            { key: 'changed', name: t('products.changed'), look: 'whitespace-nowrap', text: (p) => p.changedAt, cell: (p) => moment(p.changedAt) },
            {
              key: 'do',
              name: t('products.whatCanBeDone'),
              isQuiet: true,
              cell: (p) => (
                <span className="flex justify-end gap-1.5">
                  <Link className="btn" to={`/workshop/${p.revisionId}`}>
                    {t('products.workshop')}
                  </Link>
                  {mayConfigure && p.released !== null && (
                    <Link className="btn" to={`/products/${p.id}?configure`}>
                      {t('products.configure')}
                    </Link>
                  )}
                </span>
              ),
            },
          ]}
        />
      )}
      {(making || query.has('new')) && <NewProduct onClose={() => (setMaking(false), query.has('new') && setQuery({}, { replace: true }))} />}
    </div>
  )
}

function NewProduct({ onClose }: { onClose: () => void }) {
  const go = useNavigate()
  const queries = useQueryClient()
  const [id] = useState(newId)
  const make = useMutation({
    mutationFn: (form: FormData) =>
      ask(client.POST('/api/products', { body: { id, code: String(form.get('code')), label: String(form.get('label')) } })),
    onSuccess: (made) => {
      void queries.invalidateQueries({ queryKey: ['products'] })
      void go(`/workshop/${made.revisionId}`)
    },
  })
  const pointer = make.error instanceof ProblemError ? make.error.problem.pointer : undefined
  return (
    <Sheet title={t('products.newProduct2')} onClose={onClose}>
      <form
        className="grid gap-3"
        onSubmit={(e: FormEvent<HTMLFormElement>) => {
          e.preventDefault()
          make.mutate(new FormData(e.currentTarget))
        }}
      >
        <label className="grid gap-1">
          {t('products.code')}
          <input name="code" className="input max-w-40" autoFocus required maxLength={40} aria-invalid={pointer === '/code'} />
          {pointer === '/code' && <span className="fault text-sm">{sentenceOf(make.error)}</span>}
        </label>
        <label className="grid gap-1">
          {t('products.name')}
          <input name="label" className="input" required maxLength={200} aria-invalid={pointer === '/label'} />
          {pointer === '/label' && <span className="fault text-sm">{sentenceOf(make.error)}</span>}
        </label>
        {make.error && !pointer && <p className="fault">{sentenceOf(make.error)}</p>}
        <div>
          <button className="btn btn-primary" disabled={make.isPending}>
            {t('products.makeItAndOpenTheWorkshop')}
          </button>
        </div>
      </form>
    </Sheet>
  )
}

function ImportButton() {
  const file = useRef<HTMLInputElement>(null)
  const queries = useQueryClient()
  const go = useNavigate()

  async function take(chosen: File | undefined) {
    if (!chosen) return
    try {
      const isUvl = chosen.name.toLowerCase().endsWith('.uvl')
      const response = await fetch(`/api/products/file${isUvl ? '?format=uvl' : ''}`, {
        method: 'POST',
        headers: { 'X-Juniperfall': '1', 'Content-Type': isUvl ? 'text/plain' : 'application/json' },
        body: chosen,
      })
      const answer = await response.json()
      if (!response.ok) throw new Error(answer.detail)
      await queries.invalidateQueries({ queryKey: ['products'] })
      if (answer.unread?.length > 0)
        toast(t('products.nameWasReadButForThis', { name: chosen.name }), {
          description: (
            <ul className="max-h-60 overflow-auto">
              {answer.unread.map((note: string) => (
                <li key={note}>{note}</li>
              ))}
            </ul>
          ),
          duration: Infinity,
          closeButton: true,
        })
      void go(`/workshop/${answer.revisionId}`)
    } catch (e) {
      toast.error(`${chosen.name}: ${sentenceOf(e)}`, { duration: 20_000, closeButton: true })
    }
  }

  return (
    <>
      <button className="btn" onClick={() => file.current?.click()}>
        <Upload className="size-4" /> {t('products.importAModelFile')}
      </button>
      <input
        ref={file}
        type="file"
        accept="application/json,.json,.uvl"
        className="hidden"
        aria-label={t('products.modelFile2')}
        onChange={(e) => {
          void take(e.target.files?.[0])
          e.target.value = ''
        }}
      />
    </>
  )
}
