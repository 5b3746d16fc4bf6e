import type { Lamp } from '../../../api/types'
import { ballOf, directionOf, gone, project, toPane, toPicture, turned, unproject, wayBack, type Point, type Triple, type Way } from '../geometry'
import { mayGo } from '../elements'
import { useBench } from '../store'
import { useTold } from '../useTold'
import type { HandleProps } from './byMeaning'
import { Grip } from './Grip'

/** Radius of the ball in the picture, as a share of the frame's height. */
const BALL = 0.3

/** The lamps of a relight in the picture; the chosen one shows how it stands. */
export function LampHandles(props: HandleProps) {
  const lamp = useBench((b) => b.lamp)
  const lamps = props.values[props.name] as Lamp[]
  const chosen = Math.min(lamp, lamps.length - 1)
  const way = useTold(props.shot, props.element, props.step, mayGo(props.element))?.since_first
  return lamps.map((l, i) => l.on && <LampHandle key={i} {...props} lamps={lamps} place={i} lamp={l} chosen={i === chosen} way={l.stays === 'scene' ? (way ?? null) : null} />)
}

interface One extends HandleProps {
  lamps: Lamp[]
  place: number
  lamp: Lamp
  chosen: boolean
  /** From camera space as the document tells the lamp in it into that of the frame that is seen, where they differ. */
  way: Way | null
}

/** A lamp where it is on the frame that is seen. */
function onFrame(lamp: Lamp, way: Way | null): Lamp {
  if (!way) return lamp
  return { ...lamp, toward: turned(way, lamp.toward), position: gone(way, lamp.position), aim: gone(way, lamp.aim) }
}

/** A lamp: dragged as a direction on a ball, or as a point at its depth. */
function LampHandle({ name, element, lamps, place, lamp: kept, way, chosen, placement: p, frame, put }: One) {
  const set = useBench((b) => b.set)
  const lamp = onFrame(kept, way)
  const directional = lamp.kind === 'directional'
  const anchor = toPane(p, [frame.x + frame.width / 2, frame.y + frame.height / 2])
  const radius = frame.height * p.zoom * BALL
  const ball = ballOf(lamp.toward)
  const onPane = (at: Triple) => {
    const seen = element.camera ? project(element.camera, at) : null
    return seen && toPane(p, seen)
  }
  const dot: Point | null = directional ? [anchor[0] + ball[0] * radius, anchor[1] - ball[1] * radius] : onPane(lamp.position)
  const aim = lamp.kind === 'spot' && chosen ? onPane(lamp.aim) : null
  if (!dot) return null

  const back = way && wayBack(way)
  const changed = (change: Partial<Lamp>) => ({ [name]: lamps.with(place, { ...kept, ...change }) })
  const placed = (at: Triple) => (back ? gone(back, at) : at)
  const along = (at: Point, depth: number) => element.camera && unproject(element.camera, toPicture(p, at), depth)
  const moved = (at: Point) => {
    if (directional) {
      const toward = directionOf([(at[0] - anchor[0]) / radius, -(at[1] - anchor[1]) / radius])
      return changed({ toward: back ? turned(back, toward) : toward })
    }
    const position = along(at, lamp.position[2])
    return changed(position ? { position: placed(position) } : {})
  }
  const aimed = (at: Point) => {
    const place = along(at, lamp.aim[2])
    return changed(place ? { aim: placed(place) } : {})
  }
  const choose = () => {
    if (!chosen) set({ lamp: place })
  }

  return (
    <>
      {chosen && directional && (
        <svg className="pointer-events-none absolute inset-0 size-full overflow-visible" aria-hidden>
          <circle cx={anchor[0]} cy={anchor[1]} r={radius} fill="none" stroke="black" strokeOpacity="0.5" strokeWidth="2.5" />
          <circle cx={anchor[0]} cy={anchor[1]} r={radius} fill="none" stroke="white" strokeOpacity="0.8" strokeDasharray="3 5" />
          <Beam from={anchor} to={dot} />
          <circle cx={anchor[0]} cy={anchor[1]} r="2.5" fill="white" stroke="black" />
        </svg>
      )}
      {aim && (
        <svg className="pointer-events-none absolute inset-0 size-full overflow-visible" aria-hidden>
          <Beam from={dot} to={aim} />
        </svg>
      )}
      <Grip
        at={dot}
        name={chosen ? 'lamp' : `lamp-${place + 1}`}
        size={chosen ? 'large' : 'small'}
        label={`${directional ? 'Direction' : 'Place'} of lamp ${place + 1}`}
        onChoose={choose}
        onMove={(at) => put(moved(at))}
        onDrop={(at) => put(moved(at), 'Move the lamp')}
      >
        <span className="mx-auto block size-2 rounded-full" style={{ background: lampColour(lamp) }} />
      </Grip>
      {aim && <Grip at={aim} name="lamp-aim" label={`What lamp ${place + 1} is aimed at`} onMove={(at) => put(aimed(at))} onDrop={(at) => put(aimed(at), 'Aim the lamp')} />}
    </>
  )
}

/** A line that is seen on any picture. */
function Beam({ from, to }: { from: Point; to: Point }) {
  return (
    <>
      <line x1={from[0]} y1={from[1]} x2={to[0]} y2={to[1]} stroke="black" strokeOpacity="0.5" strokeWidth="3" />
      <line x1={from[0]} y1={from[1]} x2={to[0]} y2={to[1]} stroke="white" strokeOpacity="0.9" />
    </>
  )
}

/** The lamp's colour at full brightness, for the dot; a temperature is told by white. */
function lampColour({ colour_from, colour }: Lamp): string {
  const c = colour_from === 'colour' ? colour : ([1, 1, 1] as Triple)
  const top = Math.max(...c, 1e-6)
  const code = (v: number) => Math.round(255 * (v / top) ** (1 / 2.2))
  return `rgb(${code(c[0])} ${code(c[1])} ${code(c[2])})`
}
