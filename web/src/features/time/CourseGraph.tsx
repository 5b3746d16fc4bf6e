import { useRef, useState } from 'react'
import type { Key } from '../../api/types'

interface Props {
  /** The numbers of each frame. */
  course: number[][]
  first: number
  last: number
  frame: number
  keys: Key[]
  onGo: (frame: number) => void
  /** A key dragged to another frame or value. */
  onMove: (from: Key, to: Key) => void
}

const COLOURS = ['stroke-accent', 'stroke-text', 'stroke-dim', 'stroke-line']

/** Values over frames as lines, with the keys as points that are dragged. A click goes to a frame. */
export function CourseGraph({ course, first, last, frame, keys, onGo, onMove }: Props) {
  const box = useRef<SVGSVGElement>(null)
  const [held, setHeld] = useState<{ key: Key; component: number; at: [number, number] } | null>(null)
  const all = [...course.flat(), ...keys.flatMap((k) => k.value)]
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
          onPointerDown={(e) => onGo(at(e)[0])}
        >
          <line x1={x(frame)} x2={x(frame)} y1="0" y2="100" vectorEffect="non-scaling-stroke" className="stroke-dim" />
          {Array.from({ length: components }, (_, c) => (
            <polyline key={c} points={course.map((v, i) => `${x(first + i)},${y(v[c] ?? 0)}`).join(' ')} vectorEffect="non-scaling-stroke" strokeWidth="1.5" className={`fill-none ${COLOURS[c % COLOURS.length]}`} />
          ))}
          {keys.flatMap((k, i) =>
            k.value.map((v, c) => {
              const mine = held?.key === k && held.component === c
              const [f, value] = mine ? held.at : [k.frame, v]
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
                  className={`cursor-grab ${k.frame === frame ? 'stroke-text' : 'stroke-accent'}`}
                  data-point={k.frame}
                  onPointerDown={(e) => {
                    e.stopPropagation()
                    e.currentTarget.setPointerCapture(e.pointerId)
                    setHeld({ key: k, component: c, at: [k.frame, v] })
                  }}
                  onPointerMove={(e) => mine && setHeld({ ...held, at: at(e) })}
                  onPointerUp={() => {
                    setHeld(null)
                    if (!mine) return
                    const [to, next] = held.at
                    if (to === k.frame && next === v) onGo(k.frame)
                    else onMove(k, { ...k, frame: to, value: k.value.with(c, Number(next.toPrecision(6))) })
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
