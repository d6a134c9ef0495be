import { useId, useState } from 'react'
import { kindWords, typedRow } from './typedRow'
import type { Assembly, Topic } from './model'
import { highestOnItsWay } from './useModel'
import { useWorkshop } from './Workshop'

/** A new row is typed: its first word decides the kind, the line below shows how the rest is written. */
export function NewRow({ topic, assembly }: { topic: Topic; assembly: Assembly }) {
  const { model, document, revisionId, library } = useWorkshop()
  const standard = library?.standardOperations ?? []
  const [text, setText] = useState('')
  const [fault, setFault] = useState('')
  const [chosen, setChosen] = useState(0)
  const [focused, setFocused] = useState(false)
  const id = useId()
  const first = /^\S*/.exec(text.trimStart())![0].toLowerCase()
  const started = /^\s*\S+\s/.test(text)
  const matching = kindWords.filter((k) => (started ? k.word === first : k.word.startsWith(first)))
  // An operation can be started from one of the library, by its code or what it is called.
  const operation = /^\s*operation\s+(\d+\s+)?(\S*)$/i.exec(text)
  const offered = operation
    ? standard
        .filter((s) => `${s.code} ${s.label}`.toUpperCase().includes(operation[2]!.toUpperCase()) && s.code.toUpperCase() !== operation[2]!.toUpperCase())
        .map((s) => ({ key: s.code, example: `${s.label}, ${[s.workCentre, s.setup, s.run].filter(Boolean).join(' · ')}`, text: `operation ${operation[1] ?? ''}${s.code}` }))
    : started
      ? []
      : matching.map((k) => ({ key: k.word, example: k.example, text: `${k.word} ` }))
  const choosing = focused && offered.length > 0

  function enter() {
    const row = typedRow(text, document, assembly, topic.id, topic.rows.at(-1)?.id ?? null, highestOnItsWay(revisionId), standard)
    if ('fault' in row) return setFault(row.fault)
    model.edit(...row.steps)
    setText('')
    setFault('')
  }

  function take(whole: string) {
    setText(whole)
    setChosen(0)
  }

  return (
    <div className="relative py-1 pl-12">
      <input
        className="field border-dashed"
        role="combobox"
        aria-expanded={choosing}
        aria-controls={id}
        aria-activedescendant={choosing ? `${id}-${chosen}` : undefined}
        aria-label={`New row in ${topic.label.en ?? 'this topic'}`}
        placeholder="New row: choice, quantity, compute, rule, part, operation …"
        value={text}
        aria-invalid={fault !== ''}
        onFocus={() => setFocused(true)}
        onBlur={() => setFocused(false)}
        onChange={(e) => {
          setText(e.target.value)
          setFault('')
          setChosen(0)
        }}
        onKeyDown={(e) => {
          if (e.key === 'Escape') {
            setText('')
            setFault('')
          }
          if (choosing && (e.key === 'ArrowDown' || e.key === 'ArrowUp')) {
            e.preventDefault()
            setChosen((c) => Math.max(0, Math.min(offered.length - 1, c + (e.key === 'ArrowDown' ? 1 : -1))))
          }
          // What is written already may be an operation of its own; then only Tab takes one of the library.
          if (choosing && text.trim() !== '' && (e.key === 'Tab' || (e.key === 'Enter' && !started)) && offered[chosen]) {
            e.preventDefault()
            take(offered[chosen].text)
          } else if (e.key === 'Enter' && text.trim() !== '') enter()
        }}
      />
      {fault && (
        <p role="alert" className="fault text-sm">
          {fault}
        </p>
      )}
      {started && !fault && matching[0] && (
        <p className="quiet text-sm">
          {matching[0].word} <i>{matching[0].shape}</i>, such as <span className="font-mono">{matching[0].example}</span>. Enter adds it{choosing ? '; Tab takes a standard operation' : ''}.
        </p>
      )}
      {choosing && (
        <ul id={id} role="listbox" aria-label={operation ? 'Standard operations' : 'Kinds of rows'} className="absolute z-20 max-h-72 w-[calc(100%-3rem)] overflow-auto border hair bg-base-100 shadow-md">
          {offered.map((k, i) => (
            <li
              key={k.key}
              id={`${id}-${i}`}
              role="option"
              aria-selected={i === chosen}
              className={`grid cursor-pointer grid-cols-[6.5rem_minmax(0,1fr)] px-2 py-0.5 ${i === chosen ? 'bg-base-200' : ''}`}
              onMouseDown={(e) => {
                e.preventDefault()
                take(k.text)
              }}
            >
              <b className="font-semibold">{k.key}</b>
              <span className="quiet truncate font-mono text-[0.8125rem]">{k.example}</span>
            </li>
          ))}
        </ul>
      )}
    </div>
  )
}
