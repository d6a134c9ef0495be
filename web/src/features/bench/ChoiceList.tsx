import type { Choice } from '../../api/answer'
import { ChevronDown } from 'lucide-react'
import { useId, useState } from 'react'
import { roving } from '../../ui/roving'
import { t } from '../../texts'

type Props = {
  label: string
  choices: Choice[]
  value: string | null
  state: string
  onPick: (value: string | null) => void
  onWhy: (value: string) => void
}

const mostInLine = 6

/** The values of a choice: a few side by side, many as a list that can be searched. A ruled out one tells why. */
export function ChoiceList(props: Props) {
  return props.choices.length > mostInLine ? <LongList {...props} /> : <ShortList {...props} />
}

function ShortList({ label, choices, value, state, onPick, onWhy }: Props) {
  return (
    <div role="group" aria-label={label} className="flex flex-wrap gap-1" onKeyDown={roving.onKeyDown} onBlur={roving.onBlur}>
      {choices.map((choice, i) => (
        <Value
          key={choice.value}
          tabIndex={roving.tabIndexOf(
            i,
            choices.findIndex((c) => c.value === value),
          )}
          choice={choice}
          chosen={choice.value === value}
          state={state}
          onPick={onPick}
          onWhy={onWhy}
        />
      ))}
    </div>
  )
}

function Value({
  choice,
  chosen,
  state,
  tabIndex,
  onPick,
  onWhy,
}: {
  choice: Choice
  chosen: boolean
  tabIndex: number
  state: string
  onPick: Props['onPick']
  onWhy: Props['onWhy']
}) {
  const picked = chosen && state === 'picked'
  const ruledOut = !choice.can && !choice.unknown && !chosen
  const unknown = choice.unknown && !chosen
  const look = picked
    ? 'border-primary bg-primary text-primary-content'
    : chosen && state === 'clash'
      ? 'border-warning text-warning'
      : chosen
        ? 'border-primary text-primary'
        : ruledOut
          ? 'border-transparent quiet'
          : unknown
            ? 'hair border-dotted quiet hover:border-primary'
            : 'hair hover:border-primary'
  return (
    <button
      type="button"
      tabIndex={tabIndex}
      aria-pressed={chosen}
      aria-label={
        ruledOut
          ? t('bench.labelRuledOutWhy', { label: choice.label })
          : unknown
            ? t('bench.labelNotKnownYet', { label: choice.label })
            : choice.label
      }
      title={ruledOut ? t('bench.ruledOutWhy') : unknown ? t('bench.notKnownYetWhetherItCan') : undefined}
      onClick={() => (ruledOut ? onWhy(choice.value) : onPick(picked ? null : choice.value))}
      className={`relative flex min-h-6.5 items-center pointer-coarse:min-h-10 gap-1.5 border px-2 ${look}`}
    >
      {choice.color && <span aria-hidden className="size-3 border border-black/25" style={{ background: choice.color }} />}
      <span className={chosen && state === 'suggested' ? 'underline decoration-dotted underline-offset-4' : ruledOut ? 'opacity-75' : ''}>
        {choice.label}
      </span>
      {ruledOut && (
        <svg viewBox="0 0 7 7" aria-hidden className="absolute top-0 right-0 size-[7px]">
          <path d="M0 0h7v7z" fill="currentColor" />
        </svg>
      )}
    </button>
  )
}

function LongList({ label, choices, value, state, onPick, onWhy }: Props) {
  const [open, setOpen] = useState(false)
  const [search, setSearch] = useState('')
  const id = useId()
  const chosen = choices.find((c) => c.value === value)
  const can = choices.filter((c) => c.can && !c.unknown).length
  const unknown = choices.filter((c) => c.unknown).length
  const found = choices
    .filter((c) => `${c.value} ${c.label}`.toLowerCase().includes(search.toLowerCase()))
    .sort((a, b) => Number(b.can) - Number(a.can))
  return (
    <div onKeyDown={(e) => e.key === 'Escape' && setOpen(false)}>
      <button
        type="button"
        className={`btn w-full justify-between ${state === 'picked' ? 'border-primary' : ''}`}
        aria-expanded={open}
        aria-controls={id}
        aria-label={`${label}: ${chosen?.label ?? t('bench.open')}`}
        onClick={() => setOpen(!open)}
      >
        <span className={`truncate ${state === 'suggested' ? 'underline decoration-dotted underline-offset-4' : ''}`}>
          {chosen?.label ?? t('bench.open')}
        </span>
        <span className="quiet flex items-center gap-1 text-sm">
          {t('bench.canOfAll', { can, all: choices.length })}
          {unknown > 0 && t('bench.unknownNotKnownYet', { unknown })}
          <ChevronDown className="size-3.5" />
        </span>
      </button>
      {open && (
        <div id={id} className="border border-t-0 hair bg-base-100">
          <input
            className="input border-0 border-b"
            placeholder={t('bench.search')}
            aria-label={t('bench.searchLabel', { label })}
            autoFocus
            value={search}
            onChange={(e) => setSearch(e.target.value)}
          />
          <div
            role="group"
            aria-label={label}
            onKeyDown={roving.onKeyDown}
            onBlur={roving.onBlur}
            className="flex max-h-52 flex-col items-stretch overflow-y-auto p-1"
          >
            {found.map((choice, i) => (
              <Value
                key={choice.value}
                tabIndex={roving.tabIndexOf(
                  i,
                  found.findIndex((c) => c.value === value),
                )}
                choice={choice}
                chosen={choice.value === value}
                state={state}
                onPick={(v) => {
                  onPick(v)
                  setOpen(false)
                }}
                onWhy={onWhy}
              />
            ))}
            {found.length === 0 && <p className="quiet p-1">{t('bench.nothingLikeSearch', { search })}</p>}
          </div>
        </div>
      )}
    </div>
  )
}
