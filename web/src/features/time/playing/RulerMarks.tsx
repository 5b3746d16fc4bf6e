import { useRef } from 'react'
import type { FrameRange } from '../../../api/types'
import { Hint } from '../../../ui/Hint'
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
  const { between, looks, coarser, set } = useBenchOf('between', 'looks', 'coarser', 'set')
  const line = useRef<HTMLDivElement>(null)
  useKept((k) => k.changes)
  const look = looks.picture?.[coarser]
  const there = look ? stretches(framesKept(wayOf(look))) : []
  const range = played(shot.doc, between)
  const span = Math.max(1, last - first)
  const at = (frame: number) => `calc(${(frame - first) / span} * (100% - ${2 * MARGIN}px) + ${MARGIN}px)`
  const along = (from: number, to: number) => ({ left: at(from), width: `calc(${(to - from) / span} * (100% - ${2 * MARGIN}px))` })
  const frameAt = (x: number) => {
    const box = line.current?.getBoundingClientRect()
    const share = box ? (x - box.left - MARGIN) / (box.width - 2 * MARGIN) : 0
    return Math.round(first + Math.min(1, Math.max(0, share)) * span)
  }
  // All frames are no marks; one end stops at the other.
  const put = (next: FrameRange) => set({ between: next.first === first && next.last === last ? null : next })
  const putFirst = (to: number) => put({ first: Math.min(range.last, Math.max(first, to)), last: range.last })
  const putLast = (to: number) => put({ first: range.first, last: Math.max(range.first, Math.min(last, to)) })
  const count = there.reduce((sum, s) => sum + s.last - s.first + 1, 0)
  return (
    <div ref={line} className="absolute inset-x-0 inset-y-0" data-kept={count}>
      {between && <span className="pointer-events-none absolute inset-y-0.5 rounded-[3px] border-x border-accent bg-accent-ground" style={along(range.first, range.last)} data-between={`${range.first}-${range.last}`} />}
      {between && (
        <>
          <End name="from" label="First frame that is played" frame={range.first} left={at(range.first)} frameAt={frameAt} onPut={putFirst} />
          <End name="to" label="Last frame that is played" frame={range.last} left={at(range.last)} frameAt={frameAt} onPut={putLast} />
        </>
      )}
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

interface EndProps {
  name: string
  label: string
  frame: number
  left: string
  frameAt: (x: number) => number
  onPut: (frame: number) => void
}

/** An end of what is played: dragged along the line, or moved with the arrow keys. It keeps to the upper half of the line, so that
    the frame that is seen can be taken hold of at the same place. It lies over a key of its frame, and a click does what one on the
    key would. */
function End({ name, label, frame, left, frameAt, onPut }: EndProps) {
  const moved = useRef(false)
  return (
    <Hint text={`${label}: ${frame}`}>
      <button
        type="button"
        role="slider"
        aria-label={label}
        aria-valuenow={frame}
        data-played={name}
        className="absolute -top-2 z-20 h-4 w-2.5 -translate-x-1/2 cursor-ew-resize touch-none after:absolute after:inset-y-0.5 after:left-1 after:w-[3px] after:rounded-full after:bg-accent"
        style={{ left }}
        onPointerDown={(e) => {
          moved.current = false
          e.currentTarget.setPointerCapture(e.pointerId)
        }}
        onPointerMove={(e) => {
          const to = frameAt(e.clientX)
          if (e.buttons !== 1 || (!moved.current && to === frame)) return
          moved.current = true
          onPut(to)
        }}
        onClick={() => {
          if (!moved.current) goTo(frame)
        }}
        onKeyDown={(e) => {
          const by = { ArrowLeft: -1, ArrowRight: 1 }[e.key]
          if (by === undefined) return
          e.preventDefault()
          e.stopPropagation()
          onPut(frame + by)
        }}
      />
    </Hint>
  )
}
