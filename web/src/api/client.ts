import createClient from 'openapi-fetch'
import type { components, paths } from './schema'
import { t } from '../texts'

export type Schemas = components['schemas']

/** The one form of every error: a sentence, and what it is about. */
export type Problem = {
  status: number
  detail: string
  pointer?: string
  fault?: 'gone' | 'changed' | 'inUse' | 'malformed'
  rowId?: string
  field?: string
  current?: unknown
  places?: { rowId: string; field: string; name: string }[]
}

export class ProblemError extends Error {
  constructor(readonly problem: Problem) {
    super(problem.detail)
  }
}

/** Tells the server which page asks: a newer question of the same page takes the place of an older one. */
const page = Array.from(crypto.getRandomValues(new Uint32Array(4)), (n) => n.toString(36)).join('')

export const client = createClient<paths>({ baseUrl: '', headers: { 'X-Juniperfall': page } })

/** Who to tell when a request says that nobody is signed in any more. */
export const signedOut = new EventTarget()

/** What was answered, or a ProblemError with the sentence that the server gave. */
export async function ask<T>(request: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  let result
  try {
    result = await request
  } catch {
    throw new ProblemError({ status: 0, detail: t('api.theServerCannotBeReachedJust') })
  }
  const { data, error, response } = result
  if (response.ok) return data as T
  if (response.status === 401 && !response.url.endsWith('/api/session')) signedOut.dispatchEvent(new Event('signed-out'))
  const told = typeof error === 'object' && error !== null ? error : {}
  throw new ProblemError({ detail: t('api.somethingWentWrong'), ...told, status: response.status })
}

/** Whether trying the same again later may help. */
export const isPassing = (error: unknown): boolean => error instanceof ProblemError && (error.problem.status === 0 || error.problem.status >= 500)

export const sentenceOf = (error: unknown): string => (error instanceof Error ? error.message : t('api.somethingWentWrong'))
