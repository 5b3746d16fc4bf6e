import { useRef } from 'react'
import { ballOf, directionOf, type Point, type Triple } from '../bench/geometry'

interface Props {
  label: string
  value: Triple
  onPreview: (value: Triple) => void
  onCommit: (value: Triple) => void
}

/** Radius of the ball, px; beyond it the light comes from behind. */
const R = 30
const ROOM = R * 2

/** A direction on a small ball: the middle is the viewer, the rim the side, beyond it behind. */
export function Ball({ label, value, onPreview, onCommit }: Props) {
  const held = useRef(false)
  const [x, y] = ballOf(value)
  const at = (e: React.PointerEvent): Triple => {
    const b = e.currentTarget.getBoundingClientRect()
    return directionOf([(e.clientX - b.left - b.width / 2) / R, -(e.clientY - b.top - b.height / 2) / R])
  }
  const arrows: Record<string, Point> = { ArrowLeft: [-0.05, 0], ArrowRight: [0.05, 0], ArrowUp: [0, 0.05], ArrowDown: [0, -0.05] }
  return (
    <svg
      role="slider"
      aria-label={label}
      aria-valuetext={value.map((v) => v.toFixed(2)).join(', ')}
      aria-valuenow={0}
      tabIndex={0}
      viewBox={`${-ROOM} ${-ROOM} ${2 * ROOM} ${2 * ROOM}`}
      className="size-[76px] shrink-0 cursor-grab touch-none"
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId)
        held.current = true
        onPreview(at(e))
      }}
      onPointerMove={(e) => held.current && onPreview(at(e))}
      onPointerUp={(e) => {
        if (held.current) onCommit(at(e))
        held.current = false
      }}
      onKeyDown={(e) => {
        const by = arrows[e.key]
        if (!by) return
        e.preventDefault()
        onCommit(directionOf([x + by[0], y + by[1]]))
      }}
    >
      <defs>
        <radialGradient id="ball-shade" cx={0.5 + 0.45 * Math.max(-1, Math.min(1, x))} cy={0.5 - 0.45 * Math.max(-1, Math.min(1, y))} r="0.85">
          <stop offset="0" stopColor={value[2] >= -0.2 ? '#e8e8e8' : '#5a5a5a'} />
          <stop offset="1" stopColor="#1c1c1c" />
        </radialGradient>
      </defs>
      <circle r={ROOM - 1} fill="none" stroke="var(--line)" strokeDasharray="2 4" />
      <circle r={R} fill="url(#ball-shade)" stroke="var(--line)" />
      <line x1="0" y1="0" x2={x * R} y2={-y * R} stroke="var(--accent)" strokeWidth="1.5" />
      <circle cx={x * R} cy={-y * R} r="6" fill="var(--ground)" stroke="var(--accent)" strokeWidth="2.5" />
    </svg>
  )
}
