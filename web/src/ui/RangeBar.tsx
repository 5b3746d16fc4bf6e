import { useRef, useState } from 'react'

export interface Range {
  low: number
  high: number
  lowSoft: number
  highSoft: number
}

interface Props {
  label: string
  value: Range
  /** Ends of the bar. */
  ends: [number, number]
  /** Shares of the values, in even steps from end to end. */
  bars?: number[] | undefined
  /** A ground of colours, as CSS. */
  ground?: string | undefined
  unit: string
  /** The ends are still being found: nothing can be taken hold of that would move away under the hand. */
  waits?: boolean
  onPreview: (value: Range) => void
  onCommit: (value: Range) => void
}

type Part = 'low' | 'high' | 'lowSoft' | 'highSoft' | 'middle'

const WORDS: Record<Part, string> = { low: 'Low end', high: 'High end', lowSoft: 'Softness of the low end', highSoft: 'Softness of the high end', middle: 'The whole range' }

const HEIGHT = 44

/** A range with soft ends, dragged over a histogram: its ends, its soft ends, or all of it. */
export function RangeBar({ label, value, ends, bars, ground, unit, waits, onPreview, onCommit }: Props) {
  // The ends as they were when it was taken hold of: what arrives meanwhile must not stretch the bar under the hand.
  const [heldEnds, setHeldEnds] = useState<[number, number] | null>(null)
  const [a, b] = heldEnds ?? ends
  const box = useRef<SVGSVGElement>(null)
  const held = useRef<{ part: Part; from: number; start: Range; now: Range } | null>(null)
  const span = Math.max(b - a, 1e-9)
  const x = (v: number) => Math.min(100, Math.max(0, ((v - a) / span) * 100))
  const tidy = (v: number) => Number(v.toFixed(span > 50 ? 1 : 3))
  const most = Math.max(...(bars ?? [0]), 1e-9)

  const moved = (part: Part, start: Range, by: number): Range => {
    const r = { ...start }
    if (part === 'low') r.low = tidy(Math.min(start.low + by, start.high))
    if (part === 'high') r.high = tidy(Math.max(start.high + by, start.low))
    if (part === 'lowSoft') r.lowSoft = tidy(Math.max(0, start.lowSoft - by))
    if (part === 'highSoft') r.highSoft = tidy(Math.max(0, start.highSoft + by))
    if (part === 'middle') [r.low, r.high] = [tidy(start.low + by), tidy(start.high + by)]
    return r
  }
  const valueAt = (e: React.PointerEvent) => {
    const bounds = box.current?.getBoundingClientRect()
    return bounds ? a + ((e.clientX - bounds.left) / bounds.width) * span : a
  }
  const grip = (part: Part, at: number, top: boolean) => (
    <line
      data-range={part}
      role="slider"
      tabIndex={0}
      aria-label={`${label}: ${WORDS[part]}`}
      aria-valuenow={at}
      x1={x(at)}
      x2={x(at)}
      y1={top ? 0 : HEIGHT * 0.55}
      y2={top ? HEIGHT * 0.45 : HEIGHT}
      stroke="transparent"
      strokeWidth="9"
      vectorEffect="non-scaling-stroke"
      className="cursor-ew-resize outline-none"
      {...drag(part)}
    />
  )
  const drag = (part: Part) => ({
    onPointerDown: (e: React.PointerEvent) => {
      e.currentTarget.setPointerCapture(e.pointerId)
      held.current = { part, from: valueAt(e), start: value, now: value }
      setHeldEnds(ends)
    },
    onPointerMove: (e: React.PointerEvent) => {
      const h = held.current
      if (!h) return
      h.now = moved(h.part, h.start, valueAt(e) - h.from)
      onPreview(h.now)
    },
    onPointerUp: () => {
      const h = held.current
      held.current = null
      setHeldEnds(null)
      if (h && h.now !== h.start) onCommit(h.now)
    },
    onKeyDown: (e: React.KeyboardEvent) => {
      const sign = e.key === 'ArrowLeft' ? -1 : e.key === 'ArrowRight' ? 1 : 0
      if (!sign) return
      e.preventDefault()
      onCommit(moved(part, value, (sign * span * (e.shiftKey ? 10 : e.altKey ? 0.1 : 1)) / 100))
    },
  })
  const { low, high, lowSoft, highSoft } = value
  const shape = `${x(low - lowSoft)},${HEIGHT} ${x(low)},2 ${x(high)},2 ${x(high + highSoft)},${HEIGHT}`
  return (
    <div className="flex flex-col gap-0.5">
      <svg ref={box} viewBox={`0 0 100 ${HEIGHT}`} preserveAspectRatio="none" className="h-10 w-full touch-none rounded-tile border border-line bg-ground" style={ground ? { background: ground } : undefined} aria-label={label} role="group">
        {bars?.map((v, i) => (
          // The root keeps small bars to be seen beside large ones.
          <rect key={i} x={(i / bars.length) * 100} width={100 / bars.length} y={HEIGHT * (1 - Math.sqrt(v / most))} height={HEIGHT} className="fill-dim" opacity="0.45" />
        ))}
        {!waits && (
          <>
            <polygon points={shape} fill="var(--accent)" fillOpacity="0.28" stroke="var(--accent)" strokeWidth="1.5" vectorEffect="non-scaling-stroke" />
            <polygon data-range="middle" role="slider" tabIndex={0} aria-label={`${label}: ${WORDS.middle}`} aria-valuenow={low} points={`${x(low)},0 ${x(high)},0 ${x(high)},${HEIGHT} ${x(low)},${HEIGHT}`} fill="transparent" className="cursor-grab outline-none" {...drag('middle')} />
            {grip('low', low, true)}
            {grip('high', high, true)}
            {grip('lowSoft', low - lowSoft, false)}
            {grip('highSoft', high + highSoft, false)}
          </>
        )}
      </svg>
      <span className="figures flex justify-between text-[11px] text-dim">
        <span>{!waits && tidy(a)}</span>
        <span>
          {tidy(low)}–{tidy(high)} {unit}
        </span>
        <span>{!waits && tidy(b)}</span>
      </span>
    </div>
  )
}
