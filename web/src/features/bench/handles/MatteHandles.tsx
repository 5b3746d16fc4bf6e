import type { ComponentType } from 'react'
import type { EllipsePart, GradientPart, PartInfo, PolygonPart } from '../../../api/types'
import { meaningOf, type Values } from '../../deck/matte/parts'
import { toPane, toPicture, type Placement, type Point } from '../geometry'
import { Grip } from './Grip'
import { Outline, tidy } from './Outline'

interface Props {
  values: Values
  placement: Placement
  onMove: (values: Values) => void
  onDrop: (values: Values, label: string) => void
}

/** What lies in the picture for a parameter of a meaning. */
const BY_MEANING: Record<string, ComponentType<Props>> = { ellipse: EllipseHandles, corners: PolygonHandles, 'ramp-from': GradientHandles }

/** Handles of the drawn parts of a matte: what their parameters mean says which. */
export function MatteHandles({ info, ...p }: Props & { info: PartInfo }) {
  return Object.entries((info.schema).properties ?? {}).map(([name, property]) => {
    const Own = BY_MEANING[meaningOf(property)]
    return Own && <Own key={name} {...p} />
  })
}

function EllipseHandles({ values, placement: p, onMove, onDrop }: Props) {
  const by = values as unknown as EllipsePart
  const turn = (by.turned * Math.PI) / 180
  const along: Point = [Math.cos(turn), -Math.sin(turn)]
  const across: Point = [-Math.sin(turn), -Math.cos(turn)]
  const at = (a: number, b: number): Point => [by.centre[0] + along[0] * a + across[0] * b, by.centre[1] + along[1] * a + across[1] * b]
  const rim = Array.from({ length: 49 }, (_, i) => {
    const t = (i / 48) * 2 * Math.PI
    return toPane(p, at(Math.cos(t) * by.radii[0], Math.sin(t) * by.radii[1])).join(' ')
  })
  const from = (pane: Point): Point => {
    const [x, y] = toPicture(p, pane)
    return [x - by.centre[0], y - by.centre[1]]
  }
  const shape = { centre: (to: Point) => ({ ...values, centre: tidy(toPicture(p, to)) }) }
  const wide = (to: Point) => {
    const [dx, dy] = from(to)
    // The end of the long axis turns the ellipse, too.
    return { ...values, radii: tidy([Math.max(1, Math.hypot(dx, dy)), by.radii[1]]), turned: Math.round((Math.atan2(-dy, dx) * 1800) / Math.PI) / 10 }
  }
  const high = (to: Point) => {
    const [dx, dy] = from(to)
    return { ...values, radii: tidy([by.radii[0], Math.max(1, Math.abs(dx * across[0] + dy * across[1]))]) }
  }
  return (
    <>
      <Outline d={`M${rim.join('L')}Z`} />
      <Grip at={toPane(p, by.centre)} name="ellipse-centre" label="Middle of the ellipse" onMove={(to) => onMove(shape.centre(to))} onDrop={(to) => onDrop(shape.centre(to), 'Move the ellipse')} />
      <Grip at={toPane(p, at(by.radii[0], 0))} name="ellipse-wide" label="Width and turn of the ellipse" onMove={(to) => onMove(wide(to))} onDrop={(to) => onDrop(wide(to), 'Shape the ellipse')} />
      <Grip at={toPane(p, at(0, by.radii[1]))} name="ellipse-high" label="Height of the ellipse" onMove={(to) => onMove(high(to))} onDrop={(to) => onDrop(high(to), 'Shape the ellipse')} />
    </>
  )
}

function PolygonHandles({ values, placement: p, onMove, onDrop }: Props) {
  const by = values as unknown as PolygonPart
  const corners = by.corners.map((c) => toPane(p, c))
  const moved = (i: number, to: Point) => ({ ...values, corners: by.corners.map((c, k) => (k === i ? tidy(toPicture(p, to)) : c)) })
  return (
    <>
      {corners.length > 1 && <Outline d={`M${corners.map((c) => c.join(' ')).join('L')}${corners.length > 2 ? 'Z' : ''}`} />}
      {corners.map((c, i) => (
        <Grip
          key={i}
          at={c}
          name={`corner-${i}`}
          label={`Corner ${i + 1}; double click takes it away`}
          onMove={(to) => onMove(moved(i, to))}
          onDrop={(to) => onDrop(moved(i, to), 'Move a corner')}
          onRemove={() => onDrop({ ...values, corners: by.corners.filter((_, k) => k !== i) }, 'Remove a corner')}
        />
      ))}
    </>
  )
}

function GradientHandles({ values, placement: p, onMove, onDrop }: Props) {
  const by = values as unknown as GradientPart
  const [a, b] = [toPane(p, by.from), toPane(p, by.to)]
  const end = (name: 'from' | 'to') => ({
    onMove: (to: Point) => onMove({ ...values, [name]: tidy(toPicture(p, to)) }),
    onDrop: (to: Point) => onDrop({ ...values, [name]: tidy(toPicture(p, to)) }, 'Move the gradient'),
  })
  return (
    <>
      <Outline d={`M${a.join(' ')}L${b.join(' ')}`} />
      <Grip at={a} name="gradient-from" label="Gradient start: 0 %" {...end('from')} />
      <Grip at={b} name="gradient-to" label="Gradient end: 100 %" size="large" {...end('to')} />
    </>
  )
}
