import { useEffect, useEffectEvent, type RefObject } from 'react'

type Of = { cells: () => string; clear: () => void; paste: (text: string) => void; disabled: boolean }

/**
 * Ctrl+C, Ctrl+X and Ctrl+V while a cell of the table has the focus. The browser sends these events to where a text was selected last, which can
 * be anywhere on the page; so they are heard on the whole of it.
 */
export function useClipboard(table: RefObject<HTMLElement | null>, of: Of) {
  const hear = useEffectEvent((e: ClipboardEvent) => {
    const at = document.activeElement
    if (!(at instanceof HTMLElement) || !at.dataset.place || !table.current?.contains(at)) return
    e.preventDefault()
    if (e.type === 'paste') {
      if (!of.disabled) of.paste(e.clipboardData?.getData('text/plain') ?? '')
      return
    }
    e.clipboardData?.setData('text/plain', of.cells())
    if (e.type === 'cut' && !of.disabled) of.clear()
  })
  useEffect(() => {
    const kinds = ['copy', 'cut', 'paste'] as const
    for (const kind of kinds) document.addEventListener(kind, hear)
    return () => kinds.forEach((kind) => document.removeEventListener(kind, hear))
  }, [])
}
