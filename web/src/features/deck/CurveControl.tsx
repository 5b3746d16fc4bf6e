import { useQuery } from '@tanstack/react-query'
import { useContext, useRef, useState } from 'react'
import { histogramQuery } from '../../api/queries'
import type { CurvePoint, Histogram } from '../../api/types'
import { Hint } from '../../ui/Hint'
import { freeId } from '../bench/numbered'
import { useEdited } from '../bench/edited'
import { useFrame } from '../bench/store'
import type { ShotOnBench } from '../bench/useShot'
import { Keyed } from '../time/KeyMark'
import type { Control } from './controls'

const SIDE = 80

/** A curve by its points: drag them, double-click to add or remove one. Arrow keys move the chosen one. Over `tones` lies how often each is met. */
export function CurveControl({ tones = false, ...c }: Control & { tones?: boolean }) {
  const points = c.value as CurvePoint[]
  const field = useRef<SVGSVGElement>(null)
  const [held, setHeld] = useState<number | null>(null)
  const keyed = useContext(Keyed)
  const label = c.schema['x-label'] ?? c.name
  const sorted = points.toSorted((a, b) => a.x - b.x)
  const at = (e: { clientX: number; clientY: number }) => {
    const box = field.current?.getBoundingClientRect()
    if (!box) return { x: 0, y: 0 }
    const share = (v: number) => Math.round(Math.min(1, Math.max(0, v)) * 200) / 200
    return { x: share((e.clientX - box.left) / box.width), y: share(1 - (e.clientY - box.top) / box.height) }
  }
  const moved = (id: number, to: { x: number; y: number }) => points.map((p) => (p.id === id ? { ...p, ...to } : p))
  const removed = (id: number) => (points.length > 1 ? points.filter((p) => p.id !== id) : points)
  const nudge = (p: CurvePoint, e: React.KeyboardEvent) => {
    const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[e.key]
    if (e.key === 'Delete' || e.key === 'Backspace') c.onCommit(removed(p.id))
    else if (way) {
      const step = e.shiftKey ? 0.05 : 0.005
      const put = (v: number, by: number) => Math.round((v + by * step) * 1000) / 1000
      c.onCommit(moved(p.id, { x: put(p.x, way[0] ?? 0), y: put(p.y, way[1] ?? 0) }))
    } else return
    e.preventDefault()
    e.stopPropagation()
  }
  return (
    <div className="flex items-center gap-2" data-curve={c.name}>
      <Hint text={`${c.schema.description ?? ''} Double-click adds or removes a point.`}>
        <span className="field w-20 shrink-0 self-start truncate text-dim">{label}</span>
      </Hint>
      <svg
        ref={field}
        viewBox="0 0 1 1"
        style={{ width: SIDE * 1.6, height: SIDE }}
        preserveAspectRatio="none"
        className="my-1 mr-2 touch-none overflow-visible rounded-tile bg-ground"
        role="group"
        aria-label={`Curve ${label}`}
        onDoubleClick={(e) => {
          const near = sorted.find((p) => Math.hypot(p.x - at(e).x, p.y - at(e).y) < 0.06)
          c.onCommit(near ? removed(near.id) : [...points, { id: freeId(points), ...at(e) }])
        }}
      >
        {tones && keyed && <Bars shot={keyed.shot} at={keyed.at} of={c.name} />}
        <path d="M0 1L1 0M.25 0V1M.5 0V1M.75 0V1M0 .25H1M0 .5H1M0 .75H1" vectorEffect="non-scaling-stroke" className="fill-none stroke-line" />
        <polyline points={lineOf(sorted, !tones)} vectorEffect="non-scaling-stroke" className="fill-none stroke-text" strokeWidth="1.5" />
        {sorted.map((p, i) => (
          <line
            key={p.id}
            x1={p.x}
            y1={1 - p.y}
            x2={p.x}
            y2={1 - p.y}
            vectorEffect="non-scaling-stroke"
            strokeWidth="9"
            strokeLinecap="round"
            className={`cursor-grab outline-none focus-visible:stroke-text ${held === p.id ? 'stroke-text' : 'stroke-accent'}`}
            tabIndex={0}
            role="slider"
            aria-label={`${label}, point ${i + 1}`}
            aria-valuenow={p.y}
            aria-valuetext={`${p.x} becomes ${p.y}`}
            onKeyDown={(e) => nudge(p, e)}
            onPointerDown={(e) => {
              e.currentTarget.setPointerCapture(e.pointerId)
              setHeld(p.id)
            }}
            onPointerMove={(e) => {
              if (held === p.id) c.onPreview(moved(p.id, at(e)))
            }}
            onPointerUp={(e) => {
              if (held === p.id) c.onCommit(moved(p.id, at(e)))
              setHeld(null)
            }}
          />
        ))}
      </svg>
    </div>
  )
}

/** How often each tone is met in the picture before the step: what the curve has to work on. */
function Bars({ shot, at, of }: { shot: ShotOnBench; at: string; of: string }) {
  const [, element, , step] = at.split('/').map(Number)
  const frame = useFrame(shot.doc)
  const draft = useEdited((e) => e.draft)
  const doc = draft ?? shot.doc
  const does = doc.elements.find((e) => e.id === element)?.steps.find((s) => s.id === step)?.does
  const display = does !== undefined && 'display' in does && does.display
  const shares = useQuery({ ...histogramQuery(shot.id, shot.state.revision, element ?? 0, step ?? 0, frame, display), enabled: does !== undefined }).data
  const bars = shares?.[of as keyof Histogram]
  if (!bars) return null
  // A few tones that fill most of the picture would leave nothing to see of the others.
  const top = Math.max(1e-6, [...bars].sort((a, b) => b - a)[Math.floor(bars.length / 16)] ?? 0)
  const high = bars.map((v) => 1 - Math.min(1, Math.sqrt(v / top)))
  return <path data-histogram={of} d={`M0 1${high.map((y, i) => `L${(i / bars.length).toFixed(4)} ${y.toFixed(3)}L${((i + 1) / bars.length).toFixed(4)} ${y.toFixed(3)}`).join('')}L1 1Z`} className="fill-line" />
}

/** The curve as it is drawn: the monotone cubic that the picture is sent through, at 40 places; beyond its ends straight on, or `level`. */
function lineOf(points: CurvePoint[], level: boolean): string {
  const p = points.filter((q, i) => i === points.length - 1 || (points[i + 1]?.x ?? 0) - q.x >= 1e-6)
  const places = Array.from({ length: 41 }, (_, i) => i / 40).concat(p.map((q) => q.x)).sort((a, b) => a - b)
  const held = (x: number) => (level ? Math.min(p.at(-1)?.x ?? x, Math.max(p[0]?.x ?? x, x)) : x)
  return places.map((x) => `${x},${1 - Math.min(1.2, Math.max(-0.2, valueOf(p, held(x))))}`).join(' ')
}

function valueOf(p: CurvePoint[], x: number): number {
  const [first, last] = [p[0], p.at(-1)]
  if (!first || !last) return x
  if (p.length === 1) return x + first.y - first.x
  const h = (i: number) => (p[i + 1]?.x ?? 0) - (p[i]?.x ?? 0)
  const d = (i: number) => ((p[i + 1]?.y ?? 0) - (p[i]?.y ?? 0)) / h(i)
  const end = (h0: number, h1: number, d0: number, d1: number) => {
    const m = ((2 * h0 + h1) * d0 - h0 * d1) / (h0 + h1)
    return m * d0 <= 0 ? 0 : d0 * d1 <= 0 && Math.abs(m) > 3 * Math.abs(d0) ? 3 * d0 : m
  }
  const n = p.length
  const slope = (i: number) => {
    if (n === 2) return d(0)
    if (i === 0) return end(h(0), h(1), d(0), d(1))
    if (i === n - 1) return end(h(n - 2), h(n - 3), d(n - 2), d(n - 3))
    const [a, b, w1, w2] = [d(i - 1), d(i), 2 * h(i) + h(i - 1), h(i) + 2 * h(i - 1)]
    return a * b <= 0 ? 0 : (w1 + w2) / (w1 / a + w2 / b)
  }
  if (x <= first.x) return first.y + (x - first.x) * slope(0)
  if (x >= last.x) return last.y + (x - last.x) * slope(n - 1)
  const i = p.findIndex((q, k) => q.x <= x && (p[k + 1]?.x ?? Infinity) > x)
  const [a, b, t] = [p[i]?.y ?? 0, p[i + 1]?.y ?? 0, (x - (p[i]?.x ?? 0)) / h(i)]
  return (2 * t ** 3 - 3 * t ** 2 + 1) * a + (t ** 3 - 2 * t ** 2 + t) * h(i) * slope(i) + (3 * t ** 2 - 2 * t ** 3) * b + (t ** 3 - t ** 2) * h(i) * slope(i + 1)
}
