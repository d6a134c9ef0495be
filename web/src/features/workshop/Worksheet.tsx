import { Plus } from 'lucide-react'
import { useRef } from 'react'
import { newId } from '../../api/ids'
import { useClipboard } from '../../ui/useClipboard'
import { useStable } from '../../ui/useStable'
import { KindTable } from './KindTable'
import { add, placeOf, set, summaryOf, type Assembly, type Kind, type Row, type Topic } from './model'
import { NewRow } from './NewRow'
import { readCopied, rowsType } from './rows/copiedRows'
import { RowLine, type LineActs } from './rows/RowLine'
import { rowMenu } from './rows/rowMenu'
import { useRowFacts } from './rows/useRowFacts'
import { RowActionsContext, useRowActions, type EntryOf } from './rows/useRowActions'
import { TopicHead } from './rows/TopicHead'
import { useWorkshop } from './Workshop'
import { t } from '../../texts'

export const topicElementId = (topicId: string) => `topic-${topicId}`

type Props = { assembly: Assembly; openRow: string | null }

/** An assembly as one page, topic by topic; or one kind of its rows as a table. */
export const Worksheet = ({ kind, ...of }: Props & { kind: Kind | null }) =>
  kind ? <KindTable assembly={of.assembly} kind={kind} /> : <Topics {...of} />

function Topics({ assembly, openRow }: Props) {
  const { model, mayEdit, document, goToRow, showUses } = useWorkshop()
  const page = useRef<HTMLDivElement>(null)
  /** The entry lines of the topics: they take what is pasted onto rows, and what is proposed to mend them. */
  const entries = useRef(new Map<string, EntryOf>())
  const rows = useRowActions(assembly, (topic) => entries.current.get(topic.id))
  useClipboard(page, {
    selector: '[data-row]',
    onCopy: (data, at, isCut) => {
      const place = placeOf(document, at.dataset.row!)
      if (place) rows.copy(data, place.row, isCut)
    },
    onPaste: (data, at) => {
      const place = placeOf(document, at.dataset.row!)
      if (place) rows.paste(data, place.topic, place.topic.rows[place.index + 1]?.id ?? null)
    },
  })
  const register = (topic: Topic, entry: EntryOf | null) => {
    if (entry) entries.current.set(topic.id, entry)
    else entries.current.delete(topic.id)
  }

  const factsOf = useRowFacts()
  /** The row that what is put before or behind a row stands before; nothing for the end of its topic. */
  const before = (row: Row, isBehind: boolean) => {
    const place = placeOf(document, row.id)!
    return { topic: place.topic, before: isBehind ? (place.topic.rows[place.index + 1]?.id ?? null) : row.id }
  }
  const toggle = (row: Row, open: boolean) => goToRow(assembly.id, open ? null : row.id)
  const acts = useStable<LineActs>({
    toggle,
    mark: (row) => rows.marks.toggle(row.id),
    extend: rows.marks.extend,
    clearMarks: rows.marks.clear,
    markAll: rows.marks.all,
    forget: () => {
      const any = rows.marks.marked.size > 0 || rows.cut.size > 0
      if (any) rows.forget()
      return any
    },
    moveBy: rows.moveBy,
    remove: rows.remove,
    rename: rows.rename,
    duplicate: rows.duplicate,
    showUses,
    drag: (data, row) => rows.copy(data, row, false),
    hover: (row, isBehind) => {
      const at = row && before(row, isBehind)
      rows.setDrop(at && { topicId: at.topic.id, before: at.before })
    },
    drop: (copied, row, isBehind, isMove) => {
      const at = before(row, isBehind)
      rows.put(copied, at.topic, at.before, isMove)
      rows.setDrop(null)
    },
    menu: (row, open, name) =>
      rowMenu({
        row,
        topic: placeOf(document, row.id)!.topic,
        assembly,
        rows,
        mayEdit,
        open,
        toggle: () => toggle(row, open),
        uses: () => showUses(row.id, name),
      }),
  })

  return (
    <RowActionsContext value={rows}>
      <div ref={page} className="grid gap-4">
        {assembly.topics.map((topic, i) => (
          <section
            key={topic.id}
            id={topicElementId(topic.id)}
            aria-label={topic.label.en}
            onDragOver={(e) => {
              if (!mayEdit || !e.dataTransfer.types.includes(rowsType)) return
              e.preventDefault()
              rows.setDrop({ topicId: topic.id, before: null })
            }}
            onDrop={(e) => {
              const copied = readCopied(e.dataTransfer.getData(rowsType))
              if (!copied) return
              e.preventDefault()
              rows.put(copied, topic, null, !e.ctrlKey)
              rows.setDrop(null)
            }}
          >
            <TopicHead topic={topic} assembly={assembly} index={i} />
            {topic.rows.length === 0 && (
              <p className="quiet py-1 pl-12">{t('workshop.nothingHereYet', { hint: mayEdit ? t('workshop.typeTheFirstRowWhatIs') : '' })}</p>
            )}
            {topic.rows.map((row) => (
              <RowLine
                key={row.id}
                row={row}
                summary={summaryOf(row, document)}
                open={openRow === row.id}
                mayEdit={mayEdit}
                isMarked={rows.marks.marked.has(row.id)}
                isCut={rows.cut.has(row.id)}
                isDropBefore={rows.drop?.topicId === topic.id && rows.drop.before === row.id}
                acts={acts}
                {...factsOf(row)}
              />
            ))}
            {rows.drop?.topicId === topic.id && rows.drop.before === null && <div className="h-0.5 bg-primary" />}
            {mayEdit && <NewRow topic={topic} assembly={assembly} register={register} />}
          </section>
        ))}
        {assembly.id === document.root && (
          <label className="flex items-center gap-2">
            <input
              type="checkbox"
              className="size-4 accent-primary"
              disabled={!mayEdit}
              checked={document.sumLines}
              onChange={(e) => model.edit(set(document.id, 'sumLines', e.target.checked, document.sumLines))}
            />
            {t('workshop.onBillsOfMaterialsPartsWith')}
          </label>
        )}
        {mayEdit && (
          <div>
            <button
              className="btn"
              onClick={() =>
                model.edit(
                  add(assembly.id, 'topics', assembly.topics.at(-1)?.id ?? null, { id: newId(), label: { en: t('workshop.newTopic') }, rows: [] }),
                )
              }
            >
              <Plus className="size-4" /> {t('workshop.topic')}
            </button>
          </div>
        )}
      </div>
    </RowActionsContext>
  )
}
