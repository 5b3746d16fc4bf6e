import { useQuery } from '@tanstack/react-query'
import { mattesQuery } from '../../../api/queries'
import type { PropertySchema } from '../../../api/schema'
import type { Combine, Limit, MatteEdge, MattePart, PartInfo, PartKind } from '../../../api/types'
import type { Pointing } from '../../bench/store'

/** Parameters of a part, by name. */
export type Values = Record<string, unknown>

export const meaningOf = (property: PropertySchema): string => property['x-meaning'] ?? ''

/** Name of the parameter of a kind that has a meaning. */
export const named = (info: PartInfo, meaning: string): string | undefined =>
  Object.entries((info.schema).properties ?? {}).find(([, property]) => meaningOf(property) === meaning)?.[0]

/** What the kind of a part is like. */
export function usePartInfo(by: PartKind | undefined): PartInfo | undefined {
  return useQuery(mattesQuery).data?.parts.find((k) => k.kind === by?.kind)
}

/** What a click or a stroke in the picture does for parameters of a meaning. */
const POINTING: Record<string, Pointing> = { 'object-ids': 'object', 'hashed-objects': 'object', strokes: 'paint', corners: 'corner' }

/** What a click or a stroke in the picture does once a new part of a kind is chosen. */
export const pointingOf = (info: PartInfo): Pointing => Object.keys(POINTING).flatMap((meaning) => (named(info, meaning) ? [POINTING[meaning] ?? null] : []))[0] ?? null

export const JOINS: { value: Combine; label: string; hint: string }[] = [
  { value: 'or', label: 'or', hint: 'Here as well' },
  { value: 'and', label: 'and', hint: 'Only where both are' },
  { value: 'minus', label: 'but not', hint: 'Taken away' },
]

export const NO_FINISH: MatteEdge = { grow: 0, soften: 0, low: 0, high: 1 }

/** The limit with one part changed. */
export function withPart(limit: Limit, place: number, change: (p: MattePart) => MattePart): Limit {
  return { ...limit, parts: limit.parts.map((p, i) => (i === place ? change(p) : p)) }
}
