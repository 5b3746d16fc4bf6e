import type { Element, Relight, Window } from '../../../api/types'
import { ballOf, directionOf, project, toPane, toPicture, unproject, type Placement, type Point, type Triple } from '../geometry'
import { withStep, type ShotOnBench } from '../useShot'
import { Grip } from './Grip'

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
      <Grip
        at={dot}
        name="lamp"
        size="large"
        label={directional ? 'Direction of the lamp' : 'Place of the lamp'}
        onMove={(at) => shot.preview(moved(at))}
        onDrop={(at) => shot.commit('Move the lamp', moved(at))}
      >
        <span className="mx-auto block size-2 rounded-full" style={{ background: lampColour(lamp.colour) }} />
      </Grip>
    </>
  )
}

/** A linear colour at full brightness, for the dot. */
function lampColour(c: Triple): string {
  const top = Math.max(...c, 1e-6)
  const code = (v: number) => Math.round(255 * (v / top) ** (1 / 2.2))
  return `rgb(${code(c[0])} ${code(c[1])} ${code(c[2])})`
}
