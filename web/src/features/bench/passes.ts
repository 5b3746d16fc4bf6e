import { useQuery } from '@tanstack/react-query'
import { extractsQuery, madeQuery } from '../../api/queries'
import type { Element, Extract, ExtractInfo, MadeInfo, ReadsPass, Role } from '../../api/types'

/** A pass of an element: stored, drawn by a made element, or extracted. */
export interface PassOf {
  id: number
  name: string
  role: Role
  /** How it is made, if it is extracted. */
  made: Extract | null
}

/** Every pass of an element: stored or drawn ones first. */
function passesOf(element: Element, kinds: ExtractInfo[], made: MadeInfo[]): PassOf[] {
  const stored = element.passes.map((p) => ({ id: p.id, name: p.name, role: p.role, made: null }))
  const offers = made.find((k) => k.kind === element.made?.kind)?.offers ?? []
  const drawn = offers.map((o) => ({ id: o.pass, name: o.role === 'beauty' ? 'picture' : o.role, role: o.role, made: null }))
  const gives = (e: Extract): Role => kinds.find((k) => k.kind === e.does.kind)?.gives ?? 'other'
  const extracted = (element.extracts ?? []).map((e) => ({ id: e.id, name: e.name, role: gives(e), made: e }))
  return [...stored, ...drawn, ...extracted]
}

/** What tells every pass of an element. */
export function usePasses(): (element: Element) => PassOf[] {
  const kinds = useQuery(extractsQuery).data ?? []
  const made = useQuery(madeQuery).data ?? []
  return (element) => passesOf(element, kinds, made)
}

/** Every pass of an element. */
export function usePassesOf(element: Element | null): PassOf[] {
  const of = usePasses()
  return element ? of(element) : []
}

/** The pass that is read for a role: the chosen one, else the last extracted one that serves, else the first stored one. */
export function servingOf(passes: PassOf[], role: Role, chosen: ReadsPass[] = []): PassOf | null {
  const of = passes.filter((p) => p.role === role)
  const wanted = chosen.find((c) => c.role === role)?.pass
  return of.find((p) => p.id === wanted) ?? of.findLast((p) => p.made?.serves) ?? of.find((p) => !p.made) ?? null
}

/** What is read for a role of which there is no pass, in words: the engine takes it from another one. */
export function derivedFor(element: Element, passes: PassOf[], role: Role): string | null {
  if (role === 'position' && (element.camera ?? null) !== null && servingOf(passes, 'depth')) return 'position, from depth'
  return role === 'alpha' && servingOf(passes, 'beauty') ? "the picture's alpha" : null
}

/** Whether an element offers what is read for a role. */
export const offers = (element: Element, passes: PassOf[], role: Role): boolean => servingOf(passes, role) !== null || derivedFor(element, passes, role) !== null

/** The passes that an extraction may read: all before it. */
export const before = (passes: PassOf[], id: number): PassOf[] => passes.filter((p) => !p.made || passes.findIndex((q) => q.id === p.id) < passes.findIndex((q) => q.id === id))

/** A number that no pass of the element has. Stored passes are numbered from 1: files that come later must find their numbers free. */
export const freePassId = (element: Element): number => Math.max(1000, ...(element.extracts ?? []).map((e) => e.id)) + 1
