import { Boxes, CircleHelp, Equal, Grid3x3, Hammer, Tag } from 'lucide-react'
import type { Row } from './model'
import { t } from '../../texts'

/** What a row is, at a glance: rules by their section mark, parts by an empty balloon. */
export function KindMark({ row }: { row: Row }) {
  const icon = 'size-4 quiet'
  switch (row.kind) {
    case 'attribute':
      return <CircleHelp className={icon} strokeWidth={1.5} aria-label={t('workshop.attribute')} />
    case 'computed':
      return <Equal className={icon} strokeWidth={1.5} aria-label={t('workshop.computedAttribute')} />
    case 'grid':
      return (
        <span className="flex items-center gap-1 font-semibold whitespace-nowrap">
          §{row.number}
          <Grid3x3 className="size-3 quiet" aria-label={t('workshop.combinationGrid')} />
        </span>
      )
    case 'subassembly':
      return <Boxes className={icon} strokeWidth={1.5} aria-label={t('workshop.subassembly')} />
    case 'part':
      return <span role="img" aria-label={t('workshop.partLine')} className="inline-block size-3.5 rounded-full border border-current quiet" />
    case 'operation':
      return <Hammer className={icon} strokeWidth={1.5} aria-label={t('workshop.operationLine')} />
    case 'price':
      return <Tag className={icon} strokeWidth={1.5} aria-label={t('workshop.priceLine')} />
    default:
      return <span className="font-semibold whitespace-nowrap">§{row.number}</span>
  }
}
