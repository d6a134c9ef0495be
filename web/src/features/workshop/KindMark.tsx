import { Boxes, CircleHelp, Equal, Grid3x3, Hammer, Tag } from 'lucide-react'
import type { Row } from './model'

/** What a row is, at a glance: rules by their section mark, parts by an empty balloon. */
export function KindMark({ row }: { row: Row }) {
  const icon = 'size-4 quiet'
  switch (row.kind) {
    case 'attribute':
      return <CircleHelp className={icon} strokeWidth={1.5} aria-label="attribute" />
    case 'computed':
      return <Equal className={icon} strokeWidth={1.5} aria-label="computed attribute" />
    case 'grid':
      return (
        <span className="flex items-center gap-1 font-semibold whitespace-nowrap">
          §{row.number}
          <Grid3x3 className="size-3 quiet" aria-label="combination grid" />
        </span>
      )
    case 'subassembly':
      return <Boxes className={icon} strokeWidth={1.5} aria-label="subassembly" />
    case 'part':
      return <span role="img" aria-label="part line" className="inline-block size-3.5 rounded-full border border-current quiet" />
    case 'operation':
      return <Hammer className={icon} strokeWidth={1.5} aria-label="operation line" />
    case 'price':
      return <Tag className={icon} strokeWidth={1.5} aria-label="price line" />
    default:
      return <span className="font-semibold whitespace-nowrap">§{row.number}</span>
  }
}
