import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Bookmark, X } from 'lucide-react'
import { useState } from 'react'
import { ask, client, sentenceOf } from '../api/client'
import { newId } from '../api/ids'
import { t } from '../texts'

type Props = {
  /** Which list or page. */
  place: string
  /** How it is narrowed now; empty where it is not. */
  state: string
  onOpen: (state: string) => void
}

/** Narrowings of a page under a name: one's own, and those for all. */
export function SavedViews({ place, state, onOpen }: Props) {
  const queries = useQueryClient()
  const [isNaming, setNaming] = useState(false)
  const [name, setName] = useState('')
  const [forAll, setForAll] = useState(false)
  const key = ['views', place]
  const views = useQuery({ queryKey: key, queryFn: ({ signal }) => ask(client.GET('/api/views', { params: { query: { place } }, signal })) })
  const readAgain = () => queries.invalidateQueries({ queryKey: key })
  const keep = useMutation({
    mutationFn: () => ask(client.PUT('/api/views/{id}', { params: { path: { id: newId() } }, body: { place, name, state, forAll } })),
    onSuccess: async () => {
      setNaming(false)
      setName('')
      await readAgain()
    },
  })
  const forget = useMutation({
    mutationFn: (id: string) => ask(client.DELETE('/api/views/{id}', { params: { path: { id } } })),
    onSuccess: readAgain,
  })
  const list = views.data ?? []
  return (
    <div className="flex flex-wrap items-center gap-x-3 gap-y-1 text-sm">
      {list.length > 0 && <span className="quiet italic">{t('ui.views')}</span>}
      {list.map((v) => (
        <span key={v.id} className="inline-flex items-center gap-0.5">
          <button className={v.state === state ? 'font-semibold' : 'link'} aria-pressed={v.state === state} onClick={() => onOpen(v.state)}>
            {v.name}
          </button>
          {!v.isOwn && <span className="quiet">{t('ui.ofPerson', { person: v.person })}</span>}
          {v.isOwn && (
            <button
              className="btn btn-ghost btn-sm px-1"
              aria-label={t('ui.forgetView', { name: v.name })}
              disabled={forget.isPending}
              onClick={() => forget.mutate(v.id)}
            >
              <X className="size-3" />
            </button>
          )}
        </span>
      ))}
      {!isNaming && state !== '' && list.every((v) => v.state !== state) && (
        <button className="btn btn-ghost btn-sm" onClick={() => setNaming(true)}>
          <Bookmark className="size-3.5" /> {t('ui.keepThisView')}
        </button>
      )}
      {isNaming && (
        <form
          className="flex flex-wrap items-center gap-2"
          onSubmit={(e) => {
            e.preventDefault()
            keep.mutate()
          }}
        >
          <input
            className="input input-sm w-40"
            aria-label={t('ui.nameOfTheView')}
            placeholder={t('ui.nameOfTheView')}
            autoFocus
            required
            maxLength={200}
            value={name}
            onChange={(e) => setName(e.target.value)}
            onKeyDown={(e) => e.key === 'Escape' && setNaming(false)}
          />
          <label className="flex items-center gap-1">
            <input type="checkbox" className="size-4 accent-primary" checked={forAll} onChange={(e) => setForAll(e.target.checked)} />
            {t('ui.forAll')}
          </label>
          <button className="btn btn-sm" disabled={keep.isPending || name.trim() === ''}>
            {t('ui.keep')}
          </button>
        </form>
      )}
      {(keep.error ?? forget.error) && (
        <span role="alert" className="fault">
          {sentenceOf(keep.error ?? forget.error)}
        </span>
      )}
    </div>
  )
}
