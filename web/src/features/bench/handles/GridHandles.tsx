import type { GridPoint } from '../../../api/types'
import { toPane, toPicture, type Point } from '../geometry'
import type { HandleProps } from './byMeaning'
import { Grip } from './Grip'
import { Outline, tidy, way } from './Outline'

/** A grid of points over the frame, each of which is dragged. */
export function GridHandles({ name, values, placement: p, frame, over, put }: HandleProps) {
  if (over !== 'picture') return null
  const [across, down] = [values.across as number, values.down as number]
  const points = values[name] as GridPoint[]
  const rest = (c: number, r: number): Point => [frame.x + (frame.width * c) / (across - 1), frame.y + (frame.height * r) / (down - 1)]
  const id = (c: number, r: number) => r * across + c + 1
  const at = (c: number, r: number): Point => {
    const by = points.find((q) => q.id === id(c, r))?.by ?? [0, 0]
    const [x, y] = rest(c, r)
    return [x + by[0], y + by[1]]
  }
  const moved = (c: number, r: number, to: Point) => {
    const [x, y] = rest(c, r)
    const [px, py] = toPicture(p, to)
    return { [name]: [...points.filter((q) => q.id !== id(c, r)), { id: id(c, r), by: tidy([px - x, py - y]) }] }
  }
  const columns = Array.from({ length: across }, (_, c) => c)
  const rows = Array.from({ length: down }, (_, r) => r)
  const lines = [...rows.map((r) => way(p, columns.map((c) => at(c, r)))), ...columns.map((c) => way(p, rows.map((r) => at(c, r))))]
  return (
    <>
      <Outline d={lines.join(' ')} faint />
      {rows.flatMap((r) =>
        columns.map((c) => (
          <Grip
            key={id(c, r)}
            at={toPane(p, at(c, r))}
            name={`grid-${id(c, r)}`}
            label={`Point ${c + 1} across, ${r + 1} down`}
            onMove={(to) => put(moved(c, r, to))}
            onDrop={(to) => put(moved(c, r, to), 'Move a point of the grid')}
            onRemove={() => put({ [name]: points.filter((q) => q.id !== id(c, r)) }, 'Put a point of the grid back')}
          />
        )),
      )}
    </>
  )
}
