import type { FrameRange, Shot } from '../../../api/types'

/** What happens at the end of what is played. */
export type AtEnd = 'again' | 'back' | 'stop'

/** Forwards or backwards. */
export type Way = 1 | -1

const STILL = { first: 0, last: 0 }

/** The frames that are played: those between the marks, within the shot's own. */
export function played(shot: Shot, between: FrameRange | null): FrameRange {
  const own = shot.frames ?? STILL
  if (!between) return own
  const first = Math.min(own.last, Math.max(own.first, between.first))
  return { first, last: Math.min(own.last, Math.max(first, between.last)) }
}

/** The frame after one and the way on from there; nothing where it ends. */
export function after(frame: number, way: Way, { first, last }: FrameRange, atEnd: AtEnd): { frame: number; way: Way } | null {
  const next = frame + way
  if (next >= first && next <= last) return { frame: next, way }
  if (atEnd === 'stop') return null
  if (atEnd === 'back' && last > first) {
    const back = way === 1 ? -1 : 1
    return { frame: Math.min(last, Math.max(first, frame + back)), way: back }
  }
  return { frame: way === 1 ? first : last, way }
}

/** Frames in the order in which they will be played, from one on, each once and at most so many. */
export function ahead(frame: number, way: Way, range: FrameRange, most: number): number[] {
  const count = Math.min(most, range.last - range.first + 1)
  const from = Math.min(range.last, Math.max(range.first, frame))
  const length = range.last - range.first + 1
  return Array.from({ length: count }, (_, i) => range.first + (((from - range.first + way * i) % length) + length) % length)
}

/** Frames as stretches without a gap. */
export function stretches(frames: number[]): FrameRange[] {
  const all: FrameRange[] = []
  for (const frame of frames) {
    const last = all.at(-1)
    if (last && last.last === frame - 1) last.last = frame
    else all.push({ first: frame, last: frame })
  }
  return all
}
