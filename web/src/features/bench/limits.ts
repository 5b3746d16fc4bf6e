import type { Element, Limit, MattePart, NamedMatte, Shot, Step } from '../../api/types'
import { withElement, withStep } from './useShot'

/** The matte that is worked on for a step: its own, or the one with a name that it uses alone. */
export interface EditedLimit {
  limit: Limit
  /** The one with a name, if that is it. */
  named: NamedMatte | null
  /** Its address. */
  at: string
  /** The document with it changed. */
  put: (doc: Shot, limit: Limit) => Shot
}

/** The number of the matte with a name that a limit uses alone. */
const aloneNamed = (limit: Limit): number | null => {
  const [only, ...more] = limit.parts
  return only && more.length === 0 && !only.invert && only.by.kind === 'named' ? only.by.matte : null
}

export function editedLimit(element: Element, step: Step | null): EditedLimit | null {
  const own = step?.only_where
  if (!step || !own) return null
  const named = (element.mattes ?? []).find((m) => m.id === aloneNamed(own)) ?? null
  if (!named) return { limit: own, named, at: `elements/${element.id}/steps/${step.id}/only_where`, put: (doc, only_where) => withStep(doc, element.id, step.id, (s) => ({ ...s, only_where })) }
  const put = (doc: Shot, matte: Limit) => withElement(doc, element.id, (e) => ({ ...e, mattes: (e.mattes ?? []).map((m) => (m.id === named.id ? { ...m, matte } : m)) }))
  return { limit: named.matte, named, at: `elements/${element.id}/mattes/${named.id}/matte`, put }
}

/** The chosen part of the matte that is worked on. */
export function chosenPart(element: Element | null, step: Step | null, part: number): MattePart | null {
  const parts = (element && editedLimit(element, step)?.limit.parts) ?? []
  return parts[Math.min(part, parts.length - 1)] ?? null
}
