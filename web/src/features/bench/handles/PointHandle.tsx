import { toPane, toPicture, type Point } from '../geometry'
import type { HandleProps } from './byMeaning'
import { Grip } from './Grip'
import { addressOf, KeyPath } from './KeyPath'
import { tidy } from './Outline'

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
