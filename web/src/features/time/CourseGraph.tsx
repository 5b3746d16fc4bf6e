import { useRef, useState } from 'react'
import type { Key } from '../../api/types'
import { numbersIn } from './keys'

interface Props {
  /** The numbers of each frame. */
  course: number[][]
  first: number
  last: number
  frame: number
  keys: Key[]
  onGo: (frame: number) => void
  /** Frames of the keys that are changed together. */
  picked?: number[]
  onPick?: (frames: number[]) => void
  /** A key, and those that are picked with it, dragged some frames on and one of their numbers higher. */
  onMove?: (keys: Key[], frames: number, component: number, by: number) => void
  /** How each line is drawn, if not as always. */
  strokes?: string[]
}

const COLOURS = ['stroke-accent', 'stroke-text', 'stroke-dim', 'stroke-line']

/** Values over frames as lines, with the keys as points that are dragged. A click goes to a frame. */
export function CourseGraph({ course, first, last, frame, keys, onGo, picked = [], onPick, onMove, strokes = COLOURS }: Props) {
  const box = useRef<SVGSVGElement>(null)
  const [held, setHeld] = useState<{ key: Key; component: number; at: [number, number] } | null>(null)
  const [band, setBand] = useState<[number, number] | null>(null)
  const all = [...course.flat(), ...keys.flatMap((k) => numbersIn(k.value))]
  const [least, most] = [Math.min(...all), Math.max(...all)]
  const margin = most > least ? 0.1 * (most - least) : Math.max(0.5, 0.1 * Math.abs(most))
  const [low, high] = [least - margin, most + margin]
  const span = Math.max(1, last - first)
  const x = (f: number) => ((f - first) / span) * 1000
  const y = (v: number) => 100 - ((v - low) / (high - low)) * 100
  const at = (e: { clientX: number; clientY: number }): [number, number] => {
    const b = box.current?.getBoundingClientRect()
    if (!b) return [frame, low]
    const f = Math.round(first + ((e.clientX - b.left) / b.width) * span)
    return [Math.min(last, Math.max(first, f)), low + (1 - (e.clientY - b.top) / b.height) * (high - low)]
  }
  if (all.length === 0) return null
  const components = course[0]?.length ?? 0
  return (
    <div className="flex h-full flex-col">
      <div className="relative min-h-0 grow px-2">
        <svg
          ref={box}
          viewBox="0 0 1000 100"
          preserveAspectRatio="none"
          className="absolute inset-x-2 inset-y-1 h-[calc(100%-8px)] w-[calc(100%-16px)] touch-none overflow-visible rounded-tile bg-ground"
          role="group"
          aria-label="Course"
          data-course={course.length}
          onPointerDown={(e) => {
            // With shift a stretch of frames is drawn, whose keys are picked.
            if (!e.shiftKey || !onPick) {
              if (picked.length > 0) onPick?.([])
              onGo(at(e)[0])
              return
            }
            e.currentTarget.setPointerCapture(e.pointerId)
            setBand([at(e)[0], at(e)[0]])
          }}
          onPointerMove={(e) => band && setBand([band[0], at(e)[0]])}
          onPointerUp={() => {
            if (!band) return
            setBand(null)
            const [from, to] = band.toSorted((a, b) => a - b)
            onPick?.(keys.map((k) => k.frame).filter((f) => f >= (from ?? 0) && f <= (to ?? 0)))
          }}
        >
          {band && <rect x={Math.min(x(band[0]), x(band[1]))} width={Math.abs(x(band[1]) - x(band[0]))} y="0" height="100" className="fill-accent opacity-20" />}
          <line x1={x(frame)} x2={x(frame)} y1="0" y2="100" vectorEffect="non-scaling-stroke" className="stroke-dim" />
          {Array.from({ length: components }, (_, c) => (
            <polyline key={c} points={course.map((v, i) => `${x(first + i)},${y(v[c] ?? 0)}`).join(' ')} vectorEffect="non-scaling-stroke" strokeWidth="1.5" className={`fill-none ${strokes[c % strokes.length]}`} />
          ))}
          {keys.flatMap((k, i) =>
            numbersIn(k.value).map((v, c) => {
              const mine = held?.key === k && held.component === c
              // What is picked goes along.
              const along = held && held.component === c && picked.includes(k.frame) && picked.includes(held.key.frame) ? held : null
              const [f, value] = mine ? held.at : along ? [k.frame + along.at[0] - along.key.frame, v + along.at[1] - (numbersIn(along.key.value)[c] ?? 0)] : [k.frame, v]
              return (
                <line
                  key={`${i} ${c}`}
                  x1={x(f)}
                  x2={x(f)}
                  y1={y(value)}
                  y2={y(value)}
                  vectorEffect="non-scaling-stroke"
                  strokeWidth="10"
                  strokeLinecap="round"
                  className={`cursor-grab ${picked.includes(k.frame) ? 'stroke-warn' : k.frame === frame ? 'stroke-text' : 'stroke-accent'}`}
                  data-picked={picked.includes(k.frame)}
                  data-point={k.frame}
                  onPointerDown={(e) => {
                    e.stopPropagation()
                    if (e.shiftKey) {
                      onPick?.(picked.includes(k.frame) ? picked.filter((p) => p !== k.frame) : [...picked, k.frame])
                      return
                    }
                    e.currentTarget.setPointerCapture(e.pointerId)
                    setHeld({ key: k, component: c, at: [k.frame, v] })
                  }}
                  onPointerMove={(e) => mine && setHeld({ ...held, at: at(e) })}
                  onPointerUp={() => {
                    setHeld(null)
                    if (!mine) return
                    const [to, next] = held.at
                    const together = picked.includes(k.frame) ? keys.filter((other) => picked.includes(other.frame)) : [k]
                    if (to === k.frame && next === v) onGo(k.frame)
                    else onMove?.(together, to - k.frame, c, Number((next - v).toPrecision(6)))
                  }}
                />
              )
            }),
          )}
        </svg>
      </div>
      <div className="figures flex justify-between px-2 text-[11px] text-dim">
        <span>{first}</span>
        <span>
          {least.toPrecision(4)} to {most.toPrecision(4)}
        </span>
        <span>{last}</span>
      </div>
    </div>
  )
}
