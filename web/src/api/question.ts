import type { Schemas } from './client'

export type Pick = Schemas['PickRequest']

/** What a person asks: the picks, where and when they are for, and whom they are priced for. */
export type Question = {
  picks: Pick[]
  site: string | null
  date: string | null
  customerClass: string | null
  /** The ids of rules that are set aside. */
  setAside?: string[]
}
