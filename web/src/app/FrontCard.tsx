import type { FormEvent, ReactNode } from 'react'
import { Mark } from '../ui/Mark'
import { t } from '../texts'

/** The form in front of the application, for those who are not signed in. */
export function FrontCard({
  title,
  tab,
  sub,
  onSubmit,
  children,
}: {
  title: string
  tab: string
  sub: string
  onSubmit: (event: FormEvent<HTMLFormElement>) => void
  children: ReactNode
}) {
  return (
    <main className="grid min-h-full place-items-center bg-base-200 p-6">
      <form onSubmit={onSubmit} className="w-88 border hair bg-base-100">
        <div className="flex items-center gap-3 border-b hair p-5">
          <Mark className="size-9" />
          <div>
            <h1 className="text-lg leading-tight font-semibold">{title}</h1>
            <title>{t('app.tabJuniperfall', { tab })}</title>
            <p className="quiet text-sm">{sub}</p>
          </div>
        </div>
        <div className="grid gap-3 p-5">{children}</div>
      </form>
    </main>
  )
}
