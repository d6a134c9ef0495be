import { ArrowUp, Plus, Trash2 } from 'lucide-react'
import { newId } from '../../api/ids'
import { TextField } from '../../ui/TextField'
import { KindTable } from './KindTable'
import { add, move, remove, set, type Assembly, type Kind } from './model'
import { NewRow } from './NewRow'
import { RowLine } from './RowLine'
import { useWorkshop } from './Workshop'

export const topicElementId = (topicId: string) => `topic-${topicId}`

/** An assembly as one page, topic by topic; or one kind of its rows as a table. */
export function Worksheet({ assembly, openRow, kind }: { assembly: Assembly; openRow: string | null; kind: Kind | null }) {
  const { model, mayEdit, language, document } = useWorkshop()
  if (kind) return <KindTable assembly={assembly} kind={kind} />
  return (
    <div className="grid gap-4">
      {assembly.topics.map((topic, i) => (
        <section key={topic.id} id={topicElementId(topic.id)} aria-label={topic.label.en}>
          <div className="flex items-center gap-1 border-b border-base-content/60">
            <TextField
              className="border-transparent bg-transparent px-1.5 font-semibold hover:border-base-300"
              aria-label="Name of the topic"
              disabled={!mayEdit}
              value={topic.label[language] ?? ''}
              placeholder={topic.label.en ?? 'Name of the topic'}
              onCommit={(text, before) => model.edit(set(topic.id, `label/${language}`, text, before))}
            />
            {mayEdit && (
              <>
                <button className="act-bare" aria-label="Move topic up" disabled={i === 0} onClick={() => model.edit(move(topic.id, assembly.id, 'topics', assembly.topics[i - 2]?.id ?? null))}>
                  <ArrowUp className="size-3.5" />
                </button>
                <button className="act-bare" aria-label="Delete topic" onClick={() => model.edit(remove(topic.id))}>
                  <Trash2 className="size-3.5" />
                </button>
              </>
            )}
          </div>
          {topic.rows.length === 0 && <p className="quiet py-1 pl-12">Nothing here yet. {mayEdit ? 'Type the first row: what is asked, a rule, something computed, a part, an operation.' : ''}</p>}
          {topic.rows.map((row) => (
            <RowLine key={row.id} row={row} topic={topic} assembly={assembly} open={openRow === row.id} />
          ))}
          {mayEdit && <NewRow topic={topic} assembly={assembly} />}
        </section>
      ))}
      {assembly.id === document.root && (
        <label className="flex items-center gap-2">
          <input type="checkbox" className="size-4 accent-primary" disabled={!mayEdit} checked={document.sumLines} onChange={(e) => model.edit(set(document.id, 'sumLines', e.target.checked, document.sumLines))} />
          On bills of materials, parts with the same item, operation and figures are one line
        </label>
      )}
      {mayEdit && (
        <div>
          <button className="act" onClick={() => model.edit(add(assembly.id, 'topics', assembly.topics.at(-1)?.id ?? null, { id: newId(), label: { en: 'New topic' }, rows: [] }))}>
            <Plus className="size-4" /> Topic
          </button>
        </div>
      )}
    </div>
  )
}
