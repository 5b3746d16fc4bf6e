import { toPane, toPicture, type Point } from '../geometry'
import type { HandleProps } from './byMeaning'
import { Grip } from './Grip'
import { addressOf, KeyPath } from './KeyPath'
import { tidy } from './Outline'

/** A place of the picture that is told as a share of its frame. */
export function ShareHandle({ name, label, values, placement: p, frame, put }: HandleProps) {
  const [u, v] = values[name] as Point
  const share = (at: Point): Point => {
    const [x, y] = toPicture(p, at)
    return [(x - frame.x) / frame.width, (y - frame.y) / frame.height].map((s) => Math.round(s * 1000) / 1000) as Point
  }
  return <Grip at={toPane(p, [frame.x + u * frame.width, frame.y + v * frame.height])} name={name} label={label} onMove={(to) => put({ [name]: share(to) })} onDrop={(to) => put({ [name]: share(to) }, 'Move a place')} />
}

/** A place of the picture. */
export function PointHandle({ name, label, values, shot, placement: p, put, ...of }: HandleProps) {
  const moved = (at: Point) => ({ [name]: tidy(toPicture(p, at)) })
  return (
    <>
      <KeyPath shot={shot} at={addressOf(of, name)} placement={p} />
      <Grip at={toPane(p, values[name] as Point)} name={name} label={label} onMove={(to) => put(moved(to))} onDrop={(to) => put(moved(to), 'Move a place')} />
    </>
  )
}
