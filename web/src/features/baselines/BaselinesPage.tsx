import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useNavigate } from 'react-router'
import { ask, client, sentenceOf, type Schemas } from '../../api/client'
import { newId } from '../../api/ids'
import { useRight } from '../../session/session'
import { moment } from '../../ui/format'
import { ListTable } from '../../ui/ListTable'
import { TitleBlock } from '../../ui/TitleBlock'
import { t } from '../../texts'

/** All baselines; whoever may makes a new one of what is released now. */
export function BaselinesPage() {
  const mayEdit = useRight('edit')
  const queries = useQueryClient()
  const go = useNavigate()
  const [id] = useState(newId)
  const [name, setName] = useState('')
  const [note, setNote] = useState('')
  const all = useQuery({ queryKey: ['baselines'], queryFn: ({ signal }) => ask(client.GET('/api/baselines', { signal })) })
  const make = useMutation({
    mutationFn: () => ask(client.POST('/api/baselines', { body: { id, name, note } })),
    onSuccess: async (made) => {
      await queries.invalidateQueries({ queryKey: ['baselines'] })
      await go(`/baselines/${made.baseline.id}`)
    },
  })
  const list = all.data ?? []
  return (
    <div className="mx-auto grid max-w-6xl gap-4 p-5">
      <TitleBlock title={t('baselines.baselines')} sub={t('baselines.whatTheyAre')} cells={[{ label: t('baselines.shown'), value: list.length }]} />
      {all.error && <p className="fault">{sentenceOf(all.error)}</p>}
      {mayEdit && (
        <form
          className="flex flex-wrap items-center gap-2"
          onSubmit={(e) => {
            e.preventDefault()
            make.mutate()
          }}
        >
          <input
            className="input w-56"
            aria-label={t('baselines.name')}
            placeholder={t('baselines.name')}
            required
            maxLength={200}
            value={name}
            onChange={(e) => setName(e.target.value)}
          />
          <input
            className="input min-w-48 flex-1"
            aria-label={t('baselines.note')}
            placeholder={t('baselines.note')}
            maxLength={2000}
            value={note}
            onChange={(e) => setNote(e.target.value)}
          />
          <button className="btn" disabled={make.isPending || name.trim() === ''}>
            {t('baselines.freeze')}
          </button>
          {make.error && (
            <p role="alert" className="fault w-full">
              {sentenceOf(make.error)}
            </p>
          )}
        </form>
      )}
      {all.data && list.length === 0 && <p className="quiet">{t('baselines.noneYet')}</p>}
      {list.length > 0 && (
        <ListTable<Schemas['Baseline']>
          label={t('baselines.baselines')}
          rows={list}
          keyOf={(b) => b.id}
          columns={[
            {
              key: 'name',
              name: t('baselines.name'),
              text: (b) => b.name,
              cell: (b) => (
                <Link className="link" to={`/baselines/${b.id}`}>
                  {b.name}
                </Link>
              ),
            },
            { key: 'note', name: t('baselines.note'), text: (b) => b.note, cell: (b) => b.note },
            { key: 'products', name: t('baselines.products'), look: 'text-right', text: (b) => String(b.products), cell: (b) => b.products },
            {
              key: 'made',
              name: t('baselines.made'),
              look: 'whitespace-nowrap',
              text: (b) => b.madeAt,
              cell: (b) => (
                <>
                  {moment(b.madeAt)} <span className="quiet">{b.person}</span>
                </>
              ),
            },
          ]}
        />
      )}
    </div>
  )
}
