import { useLayoutEffect, useRef, useState } from 'react'
import { createPortal } from 'react-dom'

export type MenuEntry = { label: string; keys?: string; disabled?: boolean; act: () => void } | 'line'

type Props = { x: number; y: number; label: string; entries: MenuEntry[]; onClose: () => void }

/**
 * A menu at a place of the page, opened by a right click or the menu key. Arrows go through it, Esc and a click elsewhere close it;
 * then the focus is back where it was.
 */
export function ContextMenu({ x, y, label, entries, onClose }: Props) {
  const list = useRef<HTMLUListElement>(null)
  const [at, setAt] = useState({ left: x, top: y })
  const back = useRef<Element | null>(null)

  useLayoutEffect(() => {
    back.current = document.activeElement
    const box = list.current!.getBoundingClientRect()
    setAt({ left: Math.max(4, Math.min(x, innerWidth - box.width - 4)), top: Math.max(4, Math.min(y, innerHeight - box.height - 4)) })
    list.current!.querySelector<HTMLElement>('[role=menuitem]:not(:disabled)')?.focus()
  }, [x, y])

  function close() {
    onClose()
    if (back.current instanceof HTMLElement) back.current.focus()
  }

  function step(by: number) {
    const items = [...list.current!.querySelectorAll<HTMLElement>('[role=menuitem]:not(:disabled)')]
    items.at((items.indexOf(document.activeElement as HTMLElement) + by + items.length) % items.length)?.focus()
  }

  return createPortal(
    <div className="fixed inset-0 z-50" onPointerDown={(e) => e.target === e.currentTarget && close()} onContextMenu={(e) => e.preventDefault()}>
      <ul
        ref={list}
        role="menu"
        aria-label={label}
        className="menu fixed min-w-52 flex-nowrap border hair bg-base-100 p-1 shadow-lg"
        style={at}
        onKeyDown={(e) => {
          e.stopPropagation()
          if (e.key === 'Escape' || e.key === 'Tab') {
            e.preventDefault()
            close()
          } else if (e.key === 'ArrowDown' || e.key === 'ArrowUp') {
            e.preventDefault()
            step(e.key === 'ArrowDown' ? 1 : -1)
          }
        }}
      >
        {entries.map((entry, i) =>
          entry === 'line' ? (
            <li key={i} role="separator" className="my-1 border-t hair" />
          ) : (
            <li key={entry.label} role="none">
              <button
                role="menuitem"
                className="flex justify-between gap-6 disabled:opacity-45"
                disabled={entry.disabled}
                onClick={() => {
                  // What is done comes after the focus is back: it may lead elsewhere.
                  close()
                  entry.act()
                }}
              >
                {entry.label}
                <span className="quiet text-sm">{entry.keys}</span>
              </button>
            </li>
          ),
        )}
      </ul>
    </div>,
    document.body,
  )
}
