import { createContext, useContext } from 'react'
import type { Schemas } from '../../api/client'
import type { Bench } from '../bench'
import type { HealthFinding } from '../health'
import type { Document, Finding } from './model'
import type { Model } from './useModel'
import type { Present } from './usePresence'

/** What every part of the workshop needs to know. */
export type Workshop = {
  revisionId: number
  document: Document
  findings: Finding[]
  /** What analysis found and nobody has accepted, notes aside. */
  health: HealthFinding[]
  model: Model
  bench: Bench
  library: Schemas['LibraryView'] | undefined
  /** Others who look at this revision just now, and at which row. */
  present: Present[]
  /** Whether this person may change this revision now. */
  mayEdit: boolean
  language: string
  goToAssembly: (assemblyId: string) => void
  goToList: (listId: string) => void
  /** Opens a row, at its name where it is to be renamed. */
  goToRow: (assemblyId: string, rowId: string | null, atName?: boolean) => void
  /** The row that is to be given another name; a new object each time. */
  renaming: { rowId: string } | null
  /** Lists where something of the model is named. */
  showUses: (id: string, name: string) => void
}

const Context = createContext<Workshop | null>(null)

export const WorkshopContext = Context.Provider

export function useWorkshop(): Workshop {
  const workshop = useContext(Context)
  if (!workshop) throw new Error('useWorkshop outside a workshop')
  return workshop
}
