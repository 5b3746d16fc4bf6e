import { useRef, useState } from 'react'
import type { Key } from '../../api/types'
import { words } from '../deck/controls'

interface Props {
  /** The words of each frame. */
  course: string[]
  first: number
  last: number
  frame: number
  keys: Key[]
  onGo: (frame: number) => void
  /** Frames of the keys that are changed together. */
  picked: number[]
  onPick: (frames: number[]) => void
  /** A key, and those that are picked with it, dragged some frames on. */
  onMove: (keys: Key[], frames: number) => void
}

/** A stretch of frames with the same words. */
interface Stretch {
  from: number
  to: number
  says: string
}

function stretches(course: string[], first: number): Stretch[] {
  const all: Stretch[] = []
  course.forEach((says, i) => {
    const before = all.at(-1)
    if (before?.says === says) before.to = first + i
    else all.push({ from: first + i, to: first + i, says })
  })
  return all
}

/** Words over frames as one row of stretches, with the keys as marks that are dragged. A click goes to a frame. */
export function CourseWords({ course, first, last, frame, keys, onGo, picked, onPick, onMove }: Props) {
  const box = useRef<HTMLDivElement>(null)
  const [held, setHeld] = useState<{ key: Key; at: number } | null>(null)
  const span = Math.max(1, last - first)
  const share = (f: number) => `${((f - first) / span) * 100}%`
  const frameAt = (x: number) => {
    const b = box.current?.getBoundingClientRect()
    return b ? Math.min(last, Math.max(first, Math.round(first + ((x - b.left) / b.width) * span))) : frame
  }
  const goesWith = (k: Key) => held !== null && (k === held.key || (picked.includes(k.frame) && picked.includes(held.key.frame)))
  const drop = (k: Key) => {
    setHeld(null)
    if (held?.key !== k) return
    if (held.at === k.frame) onGo(k.frame)
    else onMove(picked.includes(k.frame) ? keys.filter((other) => picked.includes(other.frame)) : [k], held.at - k.frame)
  }
  return (
    <div className="flex h-full flex-col justify-center px-2">
      <div ref={box} role="group" aria-label="Course" data-course={course.length} className="relative h-12 touch-none rounded-tile bg-ground" onPointerDown={(e) => onGo(frameAt(e.clientX))}>
        {stretches(course, first).map((s) => (
          <span key={s.from} data-stretch={s.says} className="absolute inset-y-2 flex items-center overflow-hidden rounded-tile border border-line bg-raised px-1.5" style={{ left: share(s.from), right: `calc(100% - ${share(Math.min(last, s.to + 1))})` }}>
            <span className="truncate">{words(s.says)}</span>
          </span>
        ))}
        <span className="absolute inset-y-0 w-px bg-dim" style={{ left: share(frame) }} />
        {keys.map((k) => (
          <span
            key={k.frame}
            data-point={k.frame}
            data-picked={picked.includes(k.frame)}
            className={`absolute -bottom-1 size-[10px] -translate-x-1/2 cursor-grab rounded-full ${picked.includes(k.frame) ? 'bg-warn' : k.frame === frame ? 'bg-text' : 'bg-accent'}`}
            style={{ left: share(goesWith(k) && held ? k.frame + held.at - held.key.frame : k.frame) }}
            onPointerDown={(e) => {
              e.stopPropagation()
              if (e.shiftKey) {
                onPick(picked.includes(k.frame) ? picked.filter((p) => p !== k.frame) : [...picked, k.frame])
                return
              }
              e.currentTarget.setPointerCapture(e.pointerId)
              setHeld({ key: k, at: k.frame })
            }}
            onPointerMove={(e) => held?.key === k && setHeld({ key: k, at: frameAt(e.clientX) })}
            onPointerUp={() => drop(k)}
          />
        ))}
      </div>
      <div className="figures mt-1.5 flex justify-between text-[11px] text-dim">
        <span>{first}</span>
        <span>{last}</span>
      </div>
    </div>
  )
}
