import { GripHorizontal, GripVertical } from 'lucide-react'
import { Separator } from 'react-resizable-panels'
import { t } from '../../texts'

/** What lies between two parts of the workshop and is drawn to give one of them more room. */
export const Divider = ({ flat }: { flat?: boolean }) => (
  <Separator
    title={t('workshop.drawToGiveOneSideMore')}
    className={`quiet grid place-items-center border-base-300 bg-base-200 outline-offset-0 hover:bg-primary/30 ${flat ? 'h-2 border-y' : 'w-2 border-x'}`}
  >
    {flat ? <GripHorizontal className="h-2 w-4" aria-hidden /> : <GripVertical className="h-4 w-2" aria-hidden />}
  </Separator>
)

/** Widths that were dragged are remembered. */
export function layout(name: string): Record<string, number> | undefined {
  try {
    return (JSON.parse(localStorage.getItem(`juniperfall.layout.${name}`) ?? 'null') as Record<string, number> | null) ?? undefined
  } catch {
    return undefined
  }
}

export const keepLayout = (name: string, sizes: Record<string, number>) => localStorage.setItem(`juniperfall.layout.${name}`, JSON.stringify(sizes))
