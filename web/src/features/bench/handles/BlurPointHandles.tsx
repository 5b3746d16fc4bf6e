import type { BlurPoint } from '../../../api/types'
import { toPane, toPicture, type Point } from '../geometry'
import { useBenchOf } from '../store'
import type { HandleProps } from './byMeaning'
import { Grip } from './Grip'
import { ellipse, Outline, tidy } from './Outline'

/** Smallest ring that is drawn, CSS px: a point without blur has one, too, so that it can be taken hold of. */
const LEAST = 16

/** Places that each have a blur: a ring as large as the blur, which is dragged at its right end. */
export function BlurPointHandles({ name, values, placement: p, over, put }: HandleProps) {
  const { item, set } = useBenchOf('item', 'set')
  if (over === 'pass') return null
  const points = values[name] as BlurPoint[]
  const all = values.all as number
  const least = LEAST / p.zoom
  const chosen = points.find((q) => q.id === item) ?? points.at(-1)
  const others = (point: BlurPoint, next: Partial<BlurPoint>) => ({ [name]: points.map((q) => (q === point ? { ...q, ...next } : q)) })
  return (
    <>
      {points.map((point, n) => {
        const radius = least + point.size * all
        const at = (to: Point) => ({ at: tidy(toPicture(p, to)) })
        const sized = (to: Point) => {
          const far = toPicture(p, to)[0] - point.at[0] - least
          return { size: Math.round(Math.min(400, Math.max(0, far / Math.max(all, 0.01))) * 10) / 10 }
        }
        return (
          <div key={point.id} className="contents">
            <Outline d={ellipse(p, point.at, [radius, radius], 0)} faint={point !== chosen} />
            <Grip at={toPane(p, point.at)} name={`blur-${n + 1}`} size="large" label={`Point ${n + 1}, blurred by ${(point.size * all).toFixed(1)} px`} onChoose={() => set({ item: point.id })} onMove={(to) => put(others(point, at(to)))} onDrop={(to) => put(others(point, at(to)), 'Move a point')} onRemove={() => put({ [name]: points.filter((q) => q !== point) }, 'Remove a point')} />
            {point === chosen && <Grip at={toPane(p, [point.at[0] + radius, point.at[1]])} name="blur-size" label={`Blur of point ${n + 1}`} onMove={(to) => put(others(point, sized(to)))} onDrop={(to) => put(others(point, sized(to)), 'Set a blur')} />}
          </div>
        )
      })}
    </>
  )
}
