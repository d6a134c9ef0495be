import { newId } from '../../api/ids'
import type { Question } from '../../api/question'
import { keptQuestion } from '../bench'

/** Answers that are not saved yet. The browser keeps them; they are offered, never taken up unsaid. */
export type Draft = { id: string; name: string; changedAt: string; answers: number }

/** What is said of a draft: of which revision it is, and of which saved configuration. */
type Note = { revisionId: number; configurationId: string | null; name: string; changedAt: string }

const prefix = 'juniperfall.draft.'
const noted = '.of'
const wondered = '.whatIf'
const mostKept = 30

/** Where the question of a draft is kept. */
export const draftKey = (id: string): string => prefix + id

function noteOf(id: string): Note | null {
  try {
    const note = JSON.parse(localStorage.getItem(draftKey(id) + noted) ?? 'null') as Partial<Note> | null
    return typeof note?.revisionId === 'number' && typeof note.changedAt === 'string'
      ? {
          revisionId: note.revisionId,
          configurationId: typeof note.configurationId === 'string' ? note.configurationId : null,
          name: typeof note.name === 'string' ? note.name : '',
          changedAt: note.changedAt,
        }
      : null
  } catch {
    return null
  }
}

const allNoted = (): (Note & { id: string })[] =>
  Object.keys(localStorage)
    .filter((key) => key.startsWith(prefix) && key.endsWith(noted))
    .map((key) => key.slice(prefix.length, -noted.length))
    .flatMap((id) => {
      const note = noteOf(id)
      return note ? [{ ...note, id }] : []
    })
    .sort((a, b) => b.changedAt.localeCompare(a.changedAt))

/** Says of what a draft is. The oldest ones go once there are many. */
export function noteDraft(id: string, of: Omit<Note, 'changedAt'>): void {
  localStorage.setItem(draftKey(id) + noted, JSON.stringify({ ...of, changedAt: new Date().toISOString() } satisfies Note))
  allNoted()
    .slice(mostKept)
    .forEach((d) => forgetDraft(d.id))
}

export function forgetDraft(id: string): void {
  for (const of of ['', noted, wondered]) localStorage.removeItem(draftKey(id) + of)
}

/** Where the question of a draft's “what if” is kept, as long as it is open. */
export const whatIfKey = (id: string): string => draftKey(id) + wondered

/** Whether a draft that an address names is one of this revision or saved configuration, or not there yet. An address can hold anything. */
export function isDraftOf(id: string, revisionId: number, configurationId: string | null): boolean {
  const note = noteOf(id)
  return (
    /^[0-9a-f-]{36}$/.test(id) &&
    (note === null || (note.configurationId === configurationId && (configurationId !== null || note.revisionId === revisionId)))
  )
}

/** The drafts of a revision, or of a saved configuration, those changed last first. */
export const draftsOf = (revisionId: number, configurationId: string | null): Draft[] =>
  allNoted()
    .filter((d) => d.configurationId === configurationId && (configurationId !== null || d.revisionId === revisionId))
    .flatMap((d) => {
      const question = keptQuestion(draftKey(d.id))
      return question ? [{ id: d.id, name: d.name, changedAt: d.changedAt, answers: question.picks.filter((p) => p.filledIn == null).length }] : []
    })

/** A draft that starts from something saved; its page is where it goes on. */
export function draftFrom(name: string, revisionId: number, question: Question): string {
  const id = newId()
  localStorage.setItem(draftKey(id), JSON.stringify(question))
  noteDraft(id, { revisionId, configurationId: null, name })
  return `/configure/${revisionId}?draft=${id}`
}

/** The name of a draft as it was typed. */
export const draftName = (id: string): string | null => noteOf(id)?.name ?? null
