import { useEffect, useEffectEvent, type RefObject } from 'react'

type Of = {
  /** What the focused element must be like for the clipboard to be ours. */
  selector: string
  onCopy: (data: DataTransfer, at: HTMLElement, isCut: boolean) => void
  onPaste: (data: DataTransfer, at: HTMLElement) => void
}

/**
 * Ctrl+C, Ctrl+X and Ctrl+V while something within a part of the page has the focus. The browser sends these events to where a text was selected
 * last, which can be anywhere on the page; so they are heard on the whole of it.
 */
export function useClipboard(part: RefObject<HTMLElement | null>, of: Of) {
  const hear = useEffectEvent((e: ClipboardEvent) => {
    const at = document.activeElement
    if (!(at instanceof HTMLElement) || !at.matches(of.selector) || !part.current?.contains(at) || !e.clipboardData) return
    // A text that was selected with the pointer is what is to be copied.
    if (e.type === 'copy' && (getSelection()?.toString() ?? '') !== '' && !at.contains(getSelection()!.anchorNode)) return
    e.preventDefault()
    if (e.type === 'paste') of.onPaste(e.clipboardData, at)
    else of.onCopy(e.clipboardData, at, e.type === 'cut')
  })
  useEffect(() => {
    const kinds = ['copy', 'cut', 'paste'] as const
    for (const kind of kinds) document.addEventListener(kind, hear)
    return () => kinds.forEach((kind) => document.removeEventListener(kind, hear))
  }, [])
}
