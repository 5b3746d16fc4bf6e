import { useEffect, useRef, useState } from 'react'
import type { FrameRange } from '../../api/types'
import { useBenchOf } from '../bench/store'

/**
 * Plays the frames over and over, none left out: each as soon as the one before was seen and it is due. What is worked out
 * already plays at the rate; `reached` is the rate that is kept up, frames a second, once it is known.
 */
export function usePlay(range: FrameRange, frame: number, rate: number): { playing: boolean; reached: number | null } {
  const { playing, seen, set } = useBenchOf('playing', 'seen', 'set')
  const last = useRef(0)
  const [reached, setReached] = useState<number | null>(null)
  const there = playing && seen === frame
  useEffect(() => {
    if (!playing) last.current = 0
  }, [playing])
  useEffect(() => {
    if (!there) return
    const wait = Math.max(0, last.current + 1000 / rate - performance.now())
    const next = setTimeout(() => {
      const now = performance.now()
      const own = 1000 / Math.max(1, now - last.current)
      // A mean over the last few frames, so that the figure can be read.
      setReached((r) => (last.current === 0 ? null : r === null ? own : r + 0.2 * (own - r)))
      last.current = now
      set({ frame: frame >= range.last ? range.first : frame + 1 })
    }, wait)
    return () => clearTimeout(next)
  }, [there, frame, range.first, range.last, rate, set])
  return { playing, reached }
}
