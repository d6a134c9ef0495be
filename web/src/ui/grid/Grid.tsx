import { thing } from '../format'
import { useVirtualizer } from '@tanstack/react-virtual'
import { useEffect, useRef, useState, type KeyboardEvent, type MouseEvent } from 'react'
import { flushSync } from 'react-dom'
import { toast } from 'sonner'
import { ContextMenu } from '../ContextMenu'
import { useClipboard } from '../useClipboard'
import { CellEditor } from './CellEditor'
import { copiedText, pastedCells } from './cells'
import { GridFaults } from './GridFaults'
import { GridFoot } from './GridFoot'
import { GridHead } from './GridHead'
import { GridLine } from './GridLine'
import { menuOf } from './gridMenu'
import type { Arrangement, CellChange, GridColumn, GridRow, RowActions } from './types'
import { useArrangedRows } from './useArrangedRows'
import { placeAfter, useBlock, type Place } from './useBlock'
import { useColumns } from './useColumns'
import { useGridPointer } from './useGridPointer'
import { useSentCells } from './useSentCells'
import { t } from '../../texts'

/** Longer tables scroll by themselves, and only what is in sight is drawn. */
const longTable = 40
const lineHeight = 28

type Props = RowActions & {
  /** Under which the widths and places of its columns are remembered. */
  name: string
  label: string
  columns: GridColumn[]
  count: number
  /** The row of an index; undefined while it is on its way. The one after the last is what stands in the empty line at the end. */
  rowAt: (index: number) => GridRow | undefined
  /** The rows in which something is wrong, in their order: not every row of a long table is to be asked for its faults. */
  faulty?: number[]
  disabled: boolean
  /** Cells that were typed, pasted, filled or cleared together. */
  onChange: (changes: CellChange[]) => void
  /** Whether what is typed in an empty line at the end, or pasted beyond it, makes rows. */
  takesNew?: boolean
  onUndo?: () => void
  onRedo?: () => void
  /** Which rows are in sight: they can be loaded. */
  onSight?: (first: number, last: number) => void
  arranged?: Arrangement
  height?: string
}

type Editing = { key: string | undefined; index: number; column: number; isOver: boolean; before: string }

/**
 * A table edited like a spreadsheet. Typing replaces a cell, F2 or a double click edits it, Esc gives back; arrows, Enter and Tab go on, with
 * Shift they mark; blocks are copied, cut, pasted, filled and cleared; undo and redo are those of this table.
 */
export function Grid(props: Props) {
  const { name, label, columns, count, disabled, takesNew = false, onSight, height = 'max-h-[34rem]', one } = props
  const scroller = useRef<HTMLDivElement>(null)
  const { rowAt, send } = useSentCells(props.rowAt)
  const onChange = (changes: CellChange[]) => {
    send(changes)
    props.onChange(changes)
  }
  const rows = useArrangedRows(columns, count, rowAt, props.arranged)
  const cols = useColumns(name, columns)
  const hasNewLine = takesNew && !disabled
  const lines = rows.length + (hasNewLine ? 1 : 0)
  const block = useBlock(lines, columns.length)
  const [editing, setEditing] = useState<Editing | null>(null)
  const [menu, setMenu] = useState<{ x: number; y: number; place: number; isHead: boolean } | null>(null)
  const [isFiltering, setIsFiltering] = useState(false)
  /** Esc has been pressed: the next Tab leaves the table. */
  const leaves = useRef(false)

  const isLong = lines > longTable
  // eslint-disable-next-line react-hooks/incompatible-library -- nothing here is kept that would have to follow the window
  const sight = useVirtualizer({
    count: lines,
    getScrollElement: () => scroller.current,
    estimateSize: () => lineHeight,
    overscan: 12,
    enabled: isLong,
    // The line one is at stays, wherever one looks: what is being typed in it is not to go.
    rangeExtractor: (r) => {
      const from = Math.max(0, r.startIndex - r.overscan)
      const shown = Array.from({ length: Math.min(r.count, r.endIndex + r.overscan + 1) - from }, (_, i) => from + i)
      const kept = editing ? rows.placeOf(editing.index) : block.at.row
      return kept < 0 || kept >= r.count || shown.includes(kept) ? shown : [...shown, kept].sort((a, b) => a - b)
    },
  })
  const items = isLong ? sight.getVirtualItems() : []
  const shown = isLong ? items.map((i) => i.index) : Array.from({ length: lines }, (_, i) => i)
  const [first, last] = [shown[0] ?? 0, shown.at(-1) ?? 0]
  const tell = useRef(onSight)
  useEffect(() => {
    tell.current = onSight
  })
  useEffect(() => tell.current?.(first, last), [first, last])

  const find = (place: Place) => scroller.current?.querySelector<HTMLElement>(`[data-place="${place.row},${place.column}"]`)
  function focus(place: Place) {
    const cell = find(place)
    if (!cell) {
      sight.scrollToIndex(place.row)
      requestAnimationFrame(() => find(place)?.focus({ preventScroll: true }))
      return
    }
    cell.focus({ preventScroll: true })
    // Head, first column and row numbers lie over what is scrolled below them.
    const [box, seen] = [cell.getBoundingClientRect(), scroller.current!.getBoundingClientRect()]
    const headed = isFiltering ? 2 * lineHeight : lineHeight
    if (box.top < seen.top + headed) scroller.current!.scrollTop -= seen.top + headed - box.top
    else if (box.bottom > seen.top + scroller.current!.clientHeight)
      scroller.current!.scrollTop += box.bottom - seen.top - scroller.current!.clientHeight
    const covered = place.column === 0 ? 0 : 40 + cols.widthOf(columns[cols.order[0]!]!)
    if (box.left < seen.left + covered) scroller.current!.scrollLeft -= seen.left + covered - box.left
    else if (box.right > seen.left + scroller.current!.clientWidth)
      scroller.current!.scrollLeft += box.right - seen.left - scroller.current!.clientWidth
  }
  function go(place: Place, isMarking = false) {
    const within = { row: Math.max(0, Math.min(lines - 1, place.row)), column: Math.max(0, Math.min(columns.length - 1, place.column)) }
    if (isMarking) block.extend(within)
    else block.go(within)
    flushedFocus(within, isMarking)
  }
  function flushedFocus(place: Place, isMarking: boolean) {
    if (!isMarking) return focus(place)
    if (!find(place)) sight.scrollToIndex(place.row)
    else find(place)!.scrollIntoView({ block: 'nearest', inline: 'nearest' })
  }

  const textAt = (place: Place) => rowAt(rows.indexAt(place.row))?.cells[cols.order[place.column]!] ?? ''
  const cellsOf = (b: typeof block.block) =>
    Array.from({ length: b.bottom - b.top + 1 }, (_, i) =>
      Array.from({ length: b.right - b.left + 1 }, (__, j) => textAt({ row: b.top + i, column: b.left + j })),
    )
  const isNewAt = (row: number) => rows.indexAt(row) >= count

  /** Why a cell cannot be written; undefined where it can. */
  const held = (place: Place) => (isNewAt(place.row) ? undefined : columns[cols.order[place.column]!]!.fixed)

  /** Writes a block of cells with its first at a place. */
  function put(at: Place, cells: string[][]) {
    if (disabled) return
    const changes: CellChange[] = []
    let [beyond, reason] = [0, undefined as string | undefined]
    cells.forEach((line, i) => {
      const row = at.row + i
      if (row >= rows.length && !takesNew) return beyond++
      line.forEach((text, j) => {
        const place = { row, column: at.column + j }
        if (place.column >= columns.length) return
        const before = textAt(place)
        if (text === before) return
        if (held(place) !== undefined) reason = held(place)
        else changes.push({ row: rows.indexAt(row), column: cols.order[place.column]!, text, before })
      })
    })
    if (beyond > 0) toast(t('ui.beyondMoreRowsThanTheTable', { count: beyond }), { closeButton: true })
    if (reason !== undefined) toast(reason, { closeButton: true })
    if (changes.length > 0) onChange(changes)
  }

  function edit(place: Place, isOver: boolean) {
    if (disabled) return
    const reason = held(place)
    if (reason !== undefined) return void toast(reason, { closeButton: true })
    const index = rows.indexAt(place.row)
    // At once: the key that opens it, also one that begins a letter of two keys, is then typed into it.
    flushSync(() => setEditing({ key: rowAt(index)?.key, index, column: cols.order[place.column]!, isOver, before: textAt(place) }))
  }

  function edited(text: string | null, key: string, shift: boolean) {
    const done = editing!
    setEditing(null)
    const place = { row: rows.placeOf(done.index), column: cols.order.indexOf(done.column) }
    if (text !== null && text !== done.before) {
      // Rows may have come and gone meanwhile.
      let index = done.index
      if (rowAt(index)?.key !== done.key) index = Array.from({ length: count }, (_, i) => i).findIndex((i) => rowAt(i)?.key === done.key)
      if (index < 0 || (done.key === undefined && index < count))
        toast(t('ui.theOneYouWereTypingIn', { one: thing(one), text }), { closeButton: true, duration: 15_000 })
      else onChange([{ row: index, column: done.column, text, before: done.before }])
    }
    const at = place.row < 0 ? block.at : place
    if (key === 'Enter') go({ row: at.row + (shift ? -1 : 1), column: at.column })
    else if (key === 'Tab') go({ row: at.row, column: at.column + (shift ? -1 : 1) })
    else if (key.startsWith('Arrow')) go(placeAfter(key, at, false, lines, columns.length, 1)!)
    else if (key === 'Escape') focus(at)
  }

  const marked = { top: block.block.top, bottom: Math.min(block.block.bottom, rows.length - 1) }
  const markedRows = Array.from({ length: Math.max(0, marked.bottom - marked.top + 1) }, (_, i) => rows.indexAt(marked.top + i))

  function fill(isAcross: boolean) {
    const b = block.block
    const from = block.isSeveral ? (isAcross ? b.left : b.top) : (isAcross ? b.left : b.top) - 1
    if (from < 0) return
    if (isAcross)
      put(
        { row: b.top, column: from + 1 },
        cellsOf(b).map((_, i) => Array.from({ length: b.right - from }, () => textAt({ row: b.top + i, column: from }))),
      )
    else
      put(
        { row: from + 1, column: b.left },
        Array.from({ length: b.bottom - from }, () => cellsOf({ ...b, top: from, bottom: from })[0]!),
      )
  }
  const clear = () =>
    put(
      { row: block.block.top, column: block.block.left },
      cellsOf(block.block).map((r) => r.map(() => '')),
    )

  /** Lines are moved only where the order of the table is that of what it shows. */
  const mayMove = props.onMove !== undefined && !disabled && !rows.isArranged
  function move(by: -1 | 1) {
    if (!mayMove || markedRows.length === 0 || (by < 0 ? marked.top === 0 : marked.bottom >= rows.length - 1)) return
    const before = by < 0 ? marked.top - 1 : marked.bottom + 2
    props.onMove!(markedRows, before < rows.length ? before : null)
    block.mark({ ...block.block, top: marked.top + by, bottom: marked.bottom + by })
    requestAnimationFrame(() => focus({ row: block.at.row + by, column: block.at.column }))
  }
  /** A row after those that are marked; where rows only come from what is typed in the last line, the way there. */
  function addLine() {
    if (props.onAdd) props.onAdd(marked.bottom < 0 || isNewAt(block.block.bottom) ? null : rows.indexAt(block.block.bottom))
    else go({ row: lines - 1, column: 0 })
  }
  const acts = {
    edit: () => edit(block.at, false),
    fill: () => fill(false),
    clear,
    add: !hasNewLine && !props.onAdd ? undefined : disabled ? undefined : addLine,
    remove: props.onRemove && !disabled ? () => markedRows.length > 0 && props.onRemove!(markedRows) : undefined,
    move: mayMove ? move : undefined,
    open: props.onOpen && markedRows.length > 0 ? () => props.onOpen!(markedRows[0]!) : undefined,
    copy: () => void navigator.clipboard.writeText(copiedText(cellsOf(block.block))),
    paste: () =>
      void navigator.clipboard.readText().then(
        (text) => pasted(text),
        () => toast(t('ui.theBrowserKeepsTheClipboardFrom')),
      ),
  }

  function pasted(text: string) {
    const cells = pastedCells(text)
    if (cells.length === 0) return
    const b = block.block
    const isOne = cells.length === 1 && cells[0]!.length === 1
    put({ row: b.top, column: b.left }, isOne && block.isSeveral ? cellsOf(b).map((r) => r.map(() => cells[0]![0]!)) : cells)
  }

  useClipboard(scroller, {
    selector: '[data-place]',
    onCopy: (data, _, isCut) => {
      data.setData('text/plain', copiedText(cellsOf(block.block)))
      if (isCut) clear()
    },
    onPaste: (data) => pasted(data.getData('text/plain')),
  })

  function press(e: KeyboardEvent) {
    if (!(e.target as HTMLElement).dataset.place) return
    const mod = e.ctrlKey || e.metaKey
    const letter = mod ? e.key.toLowerCase() : ''
    const end = e.shiftKey ? block.end : block.at
    const next = e.altKey
      ? null
      : placeAfter(e.key, end, mod, lines, columns.length, Math.max(1, Math.floor((scroller.current?.clientHeight ?? 300) / lineHeight) - 2))
    const leaving = leaves.current
    leaves.current = e.key === 'Escape' || (leaving && e.key === 'Shift')
    // Whatever a key does, it does here.
    let isDone = true
    if (next) go(next, e.shiftKey)
    else if (e.altKey && (e.key === 'ArrowUp' || e.key === 'ArrowDown')) move(e.key === 'ArrowUp' ? -1 : 1)
    else if (mod && e.key === 'Enter') acts.add?.()
    else if (e.key === 'Enter') go({ row: block.at.row + (e.shiftKey ? -1 : 1), column: block.at.column })
    else if (e.key === 'Tab' && !mod) {
      const flat = block.at.row * columns.length + block.at.column + (e.shiftKey ? -1 : 1)
      if (leaving || flat < 0 || flat >= lines * columns.length) isDone = false
      else go({ row: Math.floor(flat / columns.length), column: flat % columns.length })
    } else if (e.key === 'F2') acts.edit()
    else if (e.key === 'Escape') block.go(block.at)
    else if (mod && e.key === 'Delete') acts.remove?.()
    else if (e.key === 'Delete' || e.key === 'Backspace') clear()
    else if (letter === 'z') (e.shiftKey ? props.onRedo : props.onUndo)?.()
    else if (letter === 'y') props.onRedo?.()
    else if (letter === 'd') fill(false)
    else if (letter === 'r') fill(true)
    else if (letter === 'a') block.mark({ top: 0, bottom: rows.length - 1, left: 0, right: columns.length - 1 })
    else if (e.key === ' ' && e.shiftKey) block.mark({ ...block.block, left: 0, right: columns.length - 1 })
    else if (e.key === ' ' && mod) block.mark({ ...block.block, top: 0, bottom: rows.length - 1 })
    else if (!mod && !e.altKey && (e.key.length === 1 || e.key === 'Dead' || e.key === 'Process')) {
      edit(block.at, true)
      return e.stopPropagation()
    } else return
    if (isDone) {
      e.preventDefault()
      e.stopPropagation()
    }
  }

  const pointer = useGridPointer({
    scroller,
    block,
    columns: columns.length,
    rows: rows.length,
    mayMove,
    find,
    fill: () => fill(false),
    onMove: (before) => props.onMove!(markedRows, before),
  })

  function openMenu(e: MouseEvent) {
    const target = e.target as HTMLElement
    if (target.closest('input')) return
    const place = target.closest<HTMLElement>('[data-place]')
    const line = target.closest<HTMLElement>('[data-line]')?.dataset.line
    const head = target.closest<HTMLElement>('[data-head]')?.dataset.head
    if (!place && line === undefined && head === undefined) return
    e.preventDefault()
    let column = head === undefined ? block.at.column : Number(head)
    if (place) {
      const [row, at] = place.dataset.place!.split(',').map(Number)
      column = at!
      const b = block.block
      if (row! < b.top || row! > b.bottom || at! < b.left || at! > b.right) block.go({ row: row!, column: at! })
      place.focus({ preventScroll: true })
    } else if (line !== undefined && (Number(line) < block.block.top || Number(line) > block.block.bottom)) {
      block.mark({ top: Number(line), bottom: Number(line), left: 0, right: columns.length - 1 })
      find({ row: Number(line), column: 0 })?.focus({ preventScroll: true })
    }
    const box = target.getBoundingClientRect()
    const [x, y] = e.clientX > 0 ? [e.clientX, e.clientY] : [box.left + 12, box.bottom]
    setMenu({ x, y, place: column, isHead: head !== undefined })
  }

  const [top, bottom] = isLong && items.length > 0 ? [items[0]!.start, sight.getTotalSize() - items.at(-1)!.end] : [0, 0]
  const grows = columns.some((c) => c.grows && !cols.isDrawn(c))
  const width = 40 + columns.reduce((sum, c) => sum + cols.widthOf(c), 0)

  return (
    <div className={`grid min-w-0 gap-1 ${height === 'h-full' ? 'h-full grid-rows-[minmax(0,1fr)_auto]' : ''}`}>
      <div
        ref={scroller}
        className={`grid-scroll relative w-fit max-w-full overflow-auto border-t border-l hair ${grows ? 'min-w-full' : ''} ${isLong || height === 'h-full' ? height : ''}`}
        onPointerDown={pointer.down}
        onPointerMove={pointer.drawn}
        onPointerUp={pointer.up}
        onPointerCancel={pointer.up}
        onKeyDown={press}
        onContextMenu={openMenu}
        onFocus={(e) => {
          const [row, column] = ((e.target as HTMLElement).dataset.place ?? '').split(',').map(Number)
          if (column !== undefined && (row !== block.at.row || column !== block.at.column) && !pointer.isDrawing()) block.go({ row: row!, column })
        }}
        onDoubleClick={(e) => {
          const place = pointer.under(e)
          if (place && place.column >= 0) edit(place, false)
        }}
      >
        <table
          role="grid"
          aria-label={label}
          aria-rowcount={lines + 1}
          aria-colcount={columns.length + 1}
          aria-multiselectable
          aria-readonly={disabled || undefined}
          className="table-fixed border-separate border-spacing-0 select-none"
          style={{ width: grows ? `max(100%, ${width}px)` : width }}
        >
          <colgroup>
            <col style={{ width: 40 }} />
            {cols.order.map((c) => (
              <col key={columns[c]!.key} style={columns[c]!.grows && !cols.isDrawn(columns[c]!) ? undefined : { width: cols.widthOf(columns[c]!) }} />
            ))}
          </colgroup>
          <GridHead
            columns={columns}
            order={cols.order}
            sorting={rows.sorting}
            filters={isFiltering ? rows.filters : null}
            onSort={rows.sort}
            onFilter={rows.filter}
            onResize={cols.resize}
            onPlace={cols.place}
          />
          <tbody>
            {top > 0 && <tr style={{ height: top }} aria-hidden />}
            {shown.flatMap((place, n) => {
              const index = rows.indexAt(place)
              const row = rowAt(index)
              const isHere = editing !== null && (editing.key === undefined ? index === editing.index : row?.key === editing.key)
              const at = isHere ? cols.order.indexOf(editing.column) : -1
              const isMarked = place >= block.block.top && place <= block.block.bottom
              // The line one is at may stand apart from those in sight.
              const gap = n > 0 && isLong ? items[n]!.start - items[n - 1]!.end : 0
              const column = at < 0 ? undefined : columns[cols.order[at]!]
              return [
                ...(gap > 0 ? [<tr key={`gap ${place}`} style={{ height: gap }} aria-hidden />] : []),
                <GridLine
                  key={row?.key ?? `line ${place}`}
                  row={row}
                  isNew={index >= count}
                  place={place}
                  columns={columns}
                  order={cols.order}
                  from={isMarked && block.isSeveral ? block.block.left : -1}
                  to={isMarked && block.isSeveral ? block.block.right : -1}
                  at={place === block.at.row ? block.at.column : -1}
                  corner={!disabled && editing === null && place === block.block.bottom ? block.block.right : -1}
                  editing={at}
                  editor={
                    column && (
                      <CellEditor
                        label={t('ui.nameRowPlace', { name: column.name, place: place + 1 })}
                        text={editing!.isOver ? '' : editing!.before}
                        arrowsLeave={editing!.isOver}
                        look={column.look ?? ''}
                        onDone={edited}
                      />
                    )
                  }
                  isDropBefore={pointer.dropAt === place}
                />,
              ]
            })}
            {bottom > 0 && <tr style={{ height: bottom }} aria-hidden />}
          </tbody>
        </table>
      </div>
      <GridFoot
        one={one}
        count={count}
        shown={rows.length}
        block={block.isSeveral ? cellsOf({ ...block.block, bottom: Math.min(block.block.bottom, block.block.top + 2_000) }) : null}
        marked={markedRows.length}
        isFiltering={isFiltering}
        onFilter={() => {
          if (isFiltering) rows.filter({})
          setIsFiltering(!isFiltering)
        }}
        acts={acts}
      />
      <GridFaults
        columns={columns}
        faulty={props.faulty ?? []}
        rowAt={rowAt}
        disabled={disabled}
        onGo={(row, column) => go({ row: rows.placeOf(row), column: cols.order.indexOf(column) })}
        onChange={onChange}
      />
      {menu && (
        <ContextMenu
          x={menu.x}
          y={menu.y}
          label={t('ui.whatCanBeDoneWithLabel', { label })}
          entries={menuOf({
            acts,
            isHead: menu.isHead,
            disabled,
            one,
            sorting: rows.sorting,
            column: columns[cols.order[menu.place]!]!,
            place: menu.place,
            columns: columns.length,
            sort: rows.sort,
            cols,
            filter: () => setIsFiltering(true),
            isNewLine: isNewAt(block.at.row),
          })}
          onClose={() => setMenu(null)}
        />
      )}
    </div>
  )
}
