import type { Schemas } from '../../api/client'

type Part = { id?: unknown; [member: string]: unknown }

const isPart = (value: unknown): value is Part => typeof value === 'object' && value !== null && !Array.isArray(value)

/** Every part of a document that can be told by its id. Instances are known to their subassembly only. */
function partsById(value: unknown, found: Map<string, unknown>): Map<string, unknown> {
  if (Array.isArray(value)) for (const member of value) partsById(member, found)
  else if (isPart(value)) {
    if (typeof value.id === 'string') found.set(value.id, value)
    for (const [name, member] of Object.entries(value)) if (name !== 'instances') partsById(member, found)
  }
  return found
}

/**
 * The document after an edit, from the one before and what the server tells of it: in place of each part that is as it was
 * stands an object with nothing but its id as “same”. Those parts stay the same objects. Null where one of them is not known.
 */
export function afterEdit(before: Schemas['ModelDocument'], told: unknown): Schemas['ModelDocument'] | null {
  const known = partsById(before, new Map())
  let isWhole = true
  const restore = (value: unknown): unknown => {
    if (Array.isArray(value)) return value.map(restore)
    if (!isPart(value)) return value
    if (typeof value.same === 'string' && Object.keys(value).length === 1) {
      const same = known.get(value.same)
      isWhole &&= same !== undefined
      return same
    }
    return Object.fromEntries(Object.entries(value).map(([name, member]) => [name, restore(member)]))
  }
  const after = restore(told) as Schemas['ModelDocument']
  return isWhole ? after : null
}
