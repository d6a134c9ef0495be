import { Ellipsis } from 'lucide-react'
import { useEffect, useLayoutEffect, useRef, useState, type ReactNode } from 'react'
import { titlePage } from './pageTitle'
import { t } from '../texts'

export type TitleCell = {
  label: string
  value: ReactNode
  /** How much room it keeps, whatever stands in it; in characters. */
  room?: number
}

type Props = {
  title: ReactNode
  sub?: ReactNode
  /** Where one is within what the title says, for the browser's tab. */
  place?: string
  /** The most important first: the last ones fold away where there is no room. */
  cells: TitleCell[]
  actions?: ReactNode
}

/** The head of a worksheet, a result or a list, ruled like the title block of a drawing. Its cells keep their places, whatever comes to stand in them. */
export function TitleBlock({ title, sub, place, cells, actions }: Props) {
  const heading = useRef<HTMLHeadingElement>(null)
  const row = useRef<HTMLDivElement>(null)
  const [isCut, setIsCut] = useState(false)
  const [isOpen, setIsOpen] = useState(false)
  useEffect(() => titlePage(heading.current, place))
  useLayoutEffect(() => {
    const box = row.current!
    const look = () => setIsCut([...box.children].some((c) => (c as HTMLElement).offsetTop > box.offsetTop + 8))
    look()
    const watch = new ResizeObserver(look)
    watch.observe(box)
    return () => watch.disconnect()
  }, [cells.length])

  return (
    <header className="flex border hair bg-base-100">
      <div className="min-w-40 flex-[1_0_12.5rem] border-r hair px-3 py-1.5">
        <h1 className="text-lg leading-tight font-semibold" ref={heading}>
          {title}
        </h1>
        {sub && <p className="quiet text-sm">{sub}</p>}
      </div>
      {/* What does not fit into one line folds below it, out of sight. */}
      <div
        ref={row}
        className={`flex min-w-0 flex-wrap overflow-hidden ${isOpen ? '' : 'h-13'} ${cells.length > 0 ? '' : 'hidden'} ${actions ? '' : '[&>:last-child]:border-r-0'}`}
      >
        {cells.map(({ label, value, room }) => (
          <div key={label} className="h-13 border-r hair px-3 py-1.5">
            <p className="quiet text-[0.6875rem] leading-tight italic">{label}</p>
            <p className="whitespace-nowrap" style={{ minWidth: room === undefined ? undefined : `${room}ch` }}>
              {value}
            </p>
          </div>
        ))}
      </div>
      {(isCut || isOpen) && (
        <button
          className="btn btn-ghost btn-sm self-center"
          aria-expanded={isOpen}
          aria-label={isOpen ? t('ui.foldTheTitleBlock') : t('ui.allOfTheTitleBlock')}
          title={isOpen ? t('ui.less') : t('ui.more')}
          onClick={() => setIsOpen(!isOpen)}
        >
          <Ellipsis className="size-4" />
        </button>
      )}
      {actions && <div className="ml-auto flex shrink-0 flex-wrap items-center justify-end gap-1.5 self-center px-3 py-1.5">{actions}</div>}
    </header>
  )
}
