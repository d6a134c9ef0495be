import { useRef } from 'react'
import { toast } from 'sonner'
import type { Step } from './model'
import type { Model } from './useModel'

/** Edits of one table: undo and redo there take back its own, and nothing that was changed elsewhere. */
export function useEditsHere(model: Model) {
  const past = useRef<string[]>([])
  const undone = useRef<string[]>([])
  return {
    edit: (...steps: Step[]) => {
      if (steps.length === 0) return
      past.current.push(model.edit(...steps))
      undone.current = []
    },
    undo: () => {
      const of = past.current.pop()
      if (of === undefined)
        toast('Nothing was changed in this table that could be taken back; the arrows above take back what was changed elsewhere.')
      else undone.current.push(model.undo(of))
    },
    redo: () => {
      const of = undone.current.pop()
      if (of === undefined) toast('Nothing was taken back in this table.')
      else past.current.push(model.redo(of))
    },
  }
}
