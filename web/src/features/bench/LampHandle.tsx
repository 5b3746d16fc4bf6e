import { useRef } from 'react'
import type { Element, Relight, Window } from '../../api/types'
import { ballOf, directionOf, project, toPane, toPicture, unproject, type Placement, type Point, type Triple } from './geometry'
import { withStep, type ShotOnBench } from './useShot'

interface Props {
  shot: ShotOnBench
  element: Element
  step: number
  lamp: { kind: 'relight' } & Relight
  placement: Placement
  frame: Window
}

/** Radius of the ball in the picture, as a share of the frame's height. */
const BALL = 0.3

/** The lamp in the picture: dragged as a direction on a ball, or as a point at its depth. */
export function LampHandle({ shot, element, step, lamp, placement: p, frame }: Props) {
  const grip = useRef<Point | null>(null)
  const directional = lamp.lamp === 'directional'
  const anchor = toPane(p, [frame.x + frame.width / 2, frame.y + frame.height / 2])
  const radius = frame.height * p.zoom * BALL
  const ball = ballOf(lamp.toward)
  const seen = element.camera ? project(element.camera, lamp.position) : null
  const dot: Point | null = directional ? [anchor[0] + ball[0] * radius, anchor[1] - ball[1] * radius] : seen && toPane(p, seen)
  if (!dot) return null

  const moved = (at: Point) => {
    const change = directional
      ? { toward: directionOf([(at[0] - anchor[0]) / radius, -(at[1] - anchor[1]) / radius]) }
      : element.camera
        ? { position: unproject(element.camera, toPicture(p, at), lamp.position[2]) }
        : {}
    return withStep(shot.doc, element.id, step, (s) => ({ ...s, does: { ...lamp, ...change } }))
  }
  const place = (e: React.PointerEvent): Point => {
    const bounds = (e.currentTarget.closest('[data-pane]') ?? e.currentTarget).getBoundingClientRect()
    const [gx, gy] = grip.current ?? [0, 0]
    return [e.clientX - bounds.left - gx, e.clientY - bounds.top - gy]
  }
  const arrows: Record<string, Point> = { ArrowLeft: [-4, 0], ArrowRight: [4, 0], ArrowUp: [0, -4], ArrowDown: [0, 4] }

  return (
    <>
      {directional && (
        <svg className="pointer-events-none absolute inset-0 size-full overflow-visible" aria-hidden>
          <circle cx={anchor[0]} cy={anchor[1]} r={radius} fill="none" stroke="black" strokeOpacity="0.5" strokeWidth="2.5" />
          <circle cx={anchor[0]} cy={anchor[1]} r={radius} fill="none" stroke="white" strokeOpacity="0.8" strokeDasharray="3 5" />
          <line x1={anchor[0]} y1={anchor[1]} x2={dot[0]} y2={dot[1]} stroke="black" strokeOpacity="0.5" strokeWidth="3" />
          <line x1={anchor[0]} y1={anchor[1]} x2={dot[0]} y2={dot[1]} stroke="white" strokeOpacity="0.9" />
          <circle cx={anchor[0]} cy={anchor[1]} r="2.5" fill="white" stroke="black" />
        </svg>
      )}
      <button
        type="button"
        data-handle="lamp"
        aria-label={directional ? 'Direction of the lamp; drag, or use the arrow keys' : 'Place of the lamp; drag, or use the arrow keys'}
        className="absolute z-10 size-6 -translate-x-1/2 -translate-y-1/2 cursor-grab touch-none rounded-full border-2 border-white bg-black/60 shadow-[0_0_0_1.5px_black] active:cursor-grabbing"
        style={{ left: dot[0], top: dot[1] }}
        onPointerDown={(e) => {
          e.stopPropagation()
          e.currentTarget.setPointerCapture(e.pointerId)
          grip.current = [0, 0]
          const at = place(e)
          grip.current = [at[0] - dot[0], at[1] - dot[1]]
        }}
        onPointerMove={(e) => {
          if (!grip.current) return
          e.stopPropagation()
          shot.preview(moved(place(e)))
        }}
        onPointerUp={(e) => {
          if (!grip.current) return
          e.stopPropagation()
          const at = place(e)
          grip.current = null
          if (Math.hypot(at[0] - dot[0], at[1] - dot[1]) > 0 || shot.doc !== shot.state.shot) shot.commit('Move the lamp', moved(at))
        }}
        onKeyDown={(e) => {
          const by = arrows[e.key]
          if (!by) return
          e.preventDefault()
          e.stopPropagation()
          shot.commit('Move the lamp', moved([dot[0] + by[0], dot[1] + by[1]]))
        }}
      >
        <span className="mx-auto block size-2 rounded-full" style={{ background: lampColour(lamp.colour) }} />
      </button>
    </>
  )
}

/** A linear colour at full brightness, for the dot. */
function lampColour(c: Triple): string {
  const top = Math.max(...c, 1e-6)
  const code = (v: number) => Math.round(255 * (v / top) ** (1 / 2.2))
  return `rgb(${code(c[0])} ${code(c[1])} ${code(c[2])})`
}
