import { useQueryClient } from '@tanstack/react-query'
import { Boxes, ClipboardList, Keyboard, KeyRound, LibraryBig, LogOut, Moon, Search, Sun, Users } from 'lucide-react'
import { useState, type ReactNode } from 'react'
import { NavLink, useNavigate } from 'react-router'
import { ask, client } from '../api/client'
import { useShortcut } from '../ui/keys'
import { Mark } from '../ui/Mark'
import { KeysSheet } from './KeysSheet'
import { OwnPassword } from './OwnPassword'
import { Palette, type Command } from './Palette'
import { useMe } from '../session/session'
import { applyTheme, isDark } from './theme'
import { chooseLanguage, language, languages, productName, t } from '../texts'

/** A language by its own name. */
const nameOf = (code: string) => new Intl.DisplayNames([code], { type: 'language' }).of(code) ?? code

const places = [
  { to: '/products', label: t('app.products'), icon: Boxes },
  { to: '/configurations', label: t('app.configurations'), icon: ClipboardList },
  { to: '/library', label: t('app.library'), icon: LibraryBig },
]
const people = { to: '/people', label: t('app.people'), icon: Users }

/** The slim rail on the left and the page beside it. */
export function Shell({ children }: { children: ReactNode }) {
  const me = useMe()
  const queries = useQueryClient()
  const [dark, setDark] = useState(isDark)
  const [keys, setKeys] = useState(false)
  const [password, setPassword] = useState(false)
  const [palette, setPalette] = useState(false)
  const go = useNavigate()
  useShortcut('?', () => setKeys(true))
  useShortcut('mod+k', () => setPalette(true), true)

  async function leave() {
    await ask(client.DELETE('/api/session')).catch(() => undefined)
    // The session stays in the cache, so that the gate hears of it; all else goes.
    queries.setQueryData(['session'], null)
    queries.removeQueries({ predicate: (q) => q.queryKey[0] !== 'session' })
  }

  function turn() {
    applyTheme(dark ? 'paper' : 'juniper')
    setDark(!dark)
  }

  const libraryTables = ['items', 'work-centres', 'sites', 'standard-operations', 'customer-classes']
  const commands: Command[] = [
    ...[...places, ...(me.rights.includes('administer') ? [people] : [])].map(({ to, label }) => ({ label, act: () => void go(to) })),
    ...libraryTables.map((of) => ({ label: t('app.libraryTable', { table: of.replace('-', ' ') }), act: () => void go(`/library/${of}`) })),
    ...(me.rights.includes('edit') ? [{ label: t('app.newProduct'), act: () => void go('/products?new') }] : []),
    { label: dark ? t('app.lightTheme') : t('app.darkTheme'), act: turn },
    { label: t('app.keysOfThisPage'), act: () => setKeys(true) },
    ...languages
      .filter((l) => l !== language)
      .map((l) => ({ label: t('app.inLanguage', { name: nameOf(l) }), act: () => (chooseLanguage(l), location.reload()) })),
    { label: t('app.yourPassword'), act: () => setPassword(true) },
    { label: t('app.signOut'), act: () => void leave() },
  ]

  return (
    <div className="flex h-full">
      <a href="#page" className="btn absolute -top-20 left-2 z-50 focus:top-2">
        {t('app.toThePage')}
      </a>
      <nav aria-label={t('app.places')} className="flex w-21 shrink-0 flex-col items-stretch border-r hair bg-base-200 py-2 text-sm">
        <NavLink to="/products" className="mb-3 grid place-items-center" aria-label={productName}>
          <Mark className="size-8" />
        </NavLink>
        {(me.rights.includes('administer') ? [...places, people] : places).map(({ to, label, icon: Icon }) => (
          <NavLink
            key={to}
            to={to}
            className={({ isActive }) =>
              `grid justify-items-center gap-1 border-l-2 px-0.5 py-2 text-[0.6875rem] ${isActive ? 'border-primary font-semibold text-primary' : 'border-transparent quiet hover:text-primary'}`
            }
          >
            <Icon className="size-5" strokeWidth={1.5} />
            {label}
          </NavLink>
        ))}
        <div className="mt-auto grid justify-items-center gap-1">
          <button
            className="btn btn-ghost btn-sm"
            aria-label={t('app.openOrDo')}
            title={t('app.openOrDoAnythingCtrlK')}
            onClick={() => setPalette(true)}
          >
            <Search className="size-5" strokeWidth={1.5} />
          </button>
          <button className="btn btn-ghost btn-sm" aria-label={t('app.keys')} title={t('app.keys2')} onClick={() => setKeys(true)}>
            <Keyboard className="size-5" strokeWidth={1.5} />
          </button>
          <button
            className="btn btn-ghost btn-sm"
            aria-label={dark ? t('app.lightTheme') : t('app.darkTheme')}
            title={dark ? t('app.lightTheme') : t('app.darkTheme')}
            onClick={turn}
          >
            {dark ? <Sun className="size-5" strokeWidth={1.5} /> : <Moon className="size-5" strokeWidth={1.5} />}
          </button>
          <button className="btn btn-ghost btn-sm" aria-label={t('app.yourPassword')} title={t('app.yourPassword')} onClick={() => setPassword(true)}>
            <KeyRound className="size-5" strokeWidth={1.5} />
          </button>
          <button
            className="btn btn-ghost btn-sm"
            aria-label={t('app.signOut')}
            title={t('app.signOutDisplay', { display: me.display })}
            onClick={leave}
          >
            <LogOut className="size-5" strokeWidth={1.5} />
          </button>
          <p className="px-1 text-center text-[0.6875rem] leading-tight">
            {me.display.split(' ')[0]}
            <span className="quiet block">{me.role}</span>
          </p>
        </div>
      </nav>
      <main id="page" tabIndex={-1} className="min-w-0 flex-1 overflow-auto outline-none">
        {children}
      </main>
      {password && <OwnPassword onClose={() => setPassword(false)} />}
      {keys && <KeysSheet onClose={() => setKeys(false)} />}
      {palette && <Palette commands={commands} onClose={() => setPalette(false)} />}
    </div>
  )
}
