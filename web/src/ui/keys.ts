import { useEffect, useEffectEvent } from 'react'

const isTyping = (target: EventTarget | null): boolean =>
  target instanceof HTMLElement && (target.isContentEditable || ['INPUT', 'TEXTAREA', 'SELECT'].includes(target.tagName))

/** Calls back on a key that is pressed outside of text fields, or anywhere: `?`, `mod+z`, `mod+shift+z`. */
export function useShortcut(key: string, action: () => void, isEverywhere = false): void {
  const act = useEffectEvent(action)
  useEffect(() => {
    const parts = key.split('+')
    const letter = parts.at(-1)!
    const wantsMod = parts.includes('mod')
    const wantsShift = parts.includes('shift')
    const press = (event: KeyboardEvent) => {
      if ((!isEverywhere && isTyping(event.target)) || event.key.toLowerCase() !== letter || (event.ctrlKey || event.metaKey) !== wantsMod) return
      if (wantsMod && event.shiftKey !== wantsShift) return
      event.preventDefault()
      act()
    }
    addEventListener('keydown', press)
    return () => removeEventListener('keydown', press)
  }, [key, isEverywhere])
}
