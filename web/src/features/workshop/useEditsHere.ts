import { useRef } from 'react'
import { toast } from 'sonner'
import { inEdits, type Step } from './model'
import type { Model } from './useModel'
import { t } from '../../texts'

/**
 * Edits of one table, large ones in several parts that are taken back together. Undo and redo there take back its own, and nothing that was
 * changed elsewhere.
 */
export function useEditsHere(model: Model) {
  const past = useRef<string[][]>([])
  const undone = useRef<string[][]>([])
  return {
    edit: (...steps: Step[]) => {
      if (steps.length === 0) return
      past.current.push(inEdits(steps).map((some) => model.edit(...some)))
      undone.current = []
    },
    undo: () => {
      const of = past.current.pop()
      if (of === undefined) toast(t('workshop.nothingWasChangedInThisTable'))
      else undone.current.push(of.toReversed().map((id) => model.undo(id)))
    },
    redo: () => {
      const of = undone.current.pop()
      if (of === undefined) toast(t('workshop.nothingWasTakenBackInThis'))
      else past.current.push(of.toReversed().map((id) => model.redo(id)))
    },
  }
}
