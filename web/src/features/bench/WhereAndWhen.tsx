import type { Schemas } from '../../api/client'
import { DayField, SiteField } from '../../ui/WhereFields'
import type { Bench } from './useBench'

type Sites = Schemas['CodeView'][]

export const SiteChoice = ({ bench, sites }: { bench: Bench; sites: Sites }) => (
  <SiteField site={bench.question.site} sites={sites} onChange={(site) => bench.askFor({ site })} />
)

export const DayChoice = ({ bench }: { bench: Bench }) => <DayField date={bench.question.date} onChange={(date) => bench.askFor({ date })} />
