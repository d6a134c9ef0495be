import { createContext, useContext, useEffect, useRef, useState } from 'react'
import { toast } from 'sonner'
import { placeOf, remove, rowsOf, type Assembly, type Row, type Topic } from '../model'
import { useWorkshop } from '../Workshop'
import { copyRows, moveSteps, putSteps, readCopied, rowsType, type CopiedRows } from './copiedRows'
import { lineOf } from './lineOf'
import { useRowMarks } from './useRowMarks'

/** The head line of a row on the page. */
export const rowHead = (rowId: string) => document.querySelector<HTMLElement>(`[data-row="${CSS.escape(rowId)}"]`)

/** Goes to the name of an open row, or to its first field where it has none. */
function focusName(head: HTMLElement) {
  const row = head.closest('[id]')
  const field = row?.querySelector<HTMLElement>('input[aria-label="Name"]') ?? row?.querySelector<HTMLElement>('.cm-content, input')
  field?.focus()
  if (field instanceof HTMLInputElement) field.select()
}

/** The entry line of a topic, as others use it. */
export type EntryOf = { enter: (lines: string[]) => void; propose: (line: string) => void }

/** What can be done with the rows of a worksheet, by key, by menu and by dragging. */
export function useRowActions(assembly: Assembly, entry: (topic: Topic) => EntryOf | undefined) {
  const { document: model, model: edits, mayEdit, revisionId, goToRow, renaming } = useWorkshop()
  const marks = useRowMarks(rowsOf(assembly))
  const [cut, setCut] = useState<ReadonlySet<string>>(new Set())
  /** Where dragged rows would be put: before a row of a topic, or at its end. */
  const [drop, setDrop] = useState<{ topicId: string; before: string | null } | null>(null)

  /** What is to have the focus once the page shows what was done. */
  const wanted = useRef<{ rowId: string; atName: boolean } | null>(null)
  const renamed = useRef(renaming)
  useEffect(() => {
    if (renaming !== renamed.current) {
      renamed.current = renaming
      wanted.current = renaming && { rowId: renaming.rowId, atName: true }
    }
    const head = wanted.current && rowHead(wanted.current.rowId)
    if (!head || (wanted.current!.atName && head.getAttribute('aria-expanded') !== 'true')) return
    if (wanted.current!.atName) focusName(head)
    else head.focus()
    wanted.current = null
  })
  const focus = (rowId: string | undefined) => {
    wanted.current = rowId === undefined ? null : { rowId, atName: false }
  }

  /** Puts what was copied before a row of a topic, or at its end; what was cut or dragged here is moved. */
  function put(copied: CopiedRows, topic: Topic, before: string | null, isMove: boolean): string[] | undefined {
    if (!mayEdit) return undefined
    const { steps, made, left } = putSteps(copied, { document: model, revisionId, topic, before, isMove })
    if (left.length > 0) toast(left.join(' '), { closeButton: true, duration: 15_000 })
    if (steps.length === 0) return undefined
    edits.edit(...steps)
    marks.set(made.length > 1 ? made : [])
    focus(made[0])
    return made
  }

  function copy(data: DataTransfer, row: Row, isCut: boolean) {
    const rows = marks.of(row.id)
    data.setData('text/plain', rows.map((r) => lineOf(r, model)).join('\n'))
    data.setData(rowsType, JSON.stringify(copyRows(model, revisionId, assembly, rows)))
    setCut(new Set(isCut && mayEdit ? rows.map((r) => r.id) : []))
  }

  function paste(data: DataTransfer, topic: Topic, before: string | null) {
    const copied = readCopied(data.getData(rowsType))
    if (copied) {
      put(copied, topic, before, copied.rows.length > 0 && copied.rows.every((r) => cut.has(r.id)))
      setCut(new Set())
    } else if (mayEdit) {
      const lines = data
        .getData('text/plain')
        .split(/\r?\n/)
        .filter((l) => l.trim() !== '')
      if (lines.length > 0) entry(topic)?.enter(lines)
    }
  }

  function removeRows(row: Row) {
    const rows = marks.of(row.id)
    const all = rowsOf(assembly)
    const next = all.slice(all.indexOf(rows.at(-1)!) + 1)[0] ?? all.slice(0, all.indexOf(rows[0]!)).at(-1)
    edits.edit(...rows.map((r) => remove(r.id)))
    marks.clear()
    focus(next?.id)
  }

  /** One place up or down, over the borders of topics too. */
  function moveBy(row: Row, by: -1 | 1) {
    const ids = marks.of(row.id).map((r) => r.id)
    const edge = by < 0 ? ids[0]! : ids.at(-1)!
    const place = placeOf(model, edge)!
    const other = place.topic.rows[place.index + by]
    const next = assembly.topics[assembly.topics.indexOf(place.topic) + by]
    if (other) edits.edit(...moveSteps(ids, place.topic, by < 0 ? other.id : (place.topic.rows[place.index + 2]?.id ?? null)))
    else if (next) edits.edit(...moveSteps(ids, next, by < 0 ? null : (next.rows[0]?.id ?? null)))
    focus(row.id)
  }

  function duplicate(row: Row) {
    const place = placeOf(model, row.id)!
    return put(copyRows(model, revisionId, assembly, marks.of(row.id)), place.topic, place.topic.rows[place.index + 1]?.id ?? null, false)
  }

  return {
    marks,
    cut,
    drop,
    setDrop,
    copy,
    paste,
    put,
    duplicate: (row: Row) => (mayEdit ? duplicate(row) : undefined),
    remove: (row: Row) => mayEdit && removeRows(row),
    moveBy: (row: Row, by: -1 | 1) => mayEdit && moveBy(row, by),
    moveToTopic: (row: Row, topic: Topic) => {
      if (mayEdit)
        edits.edit(
          ...moveSteps(
            marks.of(row.id).map((r) => r.id),
            topic,
            null,
          ),
        )
      focus(row.id)
    },
    /** Opens a row at its name, to be given another one. */
    rename: (row: Row) => goToRow(assembly.id, row.id, true),
    /** Puts a line into the entry line of the topic of a row, to be gone over and entered. */
    propose: (row: Row, line: string) => {
      const place = placeOf(model, row.id)
      if (place) entry(place.topic)?.propose(line)
    },
    forget: () => {
      marks.clear()
      setCut(new Set())
    },
  }
}

export type RowActions = ReturnType<typeof useRowActions>

const Context = createContext<RowActions | null>(null)
export const RowActionsContext = Context.Provider
/** The actions of the worksheet around; nothing where rows stand elsewhere. */
export const useRowsIfAny = () => useContext(Context)
export function useRows(): RowActions {
  const actions = useContext(Context)
  if (!actions) throw new Error('useRows outside a worksheet')
  return actions
}
