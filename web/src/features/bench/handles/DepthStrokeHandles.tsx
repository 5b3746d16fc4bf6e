import type { DepthStroke } from '../../../api/types'
import { useBenchOf } from '../store'
import type { HandleProps } from './byMeaning'
import { PaintLayer } from './PaintLayer'

/** The brush that paints depths. */
export function DepthStrokeHandles({ name, values, placement, put }: HandleProps) {
  const { pointing, brush } = useBenchOf('pointing', 'brush')
  if (pointing !== 'paint-depth') return null
  const strokes = values[name] as DepthStroke[]
  return <PaintLayer placement={placement} size={brush.size} erases={false} onStroke={(points) => put({ [name]: [...strokes, { id: 0, depth: brush.depth, size: brush.size, points }] }, 'Paint a depth')} />
}
