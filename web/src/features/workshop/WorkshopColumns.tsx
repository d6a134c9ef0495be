import { ListTree, PanelRight, X } from 'lucide-react'
import { useEffect, useRef, useState, useSyncExternalStore, type ReactNode } from 'react'
import { Group, Panel } from 'react-resizable-panels'
import { Divider, keepLayout, layout } from './layout'
import { t } from '../../texts'

/** Below this width, in pixels, three parts do not stand side by side: as on a tablet, or on a small screen at one and a half times. */
const narrow = '(max-width: 1000px)'

function useIsNarrow(): boolean {
  return useSyncExternalStore(
    (changed) => {
      const query = matchMedia(narrow)
      query.addEventListener('change', changed)
      return () => query.removeEventListener('change', changed)
    },
    () => matchMedia(narrow).matches,
  )
}

type Props = { benchAs: 'beside' | 'alone' | 'hidden'; outline: ReactNode; worksheet: ReactNode; bench: ReactNode }

/** Outline, worksheet and bench side by side; where there is no room, outline and bench fold away into drawers over the worksheet. */
export function WorkshopColumns(props: Props) {
  return useIsNarrow() ? <Drawers {...props} /> : <Columns {...props} />
}

function Columns({ benchAs, outline, worksheet, bench }: Props) {
  return (
    <Group
      orientation="horizontal"
      id="juniperfall.workshop"
      className="min-h-0 flex-1 border hair"
      key={benchAs}
      defaultLayout={layout(`columns.${benchAs}`)}
      onLayoutChanged={(l) => keepLayout(`columns.${benchAs}`, l)}
    >
      {benchAs !== 'alone' && (
        <>
          <Panel id="outline" defaultSize="17%" minSize="10%">
            {outline}
          </Panel>
          <Divider />
          <Panel id="worksheet" defaultSize="46%" minSize="25%">
            {worksheet}
          </Panel>
        </>
      )}
      {benchAs === 'beside' && <Divider />}
      {benchAs !== 'hidden' && (
        <Panel id="bench" defaultSize="37%" minSize="20%">
          {bench}
        </Panel>
      )}
    </Group>
  )
}

function Drawers({ benchAs, outline, worksheet, bench }: Props) {
  const [open, setOpen] = useState<'outline' | 'bench' | null>(null)
  const drawer = useRef<HTMLElement>(null)
  useEffect(() => {
    if (open) drawer.current?.querySelector<HTMLElement>('input, button')?.focus()
  }, [open])
  const handle = (which: 'outline' | 'bench', icon: ReactNode, name: string) => (
    <button
      className="btn btn-ghost btn-sm gap-1.5 px-1 py-3 text-sm [writing-mode:vertical-rl]"
      aria-expanded={open === which}
      onClick={() => setOpen(open === which ? null : which)}
    >
      {icon}
      {name}
    </button>
  )
  if (benchAs === 'alone') return <div className="min-h-0 flex-1 border hair">{bench}</div>
  return (
    <div className="relative flex min-h-0 flex-1 border hair" onKeyDown={(e) => e.key === 'Escape' && open !== null && setOpen(null)}>
      <div className="border-r hair">{handle('outline', <ListTree className="size-4" />, t('workshop.outline'))}</div>
      <div className="min-w-0 flex-1">{worksheet}</div>
      {benchAs === 'beside' && <div className="border-l hair">{handle('bench', <PanelRight className="size-4" />, t('workshop.bench'))}</div>}
      {open && (
        <aside
          ref={drawer}
          aria-label={open === 'outline' ? t('workshop.outlineOfTheModel') : t('workshop.benchBesideTheWorksheet')}
          className={`absolute inset-y-0 z-40 w-[min(30rem,86%)] border-x hair bg-base-100 shadow-lg ${open === 'outline' ? 'left-9' : 'right-9'}`}
        >
          <button className="btn btn-ghost btn-sm absolute top-1 right-1 z-10" aria-label={t('workshop.foldAway')} onClick={() => setOpen(null)}>
            <X className="size-4" />
          </button>
          {open === 'outline' ? outline : bench}
        </aside>
      )}
    </div>
  )
}
