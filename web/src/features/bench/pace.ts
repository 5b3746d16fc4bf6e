import { useCallback, useEffect, useState } from 'react'

/** Longest time, ms, that a picture of a moving value should take from asking to drawing: below the 100 ms that are aimed at, as some take longer than others. */
const GOAL = 70

/** How much coarser than at rest a moving value is seen: halvings of the side. */
const LEAST = 1
const MOST = 3

/** So many late pictures of the last ones make it coarser. */
const LATE = { of: 4, least: 2 }

/** Where each pane was left, so that the next drag begins there. */
const left = new Map<string, number>()

/**
 * How coarse a pane's picture is while a value moves: as fine as can be made in time. Two late pictures of four make it coarser; the
 * next drag begins one finer again, since what was slow once need not stay so. `rest` is the scale of the picture at rest, which takes
 * its time.
 */
export function usePace(pane: string, rest: number, moving: boolean): { coarser: number; took: (ms: number, scale: number) => void } {
  const [{ coarser, during }, setSeen] = useState<Seen>(() => ({ coarser: left.get(pane) ?? LEAST, late: [], during: moving }))
  if (during !== moving) setSeen((seen) => ({ coarser: moving ? seen.coarser : Math.max(LEAST, seen.coarser - 1), late: [], during: moving }))
  useEffect(() => {
    left.set(pane, coarser)
  }, [pane, coarser])
  const took = useCallback(
    (ms: number, scale: number) => {
      if (scale <= rest) return
      setSeen((seen) => {
        const late = [...seen.late.slice(1 - LATE.of), ms > GOAL]
        return late.filter(Boolean).length < LATE.least ? { ...seen, late } : { ...seen, coarser: Math.min(MOST, seen.coarser + 1), late: [] }
      })
    },
    [rest],
  )
  return { coarser, took }
}

interface Seen {
  coarser: number
  /** Of the last pictures of this drag, whether each was late. */
  late: boolean[]
  /** Whether a value moved when this was seen. */
  during: boolean
}
