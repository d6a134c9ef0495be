export type Theme = 'system' | 'paper' | 'juniper'

const key = 'juniperfall.theme'

export const storedTheme = (): Theme => {
  const stored = localStorage.getItem(key)
  return stored === 'paper' || stored === 'juniper' ? stored : 'system'
}

export function applyTheme(theme: Theme): void {
  if (theme === 'system') {
    delete document.documentElement.dataset.theme
    localStorage.removeItem(key)
  } else {
    document.documentElement.dataset.theme = theme
    localStorage.setItem(key, theme)
  }
}

export const isDark = (): boolean => {
  const theme = storedTheme()
  return theme === 'juniper' || (theme === 'system' && matchMedia('(prefers-color-scheme: dark)').matches)
}
