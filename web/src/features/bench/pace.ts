import { useCallback, useState } from 'react'

/** Longest time, ms, that a picture of a moving value should take from asking to drawing: below the 100 ms that are aimed at, as some take longer than others. */
const GOAL = 70

/** A picture twice as fine takes up to four times as long. */
const FINER = GOAL / 4

/** How much coarser than at rest a moving value is seen: halvings of the side. */
const LEAST = 1
const MOST = 3

/** Pictures that are looked back on, and how many of them may be late. */
const LATE = { of: 4, least: 2 }
const EARLY = 8

/** Where each pane was left, so that the next drag begins there. */
const left = new Map<string, number>()

/**
 * How coarse a pane's picture is while a value moves: as fine as can be made in time. Two late pictures of four make it coarser; it
 * becomes finer again once eight in a row came so early that finer ones will not be late. `rest` is the scale of the picture at rest,
 * which takes its time.
 */
export function usePace(pane: string, rest: number): { coarser: number; took: (ms: number, scale: number) => void } {
  const [{ coarser }, setSeen] = useState<{ coarser: number; times: number[] }>(() => ({ coarser: left.get(pane) ?? LEAST, times: [] }))
  const took = useCallback(
    (ms: number, scale: number) => {
      if (scale <= rest) return
      setSeen((seen) => {
        const times = [...seen.times.slice(1 - EARLY), ms]
        const late = times.slice(-LATE.of).filter((t) => t > GOAL).length >= LATE.least
        const early = times.length === EARLY && times.every((t) => t < FINER)
        const next = late ? Math.min(MOST, seen.coarser + 1) : early ? Math.max(LEAST, seen.coarser - 1) : seen.coarser
        left.set(pane, next)
        return { coarser: next, times: next === seen.coarser ? times : [] }
      })
    },
    [pane, rest],
  )
  return { coarser, took }
}
