import type { LensLine } from '../../../api/types'
import { toPane, toPicture, type Point } from '../geometry'
import { chosenOf, MANY } from '../numbered'
import { useBenchOf } from '../store'
import { useTold } from '../useTold'
import type { HandleProps } from './byMeaning'
import { Grip } from './Grip'
import { Outline, tidy, way } from './Outline'

/** How far points lie off their straight lines is drawn so many times as long. */
const TIMES = 40

/** Lines along what ought to be straight, in the picture before the step. */
export function LensHandles({ name, values, element, step, shot, placement: p, over, put }: HandleProps) {
  const { item, set } = useBenchOf('item', 'set')
  const told = useTold(shot, element, step, over === 'before')
  if (over !== 'before' || values.from !== 'lines' || values.lens_of !== null) return null
  const lines = values[name] as LensLine[]
  const chosen = chosenOf(lines, item)
  const moved = (line: LensLine, i: number, to: Point) => ({ [name]: lines.map((l) => (l === line ? { ...l, points: l.points.with(i, tidy(toPicture(p, to))) } : l)) })
  const without = (line: LensLine, i: number) => {
    const points = line.points.toSpliced(i, 1)
    return { [name]: lines.flatMap((l) => (l !== line ? [l] : points.length > 0 ? [{ ...l, points }] : [])) }
  }
  return (
    <>
      {(told?.misses ?? []).map(({ at, by }) => (
        <Outline key={at.join()} d={way(p, [at, [at[0] + TIMES * by[0], at[1] + TIMES * by[1]]])} warns />
      ))}
      {lines.map((line, n) => (
        <div key={line.id} className="contents">
          <Outline d={way(p, line.points as Point[])} faint={line !== chosen} />
          {(lines.length > MANY && line !== chosen ? [] : line.points).map((at, i) => (
            <Grip
              key={i}
              at={toPane(p, at)}
              name={`line-${n + 1}-${i + 1}`}
              label={`Point ${i + 1} of line ${n + 1}`}
              onChoose={() => set({ item: line.id })}
              onMove={(to) => put(moved(line, i, to))}
              onDrop={(to) => put(moved(line, i, to), 'Move a point of a line')}
              onRemove={() => put(without(line, i), 'Remove a point of a line')}
            />
          ))}
        </div>
      ))}
    </>
  )
}
