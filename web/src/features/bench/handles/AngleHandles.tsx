import type { Element, Window } from '../../../api/types'
import { toPane, toPicture, type Point } from '../geometry'
import type { HandleProps } from './byMeaning'
import { Grip } from './Grip'
import { Outline, way } from './Outline'

/** How far a handle of a direction lies from what it belongs to, a share of the frame's shorter side. */
const AWAY = 0.3

/** The middle of what a step is about: of a drawn matte, else of the frame. */
function middleOf(values: Record<string, unknown>, element: Element, frame: Window): Point {
  const by = element.mattes?.find((m) => m.id === values.of)?.matte.parts[0]?.by
  if (by && 'centre' in by) return by.centre
  if (by?.kind === 'polygon' && by.corners.length > 0) {
    const sum = by.corners.reduce<Point>(([x, y], q) => [x + q[0], y + q[1]], [0, 0])
    return [sum[0] / by.corners.length, sum[1] / by.corners.length]
  }
  return [frame.x + frame.width / 2, frame.y + frame.height / 2]
}

/** Where light comes from along the picture: a handle on that side, 0° to the right and 90° above. */
export function LightAngleHandle({ name, label, values, element, placement: p, frame, over, put }: HandleProps) {
  if (over === 'pass') return null
  const middle = middleOf(values, element, frame)
  const far = AWAY * Math.min(frame.width, frame.height)
  const angle = ((values[name] as number) * Math.PI) / 180
  const [cos, sin] = [Math.cos(angle), Math.sin(angle)]
  const at: Point = [middle[0] + far * cos, middle[1] - far * sin]
  const turned = (to: Point) => {
    const [x, y] = toPicture(p, to)
    return { [name]: Math.round(((Math.atan2(middle[1] - y, x - middle[0]) * 180) / Math.PI + 360) % 360) }
  }
  return (
    <>
      <Outline d={way(p, [at, [middle[0] + 0.72 * far * cos, middle[1] - 0.72 * far * sin]])} />
      <Grip at={toPane(p, at)} name={name} size="large" label={label} onMove={(to) => put(turned(to))} onDrop={(to) => put(turned(to), 'Turn the light')} />
    </>
  )
}

/** How what is mirrored lies all around: across turns it, up and down tilts it. Its middle is straight ahead. */
export function AroundHandle({ name, values, element, placement: p, frame, over, put }: HandleProps) {
  if (over === 'pass' || !('tilt' in values)) return null
  const [x, y] = middleOf(values, element, frame)
  // From one side of the frame to the other it goes all the way round.
  const [across, up] = [frame.width / 360, frame.height / 180]
  const turn = (values[name] as number) - 360 * Math.round((values[name] as number) / 360)
  const at: Point = [x + turn * across, y - (values.tilt as number) * up]
  const turned = (to: Point) => {
    const [px, py] = toPicture(p, to)
    return { [name]: Math.round((px - x) / across), tilt: Math.round(Math.min(90, Math.max(-90, (y - py) / up))) }
  }
  return (
    <>
      <Outline d={way(p, [[x, y], at])} faint />
      <Grip at={toPane(p, at)} name="around" size="large" label="Turn and tilt of what is mirrored" onMove={(to) => put(turned(to))} onDrop={(to) => put(turned(to), 'Turn what is mirrored')} />
    </>
  )
}
