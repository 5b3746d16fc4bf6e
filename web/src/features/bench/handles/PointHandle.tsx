import { toPane, toPicture, type Point } from '../geometry'
import type { HandleProps } from './byMeaning'
import { Grip } from './Grip'
import { tidy } from './Outline'

/** A place of the picture. */
export function PointHandle({ name, label, values, placement: p, put }: HandleProps) {
  const moved = (at: Point) => ({ [name]: tidy(toPicture(p, at)) })
  return <Grip at={toPane(p, values[name] as Point)} name={name} label={label} onMove={(to) => put(moved(to))} onDrop={(to) => put(moved(to), 'Move a place')} />
}
