import {
  acceptCompletion,
  autocompletion,
  closeCompletion,
  completionStatus,
  moveCompletionSelection,
  selectedCompletionIndex,
  startCompletion,
  type CompletionContext,
  type CompletionResult,
} from '@codemirror/autocomplete'
import { defaultKeymap, history, historyKeymap } from '@codemirror/commands'
import { bracketMatching, HighlightStyle, StreamLanguage, syntaxHighlighting } from '@codemirror/language'
import { linter, type Diagnostic } from '@codemirror/lint'
import { EditorState } from '@codemirror/state'
import { EditorView, hoverTooltip, keymap, tooltips, type Tooltip } from '@codemirror/view'
import { tags } from '@lezer/highlight'
import { useEffect, useEffectEvent, useImperativeHandle, useRef, type RefObject } from 'react'
import { t } from '../texts'

export type Fix = { label: string; text: string }
export type Checked = {
  findings: { start: number; length: number; message: string; id: string; fixes?: Fix[] | null }[]
  type: string | null
  example: string | null
  final: boolean
}
export type Completions = { start: number; length: number; items: { text: string; kind: string; detail: string }[] }

type Props = {
  label: string
  value: string
  readOnly?: boolean
  check: (text: string) => Promise<Checked>
  complete: (text: string, position: number) => Promise<Completions>
  /** What a name comes to at the moment, where that is known. */
  valueNow?: (name: string) => string | undefined
  onChecked: (checked: Checked | null) => void
  /** Called with what was typed, and with what stood there when typing began. */
  onCommit: (text: string, before: string) => void
  /** Goes to what a name stands for, renames it or lists its uses; the name ends at this place of the text. False where it stands for nothing. */
  onName?: (what: 'go' | 'rename' | 'uses', text: string, end: number) => boolean
  /** Is given what writes another text into the field, as if it had been typed. */
  writer?: RefObject<((text: string) => void) | null>
}

const words = new Set([
  'and',
  'or',
  'not',
  'if',
  'then',
  'else',
  'in',
  'between',
  'yes',
  'no',
  'none',
  'of',
  'exactly',
  'at',
  'most',
  'least',
  'one',
  'where',
  'is',
])

/** Colours only what the eye sorts by: words, numbers with their units, and quoted names. The server's parser has the say. */
const language = StreamLanguage.define({
  token(stream) {
    if (stream.eatSpace()) return null
    if (stream.match(/^'[^']*'?/)) return 'string'
    if (stream.match(/^"[^"]*"?/)) return 'string'
    if (stream.match(/^\d+(\.\d+)?( ?[a-zA-Z%[\]][\w%[\].\d/]*)?/)) return 'number'
    if (stream.match(/^[\p{L}_][\p{L}\p{N}_]*/u))
      return words.has(stream.current().toLowerCase()) ? 'keyword' : stream.peek() === '(' ? 'typeName' : 'variableName'
    stream.next()
    return 'operator'
  },
})

const look = HighlightStyle.define([
  { tag: tags.keyword, color: 'var(--color-primary)', fontWeight: '600' },
  { tag: tags.number, color: 'var(--color-success)' },
  { tag: tags.string, color: 'var(--color-base-content)', fontStyle: 'italic' },
  { tag: tags.typeName, color: 'var(--color-primary)' },
])

const theme = EditorView.theme({
  '&': { border: '1px solid var(--color-base-300)', borderRadius: '2px', backgroundColor: 'var(--color-base-100)', fontSize: '0.8125rem' },
  '&.cm-focused': { outline: '2px solid var(--color-primary)', outlineOffset: '-1px' },
  '.cm-scroller': { fontFamily: 'var(--font-mono)', lineHeight: '1.45', fontVariantLigatures: 'none' },
  '.cm-content': { padding: '3px 0', caretColor: 'var(--color-base-content)' },
  '.cm-line': { padding: '0 7px' },
  '.cm-cursor': { borderLeftColor: 'var(--color-base-content)' },
  '.cm-selectionBackground, &.cm-focused .cm-selectionBackground': {
    background: 'color-mix(in oklab, var(--color-primary) 22%, transparent) !important',
  },
  '.cm-lintRange-error': { backgroundImage: 'none', textDecoration: 'underline wavy var(--color-warning) 1.5px', textUnderlineOffset: '3px' },
  '.cm-tooltip': {
    backgroundColor: 'var(--color-base-100)',
    color: 'var(--color-base-content)',
    border: '1px solid var(--color-base-300)',
    borderRadius: '2px',
    fontFamily: 'var(--font-sans)',
  },
  '.cm-tooltip-autocomplete ul li[aria-selected]': { background: 'var(--color-primary)', color: 'var(--color-primary-content)' },
  '.cm-completionDetail': { fontStyle: 'italic', opacity: '0.8' },
  '.cm-named': { padding: '2px 8px' },
  '.cm-diagnostic': { borderLeft: '3px solid var(--color-warning)', padding: '3px 8px' },
})

const plain = (name: string) => name.replace(/['(]/g, '').trim().toLowerCase()

/** The name that a place in an expression lies in. */
export function nameAt(text: string, position: number): { from: number; to: number } | null {
  for (const found of text.matchAll(/'[^']*'|[\p{L}_][\p{L}\p{N}_]*/gu))
    if (found.index <= position && position <= found.index + found[0].length) return { from: found.index, to: found.index + found[0].length }
  return null
}

/** An expression: completed and checked while it is typed; Enter or leaving it keeps the text, Esc takes it back. */
export function ExpressionField({ label, value, readOnly, check, complete, valueNow, onChecked, onCommit, onName, writer }: Props) {
  const host = useRef<HTMLDivElement>(null)
  const view = useRef<EditorView | null>(null)
  const committed = useRef(value)
  const written = useRef<(text: string) => void>(() => {})
  useImperativeHandle(writer, () => (text: string) => written.current(text), [])
  /** What stood there when typing began; what others change meanwhile is then not overwritten unseen. */
  const begun = useRef<string | null>(null)
  const commit = useEffectEvent((text: string) => {
    const before = begun.current ?? committed.current
    begun.current = null
    if (text === committed.current) return
    committed.current = text
    onCommit(text, before)
  })
  const checkText = useEffectEvent((text: string) => check(text))
  const completeText = useEffectEvent((text: string, position: number) => complete(text, position))
  const name = useEffectEvent((what: 'go' | 'rename' | 'uses', text: string, end: number) => onName?.(what, text, end) ?? false)
  const now = useEffectEvent((name: string) => valueNow?.(name))
  const tell = useEffectEvent((checked: Checked | null) => onChecked(checked))

  useEffect(() => {
    const oneLine = EditorState.transactionFilter.of((t) => (t.newDoc.lines > 12 ? [] : t))
    const made = new EditorView({
      parent: host.current!,
      state: EditorState.create({
        doc: committed.current,
        extensions: [
          history(),
          oneLine,
          language,
          syntaxHighlighting(look),
          bracketMatching(),
          theme,
          tooltips({ parent: document.body }),
          EditorView.lineWrapping,
          EditorView.updateListener.of((u) => {
            if (u.docChanged && begun.current === null && u.state.doc.toString() !== committed.current) begun.current = committed.current
          }),
          EditorState.readOnly.of(readOnly ?? false),
          EditorView.contentAttributes.of({ 'aria-label': label, spellcheck: 'false' }),
          // Nothing is taken over that one has not gone to: Enter keeps what stands.
          autocompletion({
            override: [source],
            icons: false,
            activateOnTyping: true,
            maxRenderedOptions: 60,
            selectOnOpen: false,
            defaultKeymap: false,
            interactionDelay: 0,
          }),
          linter(lint, { delay: 180 }),
          hoverTooltip(hover, { hoverTime: 250 }),
          keymap.of([
            { key: 'Ctrl-Space', run: startCompletion },
            { key: 'ArrowDown', run: moveCompletionSelection(true) },
            { key: 'ArrowUp', run: moveCompletionSelection(false) },
            { key: 'PageDown', run: moveCompletionSelection(true, 'page') },
            { key: 'PageUp', run: moveCompletionSelection(false, 'page') },
            { key: 'Escape', run: closeCompletion },
            {
              key: 'Tab',
              run: (v) => {
                if (completionStatus(v.state) !== 'active') return false
                if (selectedCompletionIndex(v.state) === null) moveCompletionSelection(true)(v)
                return acceptCompletion(v)
              },
            },
            { key: 'F2', run: (v) => named('rename', v, v.state.selection.main.head) },
            { key: 'Shift-F12', run: (v) => named('uses', v, v.state.selection.main.head) },
            {
              key: 'Alt-Enter',
              run: () => {
                if (mending === null) return false
                write(mending)
                return true
              },
            },
            {
              key: 'Enter',
              run: (v) => {
                if (completionStatus(v.state) === 'active' && selectedCompletionIndex(v.state) !== null) return acceptCompletion(v)
                closeCompletion(v)
                commit(v.state.doc.toString())
                return true
              },
            },
            {
              key: 'Escape',
              run: (v) => {
                if (completionStatus(v.state) !== null) return false
                v.dispatch({ changes: { from: 0, to: v.state.doc.length, insert: committed.current } })
                begun.current = null
                return true
              },
            },
            ...historyKeymap,
            ...defaultKeymap,
          ]),
          EditorView.domEventHandlers({
            blur: (_, v) => commit(v.state.doc.toString()),
            mousedown: (e, v) => {
              const at = e.ctrlKey || e.metaKey ? v.posAtCoords({ x: e.clientX, y: e.clientY }) : null
              if (at === null || !named('go', v, at)) return false
              e.preventDefault()
              return true
            },
          }),
        ],
      }),
    })
    view.current = made
    /** What the first fix of the text as it stands would make of it. */
    let mending: string | null = null
    const write = (text: string) => {
      mending = null
      made.dispatch({ changes: { from: 0, to: made.state.doc.length, insert: text }, selection: { anchor: text.length } })
      made.focus()
    }
    written.current = write

    function named(what: 'go' | 'rename' | 'uses', v: EditorView, position: number): boolean {
      const text = v.state.doc.toString()
      const word = nameAt(text, position)
      return word !== null && name(what, text, word.to)
    }

    async function source(context: CompletionContext): Promise<CompletionResult | null> {
      const word = context.matchBefore(/['\p{L}\p{N}_.%]+/u)
      if (!word && !context.explicit && !/[=(,.<>"] ?$/.test(context.state.sliceDoc(0, context.pos))) return null
      const found = await completeText(context.state.doc.toString(), context.pos).catch(() => null)
      if (!found || found.items.length === 0) return null
      return {
        from: found.start,
        to: found.start + found.length,
        options: found.items.map((i) => ({ label: i.text, detail: i.detail || i.kind, type: i.kind })),
        filter: false,
      }
    }

    /** What a name under the pointer is: the completion that it would be chosen from says so. */
    async function hover(v: EditorView, position: number): Promise<Tooltip | null> {
      const text = v.state.doc.toString()
      const word = nameAt(text, position)
      if (!word) return null
      const found = await completeText(text, word.to).catch(() => null)
      const item = found?.items.find((i) => plain(i.text) === plain(text.slice(found.start, word.to)))
      if (!item) return null
      return {
        pos: word.from,
        end: word.to,
        above: true,
        create: () => {
          const dom = document.createElement('div')
          dom.className = 'cm-named'
          const value = now(plain(text.slice(found!.start, word.to)))
          dom.append(
            Object.assign(document.createElement('b'), { textContent: item.text }),
            ` ${item.kind}${item.detail ? `, ${item.detail}` : ''}${value ? t('ui.nowIs', { value }) : ''}`,
          )
          return { dom }
        },
      }
    }

    async function lint(v: EditorView): Promise<Diagnostic[]> {
      const text = v.state.doc.toString()
      const checked = await checkText(text).catch(() => null)
      tell(checked)
      mending = (v.state.doc.toString() === text && checked?.findings.flatMap((f) => f.fixes ?? [])[0]?.text) || null
      const end = text.length
      return (checked?.findings ?? []).map((f) => ({
        from: Math.min(f.start, end),
        to: Math.min(Math.max(f.start + f.length, f.start + 1), end),
        severity: 'error',
        message: f.message,
        actions: (f.fixes ?? []).map((fix) => ({ name: t('ui.writeLabel', { label: fix.label }), apply: () => write(fix.text) })),
      }))
    }

    return () => {
      commit(made.state.doc.toString())
      made.destroy()
    }
  }, [label, readOnly])

  // Someone else, or an undo, has changed it; what is being typed is left alone.
  useEffect(() => {
    const v = view.current
    if (!v || value === committed.current) return
    const typing = v.hasFocus && v.state.doc.toString() !== committed.current
    committed.current = value
    if (!typing) begun.current = null
    if (!typing) v.dispatch({ changes: { from: 0, to: v.state.doc.length, insert: value } })
  }, [value])

  return <div ref={host} className="min-w-0" />
}
