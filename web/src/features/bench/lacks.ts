import type { Role } from '../../api/types'

/** What a kind needs that the element lacks, in one sentence; and that Extract… makes it, where it does. */
export function lacks(missing: Role[], made: Role[]): string {
  const names = missing.map((m) => m.replace('_', ' ')).join(', ')
  const makes = missing.every((m) => made.includes(m))
  return `Needs a pass that is missing: ${names}.${makes ? ' Extract… can make it.' : ''}`
}
