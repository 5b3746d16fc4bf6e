import type { PaintedFlow } from '../../../api/types'
import type { Point } from '../geometry'
import { useBenchOf } from '../store'
import type { HandleProps } from './byMeaning'
import { Outline, way } from './Outline'
import { PaintLayer } from './PaintLayer'

/** Strokes along which the picture flows, and the brush that paints them. */
export function FlowStrokeHandles({ name, values, placement: p, put }: HandleProps) {
  const { pointing, brush, item } = useBenchOf('pointing', 'brush', 'item')
  const strokes = values[name] as PaintedFlow[]
  const drawn = (points: Point[]) => {
    const id = Math.max(0, ...strokes.map((s) => s.id)) + 1
    if (points.length > 1) put({ [name]: [...strokes, { id, size: brush.size, softness: brush.softness, points }] }, 'Paint motion')
  }
  return (
    <>
      {strokes.map((s) => (
        <Outline key={s.id} d={way(p, s.points)} faint={s.id !== item} />
      ))}
      {pointing === 'paint-flow' && <PaintLayer placement={p} size={brush.size} erases={false} onStroke={drawn} />}
    </>
  )
}
