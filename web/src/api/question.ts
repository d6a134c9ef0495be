import type { Schemas } from './client'

export type Pick = Schemas['PickRequest']

/** What a person asks: the picks, and where and when they are for. */
export type Question = { picks: Pick[]; site: string | null; date: string | null }
