import { useRef, useState } from 'react'
import { toPane, toPicture, type Placement, type Point } from '../geometry'
import { useBench } from '../store'

interface Props {
  placement: Placement
  /** Width of the brush, full-resolution px. */
  size: number
  /** Whether it takes away. */
  erases: boolean
  onStroke: (points: Point[]) => void
}

const tidy = (v: number) => Math.round(v * 10) / 10

/** Takes the pointer over a pane and turns it into strokes. The wheel and the middle button still move the picture. */
export function PaintLayer({ placement: p, size, erases, onStroke }: Props) {
  const path = useRef<Point[] | null>(null)
  const [drawn, setDrawn] = useState<Point[]>([])
  const crosshair = useBench((b) => b.crosshair)
  const at = (e: React.PointerEvent): Point => {
    const bounds = e.currentTarget.getBoundingClientRect()
    const [x, y] = toPicture(p, [e.clientX - bounds.left, e.clientY - bounds.top])
    return [tidy(x), tidy(y)]
  }
  const end = () => {
    const points = path.current
    path.current = null
    setDrawn([])
    if (points && points.length > 0) onStroke(points)
  }
  const width = Math.max(1, size * p.zoom)
  const line = drawn.length === 1 && drawn[0] ? [drawn[0], [drawn[0][0] + 0.01, drawn[0][1]] as Point] : drawn
  const ring = crosshair && toPane(p, [crosshair[0] + 0.5, crosshair[1] + 0.5])
  return (
    <div
      data-paint
      className="absolute inset-0 z-10 cursor-none touch-none"
      onPointerDown={(e) => {
        if (e.button !== 0) return
        e.stopPropagation()
        e.currentTarget.setPointerCapture(e.pointerId)
        path.current = [at(e)]
        setDrawn(path.current)
      }}
      onPointerMove={(e) => {
        const points = path.current
        if (!points) return
        const here = at(e)
        const last = points.at(-1)
        // Points nearer than a tenth of the brush would change nothing that is seen.
        if (last && Math.hypot(here[0] - last[0], here[1] - last[1]) < Math.max(1, size / 10)) return
        path.current = [...points, here]
        setDrawn(path.current)
      }}
      onPointerUp={end}
      onPointerCancel={() => {
        path.current = null
        setDrawn([])
      }}
    >
      <svg className="pointer-events-none absolute inset-0 size-full overflow-visible" aria-hidden>
        {line.length > 1 && (
          <polyline points={line.map((q) => toPane(p, q).join(',')).join(' ')} fill="none" stroke={erases ? 'black' : 'var(--accent)'} strokeOpacity="0.45" strokeWidth={width} strokeLinecap="round" strokeLinejoin="round" />
        )}
        {ring && (
          <>
            <circle cx={ring[0]} cy={ring[1]} r={width / 2} fill="none" stroke="black" strokeOpacity="0.6" strokeWidth="3" />
            <circle cx={ring[0]} cy={ring[1]} r={width / 2} fill="none" stroke="white" strokeDasharray={erases ? '4 3' : undefined} />
          </>
        )}
      </svg>
    </div>
  )
}
