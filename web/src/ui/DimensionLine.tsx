import { useRef, useState, type PointerEvent } from 'react'
import { snapped } from './numbers'
import { t } from '../texts'

type Props = {
  label: string
  unit: string
  min: string
  max: string
  step: string
  lowest: string | null
  highest: string | null
  members: string[] | null
  /** How far it goes is not known yet. */
  unknown?: boolean
  value: string | null
  strong: boolean
  onChange: (value: string) => void
}

const margin = 8

/** A number's range as on a drawing: ticks at the outermost bounds, the stretch that can still be had, and the value on it. */
export function DimensionLine({ label, unit, min, max, step, lowest, highest, members, unknown, value, strong, onChange }: Props) {
  const box = useRef<HTMLDivElement>(null)
  const [dragged, setDragged] = useState<string | null>(null)
  const width = 220
  const [low, high] = [Number(min), Number(max)]
  // What is out of its range stands at its end: the line is as long as it is.
  const x = (at: string | number) => margin + ((Math.max(low, Math.min(high, Number(at))) - low) / (high - low || 1)) * (width - 2 * margin)
  const shown = dragged ?? value

  function at(event: PointerEvent): string {
    const rect = box.current!.getBoundingClientRect()
    const share = ((event.clientX - rect.left) / rect.width) * width
    return snapped(low + ((share - margin) / (width - 2 * margin)) * (high - low), step, min, max)
  }

  return (
    <div
      ref={box}
      className="relative h-5 w-full min-w-24 cursor-ew-resize touch-none pointer-coarse:before:absolute pointer-coarse:before:inset-x-0 pointer-coarse:before:-inset-y-2.5 pointer-coarse:before:content-['']"
      role="slider"
      tabIndex={0}
      aria-label={label}
      aria-valuemin={low}
      aria-valuemax={high}
      aria-valuenow={shown === null ? undefined : Number(shown)}
      aria-valuetext={shown === null ? 'open' : `${shown} ${unit}`}
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId)
        setDragged(at(e))
      }}
      onPointerMove={(e) => dragged !== null && setDragged(at(e))}
      onPointerUp={() => {
        if (dragged !== null && dragged !== value) onChange(dragged)
        setDragged(null)
      }}
      onPointerCancel={() => setDragged(null)}
      onKeyDown={(e) => {
        const by = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1, PageUp: 10, PageDown: -10 }[e.key]
        if (by === undefined) return
        e.preventDefault()
        onChange(snapped(Number(shown ?? lowest ?? min) + by * Number(step), step, min, max))
      }}
      title={
        unknown
          ? t('ui.notKnownYetHowFarIt', { min, max, unit })
          : t('ui.canBeHadOf', { lowest: lowest ?? '–', highest: highest ?? '–', unit, min, max })
      }
    >
      <svg viewBox={`0 0 ${width} 20`} preserveAspectRatio="none" className="absolute inset-0 size-full" aria-hidden>
        <path
          d={`M${margin} 10H${width - margin}M${margin} 5v10M${width - margin} 5v10`}
          stroke="var(--color-base-300)"
          strokeWidth="1"
          vectorEffect="non-scaling-stroke"
        />
        {unknown && (
          <path
            d={`M${margin} 10H${width - margin}`}
            stroke="currentColor"
            strokeWidth="1.5"
            strokeDasharray="1 4"
            vectorEffect="non-scaling-stroke"
          />
        )}
        {lowest !== null &&
          highest !== null &&
          (members && members.length <= 60 ? (
            members.map((m) => <path key={m} d={`M${x(m)} 7v6`} stroke="currentColor" strokeWidth="1.5" vectorEffect="non-scaling-stroke" />)
          ) : (
            <path
              d={`M${x(lowest)} 10H${x(highest)}M${x(lowest)} 6.5v7M${x(highest)} 6.5v7`}
              stroke="currentColor"
              strokeWidth="1.5"
              vectorEffect="non-scaling-stroke"
            />
          ))}
      </svg>
      {shown !== null && (
        <svg
          viewBox="0 0 10 14"
          aria-hidden
          className="absolute top-[3px] h-3.5 w-2.5 -translate-x-1/2"
          style={{ left: `${(x(shown) / width) * 100}%` }}
        >
          <path
            d="M5 1 9 7 5 13 1 7z"
            fill={strong ? 'var(--color-primary)' : 'var(--color-base-100)'}
            stroke="var(--color-primary)"
            strokeWidth="1.4"
          />
        </svg>
      )}
    </div>
  )
}
