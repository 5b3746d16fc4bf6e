import type { PushedEllipse } from '../../../api/types'
import { toPane, toPicture, type Point } from '../geometry'
import { freeId, PUSH } from '../numbered'
import { useBenchOf } from '../store'
import type { HandleProps } from './byMeaning'
import { Grip } from './Grip'
import { ellipse, Outline, tidy, way } from './Outline'
import { PaintLayer } from './PaintLayer'

const plus = ([x, y]: Point, [dx, dy]: Point): Point => [x + dx, y + dy]

/** Pushed ellipses: from where they are to where they should be. All are seen; the chosen one shows its size and turn. */
export function PushHandles({ name, values, placement: p, over, put }: HandleProps) {
  const { item, pointing, brush, set } = useBenchOf('item', 'pointing', 'brush', 'set')
  if (over === 'pass') return null
  const pushes = values[name] as PushedEllipse[]
  const drawn = (points: Point[]) => {
    const [first, to] = [points[0], points.at(-1)]
    if (!first || !to) return
    const from = tidy(first)
    const id = freeId(pushes)
    const by = tidy([to[0] - from[0], to[1] - from[1]])
    set({ item: id })
    put({ [name]: [...pushes, { ...PUSH, id, at: from, by, size: [brush.size, brush.size] }] }, 'Push')
  }
  return (
    <>
      {pushes.map((push, n) => (
        <One key={push.id} drawing={pointing === 'push' || pointing === 'smear'} push={push} n={n} chosen={push.id === item} p={p} after={over === 'picture'} onChoose={() => set({ item: push.id })} onPut={(next, words) => put({ [name]: pushes.map((q) => (q === push ? next : q)) }, words)} onRemove={() => put({ [name]: pushes.filter((q) => q !== push) }, 'Remove a push')} />
      ))}
      {pointing === 'push' && <PaintLayer placement={p} size={brush.size * 2} erases={false} onStroke={drawn} />}
    </>
  )
}

interface OneProps {
  push: PushedEllipse
  n: number
  chosen: boolean
  /** Whether something is drawn over it: then it is only seen. */
  drawing: boolean
  p: HandleProps['placement']
  /** Whether the picture after the step is seen, and not the one before. */
  after: boolean
  onChoose: () => void
  onPut: (next: PushedEllipse, words?: string) => void
  onRemove: () => void
}

function One({ push, n, chosen, drawing, p, after, onChoose, onPut, onRemove }: OneProps) {
  const from = push.at
  const to = plus(from, push.by)
  const middle = after ? to : from
  // After the push it is turned and grown.
  const lies = push.lies + (after ? push.turn : 0)
  const k = after ? push.scale : 1
  const t = (lies * Math.PI) / 180
  const wide: Point = [middle[0] + Math.cos(t) * push.size[0] * k, middle[1] - Math.sin(t) * push.size[0] * k]
  const high: Point = [middle[0] - Math.sin(t) * push.size[1] * k, middle[1] - Math.cos(t) * push.size[1] * k]
  const off = (at: Point): Point => {
    const [x, y] = toPicture(p, at)
    return [x - middle[0], y - middle[1]]
  }
  const dragged = (at: Point): PushedEllipse => {
    const place = toPicture(p, at)
    // What is dragged is where it should be; before the push, where it is, and then its end stays.
    return after ? { ...push, by: tidy([place[0] - from[0], place[1] - from[1]]) } : { ...push, at: tidy(place), by: tidy([to[0] - place[0], to[1] - place[1]]) }
  }
  const started = (at: Point): PushedEllipse => {
    const place = toPicture(p, at)
    return { ...push, at: tidy(place), by: tidy([to[0] - place[0], to[1] - place[1]]) }
  }
  const shaped = (at: Point): PushedEllipse => {
    const [dx, dy] = off(at)
    const angle = Math.round((Math.atan2(-dy, dx) * 1800) / Math.PI) / 10
    const size = tidy([Math.max(1, Math.hypot(dx, dy) / k), push.size[1]])
    // In the picture after it the end of the long axis turns what is pushed; in the one before it, how it lies.
    return after ? { ...push, size, turn: nearest(angle - push.lies, push.turn) } : { ...push, size, lies: angle }
  }
  const raised = (at: Point): PushedEllipse => {
    const [dx, dy] = off(at)
    return { ...push, size: tidy([push.size[0], Math.max(1, Math.abs(-Math.sin(t) * dx - Math.cos(t) * dy) / k)]) }
  }
  const label = `push ${n + 1}`
  return (
    <>
      <Outline d={ellipse(p, middle, [push.size[0] * k, push.size[1] * k], lies)} faint={!chosen} />
      {after && <Outline d={way(p, [from, to])} faint={!chosen} />}
      {after && chosen && <Outline d={ellipse(p, from, push.size, push.lies)} faint />}
      {after && !drawing && (
        <Grip at={toPane(p, from)} name={`push-from-${n + 1}`} label={`Where ${label} takes hold`} onChoose={onChoose} onMove={(at) => onPut(started(at))} onDrop={(at) => onPut(started(at), 'Move a push')} onRemove={onRemove} />
      )}
      {!drawing && <Grip at={toPane(p, middle)} name={`push-${n + 1}`} size="large" label={after ? `Where ${label} ends` : `Where ${label} takes hold`} onChoose={onChoose} onMove={(at) => onPut(dragged(at))} onDrop={(at) => onPut(dragged(at), 'Push')} onRemove={onRemove} />}
      {chosen && !drawing && (
        <>
          <Grip at={toPane(p, wide)} name="push-wide" label={after ? `Width and turn of ${label}` : `Width of ${label}, and how it lies`} onMove={(at) => onPut(shaped(at))} onDrop={(at) => onPut(shaped(at), 'Shape a push')} />
          <Grip at={toPane(p, high)} name="push-high" label={`Height of ${label}`} onMove={(at) => onPut(raised(at))} onDrop={(at) => onPut(raised(at), 'Shape a push')} />
        </>
      )}
    </>
  )
}

/** The angle that is nearest to another one, whole turns apart. */
function nearest(angle: number, to: number): number {
  return Math.round((angle + 360 * Math.round((to - angle) / 360)) * 10) / 10
}
