import { useState, type DragEvent } from 'react'
import { toast } from 'sonner'
import { move, reusedModelOf, type Assembly, type Topic } from '../model'
import { useWorkshop } from '../Workshop'
import { putSteps, readCopied, rowsType } from './copiedRows'
import { topicType } from './TopicHead'
import { t } from '../../../texts'

/** Assemblies and topics of the outline take rows at their end, and assemblies whole topics. */
export function useDropTarget() {
  const { document, model, mayEdit, revisionId } = useWorkshop()
  const [isOver, setIsOver] = useState<string | null>(null)

  function drop(e: DragEvent, assembly: Assembly, topic: Topic | undefined) {
    e.preventDefault()
    setIsOver(null)
    const [from, id] = e.dataTransfer.getData(topicType).split(' ')
    if (id) {
      if (from === String(revisionId) && !assembly.topics.some((t) => t.id === id))
        model.edit(move(id, assembly.id, 'topics', assembly.topics.at(-1)?.id ?? null))
      return
    }
    const copied = readCopied(e.dataTransfer.getData(rowsType))
    if (!copied) return
    if (!topic) return void toast(t('workshop.nameHasNoTopicThatCould', { name: assembly.name }))
    const { steps, left } = putSteps(copied, { document, revisionId, topic, before: null, isMove: !e.ctrlKey })
    if (left.length > 0) toast(left.join(' '), { closeButton: true, duration: 15_000 })
    if (steps.length > 0) model.edit(...steps)
  }

  return {
    isOver,
    of: (assembly: Assembly, topic: Topic | undefined, key: string) =>
      !mayEdit || reusedModelOf(document, assembly.id)
        ? {}
        : {
            onDragOver: (e: DragEvent) => {
              if (!e.dataTransfer.types.some((t) => t === rowsType || t === topicType)) return
              e.preventDefault()
              setIsOver(key)
            },
            onDragLeave: () => setIsOver(null),
            onDrop: (e: DragEvent) => drop(e, assembly, topic),
          },
  }
}
