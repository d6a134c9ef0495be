import type { ReactNode } from 'react'
import { titlePage } from './pageTitle'

/** The head of a worksheet, a result or a list, ruled like the title block of a drawing. */
export function TitleBlock({ title, sub, cells, actions }: { title: ReactNode; sub?: ReactNode; cells: { label: string; value: ReactNode }[]; actions?: ReactNode }) {
  return (
    <header className="flex flex-wrap border hair bg-base-100">
      <div className="min-w-48 flex-[2_1_0%] border-r hair px-3 py-1.5">
        <h1 className="text-lg leading-tight font-semibold" ref={titlePage}>
          {title}
        </h1>
        {sub && <p className="quiet text-sm">{sub}</p>}
      </div>
      {cells.map(({ label, value }) => (
        <div key={label} className="border-r hair px-3 py-1.5">
          <p className="quiet text-[0.6875rem] leading-tight italic">{label}</p>
          <p className="whitespace-nowrap">{value}</p>
        </div>
      ))}
      {actions && <div className="flex flex-wrap items-center gap-1.5 px-3 py-1.5">{actions}</div>}
    </header>
  )
}
