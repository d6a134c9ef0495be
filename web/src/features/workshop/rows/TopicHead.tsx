import { ArrowDown, ArrowUp, GripVertical, Trash2 } from 'lucide-react'
import { useState } from 'react'
import { TextField } from '../../../ui/TextField'
import { move, remove, set, type Assembly, type Topic } from '../model'
import { useWorkshop } from '../Workshop'
import { readCopied, rowsType } from './copiedRows'
import { useRows } from './useRowActions'
import { t } from '../../../texts'

/** Under which a topic that is dragged is known. */
export const topicType = 'application/x-juniperfall-topic'

/** The head of a topic: its name, and the handle by which it is dragged to its place. Rows dropped on it come first in it. */
export function TopicHead({ topic, assembly, index }: { topic: Topic; assembly: Assembly; index: number }) {
  const { model, mayEdit, language, revisionId } = useWorkshop()
  const rows = useRows()
  const [isOver, setIsOver] = useState(false)
  const place = (after: number) => model.edit(move(topic.id, assembly.id, 'topics', assembly.topics[after]?.id ?? null))

  return (
    <div
      className={`flex items-center gap-1 border-b border-base-content/60 ${isOver ? 'shadow-[0_-2px_0_var(--color-primary)]' : ''}`}
      onDragOver={(e) => {
        if (!mayEdit || !e.dataTransfer.types.some((t) => t === topicType || t === rowsType)) return
        e.preventDefault()
        e.stopPropagation()
        if (e.dataTransfer.types.includes(topicType)) setIsOver(true)
        else rows.setDrop({ topicId: topic.id, before: topic.rows[0]?.id ?? null })
      }}
      onDragLeave={() => setIsOver(false)}
      onDrop={(e) => {
        e.preventDefault()
        e.stopPropagation()
        setIsOver(false)
        rows.setDrop(null)
        const copied = readCopied(e.dataTransfer.getData(rowsType))
        if (copied) return rows.put(copied, topic, topic.rows[0]?.id ?? null, !e.ctrlKey)
        const [from, id] = e.dataTransfer.getData(topicType).split(' ')
        const others = assembly.topics.slice(0, index).filter((t) => t.id !== id)
        if (id && id !== topic.id && from === String(revisionId)) model.edit(move(id, assembly.id, 'topics', others.at(-1)?.id ?? null))
      }}
    >
      {mayEdit && (
        <span
          draggable
          title={t('workshop.dragTheTopicToItsPlace')}
          className="cursor-grab quiet"
          onDragStart={(e) => {
            e.dataTransfer.setData(topicType, `${revisionId} ${topic.id}`)
            e.dataTransfer.effectAllowed = 'move'
          }}
        >
          <GripVertical className="size-4" aria-hidden />
        </span>
      )}
      <TextField
        className="border-transparent bg-transparent px-1.5 font-semibold hover:border-base-300"
        aria-label={t('workshop.nameOfTheTopic')}
        disabled={!mayEdit}
        value={topic.label[language] ?? ''}
        placeholder={topic.label.en ?? t('workshop.nameOfTheTopic')}
        onCommit={(text, before) => model.edit(set(topic.id, `label/${language}`, text, before))}
      />
      {mayEdit && (
        <>
          <button className="btn btn-ghost btn-sm" aria-label={t('workshop.moveTopicUp')} disabled={index === 0} onClick={() => place(index - 2)}>
            <ArrowUp className="size-3.5" />
          </button>
          <button
            className="btn btn-ghost btn-sm"
            aria-label={t('workshop.moveTopicDown')}
            disabled={index === assembly.topics.length - 1}
            onClick={() => place(index + 1)}
          >
            <ArrowDown className="size-3.5" />
          </button>
          <button className="btn btn-ghost btn-sm" aria-label={t('workshop.deleteTopic')} onClick={() => model.edit(remove(topic.id))}>
            <Trash2 className="size-3.5" />
          </button>
        </>
      )}
    </div>
  )
}
