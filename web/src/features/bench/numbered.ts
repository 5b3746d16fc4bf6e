import type { PushedEllipse } from '../../api/types'

/** What stands in a list under a number that stays with it. */
export interface Numbered {
  id: number
}

/** A number that nothing in a list has. */
export const freeId = (list: Numbered[]): number => Math.max(0, ...list.map((one) => one.id)) + 1

/** A push that does nothing yet. */
export const PUSH: Omit<PushedEllipse, 'id'> = { at: [0, 0], by: [0, 0], size: [120, 120], lies: 0, turn: 0, scale: 1, softness: 1 }

/** The one of a list that is chosen; the last one if none is. */
export const chosenOf = <T extends Numbered>(list: T[], item: number | null): T | undefined => list.find((one) => one.id === item) ?? list.at(-1)

/** Things of a list of which no more than these are shown all at once. */
export const MANY = 12
