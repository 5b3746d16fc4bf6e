import type { PushedEllipse } from '../../api/types'

/** What stands in a list under a number that stays with it. */
export interface Numbered {
  id: number
}

/** A number that nothing in a list has. */
export const freeId = (list: Numbered[]): number => Math.max(0, ...list.map((one) => one.id)) + 1

/** A push that does nothing yet. */
export const PUSH: Omit<PushedEllipse, 'id'> = { at: [0, 0], by: [0, 0], size: [120, 120], lies: 0, turn: 0, scale: 1, softness: 1 }
