import { toPane, type Placement, type Point } from '../geometry'

/** A line that is seen on any picture. */
export function Outline({ d, faint = false, warns = false }: { d: string; faint?: boolean; warns?: boolean }) {
  return (
    <svg className="pointer-events-none absolute inset-0 size-full overflow-visible" aria-hidden opacity={faint ? 0.55 : 1}>
      <path d={d} fill="none" stroke="black" strokeOpacity="0.55" strokeWidth="3" />
      {warns ? <path d={d} fill="none" stroke="var(--color-warn)" strokeWidth="1.5" /> : <path d={d} fill="none" stroke="white" strokeOpacity="0.9" strokeDasharray="5 4" />}
    </svg>
  )
}

/** A way through places of the picture. */
export const way = (p: Placement, points: Point[]): string => (points.length > 0 ? `M${points.map((q) => toPane(p, q).join(' ')).join('L')}` : '')

/** An ellipse about a place: half its width and height, and its turn against the clock, degrees. */
export function ellipse(p: Placement, [x, y]: Point, [a, b]: Point, turned: number): string {
  const t = (turned * Math.PI) / 180
  const rim = Array.from({ length: 49 }, (_, i): Point => {
    const [u, v] = [Math.cos((i / 48) * 2 * Math.PI) * a, Math.sin((i / 48) * 2 * Math.PI) * b]
    return [x + u * Math.cos(t) - v * Math.sin(t), y - u * Math.sin(t) - v * Math.cos(t)]
  })
  return `${way(p, rim)}Z`
}

/** A place of the picture to a tenth of a px. */
export const tidy = ([x, y]: Point): Point => [Math.round(x * 10) / 10, Math.round(y * 10) / 10]
