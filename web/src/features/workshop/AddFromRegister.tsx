import { useQuery } from '@tanstack/react-query'
import { Plus } from 'lucide-react'
import { useState } from 'react'
import { ask, client, sentenceOf, type Schemas } from '../../api/client'
import { newId } from '../../api/ids'
import { inEnglish } from '../../ui/format'
import { Sheet } from '../../ui/Sheet'
import { add } from './model'
import { useWorkshop } from './Workshop'
import { t } from '../../texts'

type Item = Schemas['ItemView']

/** While a model is tried out a part or a value is missed: it is looked up in the register and added to the draft. The picks stay. */
export function AddFromRegister({ onNextRevision }: { onNextRevision?: () => void }) {
  const { mayEdit } = useWorkshop()
  const [open, setOpen] = useState(false)
  if (!mayEdit && !onNextRevision) return null
  return (
    <>
      <button className="btn btn-ghost btn-sm mt-2" onClick={() => setOpen(true)}>
        <Plus className="size-4" /> {t('workshop.somethingIsMissingAddItFrom')}
      </button>
      {open && (
        <Sheet title={t('workshop.addFromTheRegister')} onClose={() => setOpen(false)}>
          {mayEdit ? (
            <Form onDone={() => setOpen(false)} />
          ) : (
            <div className="grid gap-2">
              <p>{t('workshop.thisRevisionStaysAsItIs')}</p>
              <div>
                <button className="btn btn-primary" onClick={onNextRevision}>
                  {t('workshop.openTheNextRevision')}
                </button>
              </div>
            </div>
          )}
        </Sheet>
      )}
    </>
  )
}

function Form({ onDone }: { onDone: () => void }) {
  const { document, model, goToRow, goToList } = useWorkshop()
  const [search, setSearch] = useState('')
  const [item, setItem] = useState<Item | null>(null)
  const [as, setAs] = useState<'part' | 'value'>('part')
  const topics = document.assemblies.flatMap((a) =>
    a.topics.map((topic) => ({
      id: topic.id,
      assemblyId: a.id,
      last: topic.rows.at(-1)?.id ?? null,
      name: `${inEnglish(a.label) || a.name}: ${inEnglish(topic.label) || t('workshop.topic2')}`,
    })),
  )
  // Of a list whose values name items, the property that does.
  const lists = document.lists.map((l) => ({
    list: l,
    property: l.properties.find((p) => p.type === 'text' && /item/i.test(p.name)) ?? l.properties.find((p) => p.type === 'text'),
  }))
  const [topicId, setTopicId] = useState(topics.at(-1)?.id ?? '')
  const [listId, setListId] = useState(lists[0]?.list.id ?? '')
  const [quantity, setQuantity] = useState('1')
  const [when, setWhen] = useState('')
  const found = useQuery({
    queryKey: ['items', search],
    queryFn: ({ signal }) => ask(client.GET('/api/items', { params: { query: { search } }, signal })),
    enabled: search.trim() !== '' && item === null,
  })

  function store(chosen: Item) {
    const id = newId()
    const topic = topics.find((t) => t.id === topicId)
    const target = lists.find((l) => l.list.id === listId)
    if (as === 'part' && topic) {
      model.edit(add(topic.id, 'rows', topic.last, { kind: 'part', id, item: chosen.number, quantity, appliesWhen: when }))
      goToRow(topic.assemblyId, id)
    } else if (as === 'value' && target) {
      model.edit(
        add(target.list.id, 'values', target.list.values.at(-1)?.id ?? null, {
          id,
          code: chosen.number,
          label: { en: chosen.description || chosen.number },
          properties: target.property ? { [target.property.id]: chosen.number } : {},
        }),
      )
      goToList(target.list.id)
    }
    onDone()
  }

  return (
    <form
      className="grid gap-3"
      onSubmit={(e) => {
        e.preventDefault()
        if (item) store(item)
      }}
    >
      <label className="grid gap-0.5">
        <span className="quiet text-sm italic">{t('workshop.numberOrWordsOfItsDescription')}</span>
        <input
          className="input"
          autoFocus
          value={item ? `${item.number}  ${item.description}` : search}
          onChange={(e) => {
            setItem(null)
            setSearch(item ? '' : e.target.value)
          }}
        />
      </label>
      {found.error && <p className="fault">{sentenceOf(found.error)}</p>}
      {item === null && found.data && (
        <ul className="max-h-60 overflow-auto border hair" aria-label={t('workshop.foundInTheRegister')}>
          {found.data.length === 0 && <li className="quiet px-2 py-1">{t('workshop.nothingInTheRegisterHasSearch', { search })}</li>}
          {found.data.slice(0, 50).map((i) => (
            <li key={i.number} className="border-b hair">
              <button type="button" className="flex w-full gap-3 px-2 py-0.5 text-left hover:bg-base-200" onClick={() => setItem(i)}>
                <b className="w-28 shrink-0 font-semibold">{i.number}</b>
                <span className="flex-1 truncate">{i.description}</span>
                <span className="quiet">{i.active ? i.unit || t('workshop.pcs') : t('workshop.noLongerActive')}</span>
              </button>
            </li>
          ))}
        </ul>
      )}
      {item && (
        <>
          {!item.active && <p className="fault">{t('workshop.numberIsNoLongerActiveThe', { number: item.number })}</p>}
          <div className="flex gap-4" role="radiogroup" aria-label={t('workshop.addItAs')}>
            {(
              [
                ['part', t('workshop.asAPartLine')],
                ['value', t('workshop.asAValueOfAList')],
              ] as const
            ).map(([key, label]) => (
              <label key={key} className="flex items-center gap-1.5">
                <input
                  type="radio"
                  name="as"
                  className="accent-primary"
                  checked={as === key}
                  disabled={key === 'value' && lists.length === 0}
                  onChange={() => setAs(key)}
                />
                {label}
              </label>
            ))}
          </div>
          {as === 'part' ? (
            <div className="grid grid-cols-2 gap-2">
              <Labelled label={t('workshop.in')}>
                <select className="select" value={topicId} onChange={(e) => setTopicId(e.target.value)}>
                  {topics.map((t) => (
                    <option key={t.id} value={t.id}>
                      {t.name}
                    </option>
                  ))}
                </select>
              </Labelled>
              <Labelled label={t('workshop.quantityUnit', { unit: item.unit ? t('workshop.suchAs2Unit', { unit: item.unit }) : '' })}>
                <input className="input font-mono" required value={quantity} onChange={(e) => setQuantity(e.target.value)} />
              </Labelled>
              <div className="col-span-2">
                <Labelled label={t('workshop.appliesWhenEmptyForAlways')}>
                  <input className="input font-mono" value={when} onChange={(e) => setWhen(e.target.value)} />
                </Labelled>
              </div>
            </div>
          ) : (
            <Labelled label={t('workshop.ofTheList')}>
              <select className="select" value={listId} onChange={(e) => setListId(e.target.value)}>
                {lists.map(({ list, property }) => (
                  <option key={list.id} value={list.id}>
                    {list.name}
                    {property ? t('workshop.itsNameIsTheItem', { name: property.name }) : ''}
                  </option>
                ))}
              </select>
            </Labelled>
          )}
          <div>
            <button className="btn btn-primary">{t('workshop.addIt')}</button>
          </div>
        </>
      )}
    </form>
  )
}

const Labelled = ({ label, children }: { label: string; children: React.ReactNode }) => (
  <label className="grid gap-0.5">
    <span className="quiet text-sm italic">{label}</span>
    {children}
  </label>
)
