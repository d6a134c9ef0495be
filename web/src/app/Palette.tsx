import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/react-query'
import { useEffect, useId, useRef, useState, type KeyboardEvent } from 'react'
import { useLocation, useNavigate } from 'react-router'
import { ask, client, type Schemas } from '../api/client'
import { useDelayed } from '../ui/useDelayed'
import { t } from '../texts'

export type Command = { label: string; act: () => void }

type Hit = { key: string; kind: string; name: string; detail: string; act: () => void }

const mostOfAKind = 7

/** How well a text answers what is typed: it begins with it, a word of it does, it has it somewhere; 0 where it does not. */
export function rank(text: string, wanted: string): number {
  const [t, w] = [text.toLowerCase(), wanted.toLowerCase()]
  const words = w.split(/\s+/).filter(Boolean)
  if (!words.every((word) => t.includes(word))) return 0
  return t.startsWith(w)
    ? 3
    : words.every((word) => new RegExp(`(^|[^\\p{L}\\p{N}])${word.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')}`, 'u').test(t))
      ? 2
      : 1
}

/** The rows of the model that is open, with where they stand. */
function rowsOf(document: Schemas['ModelDocument'] | undefined) {
  return (document ? [...document.assemblies, ...document.reused.flatMap((r) => r.assemblies)] : []).flatMap((assembly) =>
    assembly.topics.flatMap((topic) =>
      topic.rows.map((row) => {
        const [name, number] = ['name' in row ? row.name : '', 'number' in row ? `§${row.number}` : '']
        const label = 'label' in row ? (row.label.en ?? '') : ''
        const said = 'expression' in row ? row.expression : 'item' in row ? row.item : 'when' in row ? `${row.when} ${row.then ?? ''}` : ''
        return {
          id: row.id,
          assemblyId: assembly.id,
          name: name || number || said,
          text: [number, name, label, said].join(' '),
          detail: [label, assembly.label.en ?? assembly.name].filter(Boolean).join(' · '),
        }
      }),
    ),
  )
}

/** Everything that can be opened or done, found by typing. */
export function Palette({ commands, onClose }: { commands: Command[]; onClose: () => void }) {
  const dialog = useRef<HTMLDialogElement>(null)
  const list = useRef<HTMLUListElement>(null)
  const id = useId()
  const go = useNavigate()
  const queries = useQueryClient()
  const { pathname } = useLocation()
  const [text, setText] = useState('')
  const [at, setAt] = useState(0)
  const wanted = text.trim()
  const asked = useDelayed(wanted, 120)
  useEffect(() => dialog.current?.showModal(), [])

  const found = useQuery({
    queryKey: ['palette', asked],
    queryFn: async ({ signal }) => {
      const query = { search: asked }
      const [products, configurations, items] = await Promise.all([
        ask(client.GET('/api/products', { params: { query }, signal })),
        ask(client.GET('/api/configurations', { params: { query }, signal })),
        ask(client.GET('/api/items', { params: { query }, signal })),
      ])
      return { products: products.slice(0, mostOfAKind), configurations: configurations.slice(0, mostOfAKind), items: items.slice(0, mostOfAKind) }
    },
    enabled: asked !== '',
    placeholderData: keepPreviousData,
    staleTime: 10_000,
  })

  const revisionId = Number(/^\/workshop\/(\d+)/.exec(pathname)?.[1] ?? Number.NaN)
  const document = queries.getQueryData<Schemas['RevisionView']>(['revision', revisionId])?.document
  const to = (path: string) => () => void go(path)
  const hits: Hit[] = [
    ...commands.map((c) => ({ key: c.label, kind: 'do', name: c.label, detail: '', act: c.act })),
    ...(wanted === ''
      ? []
      : rowsOf(document).map((r) => ({
          key: r.id,
          kind: 'row',
          name: r.name,
          detail: r.detail,
          text: r.text,
          act: to(`/workshop/${revisionId}?assembly=${r.assemblyId}&row=${r.id}`),
        }))),
    ...(wanted === '' || !found.data
      ? []
      : [
          ...found.data.products.map((p) => ({ key: p.id, kind: 'product', name: p.code, detail: p.label, act: to(`/products/${p.id}`) })),
          ...found.data.configurations.map((c) => ({
            key: c.id,
            kind: 'configuration',
            name: c.name,
            detail: t('app.productCodeRevisionRevisionNumber', { productCode: c.productCode, revisionNumber: c.revisionNumber }),
            act: to(`/configurations/${c.id}`),
          })),
          ...found.data.items.map((i) => ({
            key: i.number,
            kind: 'item',
            name: i.number,
            detail: i.description,
            act: to(`/items/${encodeURIComponent(i.number)}`),
          })),
        ]),
  ]
  const kinds = ['do', 'row', 'product', 'configuration', 'item']
  const ranked = hits
    .map((h) => ({ ...h, rank: wanted === '' ? 1 : rank(`${'text' in h ? String(h.text) : h.name} ${h.detail}`, wanted) }))
    .filter((h) => h.rank > 0)
    .sort((a, b) => b.rank - a.rank || kinds.indexOf(a.kind) - kinds.indexOf(b.kind))
  const shown = kinds.flatMap((kind) => ranked.filter((h) => h.kind === kind).slice(0, mostOfAKind)).sort((a, b) => b.rank - a.rank)
  const chosen = Math.min(at, Math.max(0, shown.length - 1))

  function take(hit: Hit | undefined) {
    if (!hit) return
    dialog.current?.close()
    hit.act()
  }

  function press(e: KeyboardEvent) {
    const by = { ArrowDown: 1, ArrowUp: -1 }[e.key]
    if (e.key === 'Enter') take(shown[chosen])
    if (by === undefined) return
    e.preventDefault()
    const next = Math.max(0, Math.min(shown.length - 1, chosen + by))
    setAt(next)
    list.current?.children[next]?.scrollIntoView({ block: 'nearest' })
  }

  return (
    <dialog
      ref={dialog}
      aria-label={t('app.openOrDo')}
      onClose={onClose}
      onClick={(e) => e.target === dialog.current && dialog.current.close()}
      className="mx-auto mt-[12vh] w-[min(40rem,94vw)] border hair bg-base-100 p-0 text-base-content shadow-lg backdrop:bg-black/30"
    >
      <input
        className="w-full border-b hair bg-base-100 px-4 py-2.5 text-lg outline-none"
        role="combobox"
        aria-label={t('app.openOrDo')}
        aria-expanded={shown.length > 0}
        aria-controls={id}
        aria-activedescendant={shown.length > 0 ? `${id}-${chosen}` : undefined}
        placeholder={t('app.productRowItemConfigurationPageCommand')}
        autoFocus
        value={text}
        onChange={(e) => {
          setText(e.target.value)
          setAt(0)
        }}
        onKeyDown={press}
      />
      <ul ref={list} id={id} role="listbox" aria-label={t('app.whatWasFound')} className="max-h-[50vh] overflow-auto py-1">
        {shown.map((hit, i) => (
          <li
            key={`${hit.kind} ${hit.key}`}
            id={`${id}-${i}`}
            role="option"
            aria-selected={i === chosen}
            className={`grid cursor-pointer grid-cols-[7rem_minmax(0,1fr)] gap-2 px-4 py-1 ${i === chosen ? 'bg-primary/12' : ''}`}
            onPointerMove={() => setAt(i)}
            onClick={() => take(hit)}
          >
            <span className="quiet text-sm italic">{hit.kind}</span>
            <span className="truncate">
              <b className="font-semibold">{hit.name}</b> <span className="quiet">{hit.detail}</span>
            </span>
          </li>
        ))}
      </ul>
      {shown.length === 0 && (
        <p className="quiet px-4 pb-3">{found.isFetching || asked !== wanted ? t('app.looking') : t('app.nothingIsCalledWanted', { wanted })}</p>
      )}
    </dialog>
  )
}
