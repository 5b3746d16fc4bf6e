import type { FrameRange } from '../../../api/types'
import { useBenchOf } from '../../bench/store'
import type { ShotOnBench } from '../../bench/useShot'
import { framesKept, useKept, wayOf } from './memory'
import { goTo } from './player'
import { played, stretches } from './range'

interface Props {
  shot: ShotOnBench
  frames: FrameRange
  /** Frames with keys of what is chosen. */
  keys: number[]
}

/** Half of the slider's thumb, px: its middle goes from one such margin to the other. */
const MARGIN = 4

/** On the line of the frames: keys, what is played, and of which frames the picture is there. */
export function RulerMarks({ shot, frames: { first, last }, keys }: Props) {
  const { between, looks, coarser } = useBenchOf('between', 'looks', 'coarser')
  useKept((k) => k.changes)
  const look = looks.picture?.[coarser]
  const there = look ? stretches(framesKept(wayOf(look))) : []
  const range = played(shot.doc, between)
  const span = Math.max(1, last - first)
  const at = (frame: number) => `calc(${(frame - first) / span} * (100% - ${2 * MARGIN}px) + ${MARGIN}px)`
  const along = (from: number, to: number) => ({ left: at(from), width: `calc(${(to - from) / span} * (100% - ${2 * MARGIN}px))` })
  const count = there.reduce((sum, s) => sum + s.last - s.first + 1, 0)
  return (
    <div className="absolute inset-x-0 inset-y-0" data-kept={count}>
      {between && <span className="pointer-events-none absolute inset-y-0.5 rounded-[3px] border-x border-accent bg-accent-ground" style={along(range.first, range.last)} data-between={`${range.first}-${range.last}`} />}
      {there.map((s) => (
        // A frame is as wide as the way to the next one.
        <span key={s.first} className="pointer-events-none absolute bottom-[3px] h-[3px] rounded-full bg-accent opacity-60" style={along(Math.max(first, s.first - 0.5), Math.min(last, s.last + 0.5))} />
      ))}
      {keys.map((f) => (
        <button
          key={f}
          type="button"
          aria-label={`Key at frame ${f}`}
          data-ruler-key={f}
          onClick={() => goTo(Math.round(f))}
          className="absolute -top-1 z-10 size-[7px] -translate-x-1/2 rounded-full border border-panel bg-accent"
          style={{ left: at(f) }}
        />
      ))}
    </div>
  )
}
