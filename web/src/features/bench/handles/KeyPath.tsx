import { useQuery } from '@tanstack/react-query'
import { courseQuery } from '../../../api/queries'
import { driveAt, keysOf, numbersIn, withMoved } from '../../time/keys'
import { toPane, toPicture, type Placement, type Point } from '../geometry'
import type { ShotOnBench } from '../useShot'
import type { HandleProps } from './byMeaning'
import { Grip } from './Grip'
import { tidy } from './Outline'

/** The address of a parameter that a handle belongs to. */
export const addressOf = ({ element, step, extract }: Pick<HandleProps, 'element' | 'step' | 'extract'>, name: string): string => {
  const own = step ? `steps/${step.id}/does` : extract ? `extracts/${extract.id}/does` : 'placement'
  return `elements/${element.id}/${own}/${name}`
}

interface Props {
  shot: ShotOnBench
  /** The parameter, two numbers in px of the picture. */
  at: string
  /** What its numbers are counted from. */
  origin?: Point
  placement: Placement
}

/** The way that a place takes over the frames: a dot for each frame, and its keys to drag. Nothing where it has none. */
export function KeyPath({ shot, at, origin = [0, 0], placement: p }: Props) {
  const { first, last } = shot.doc.frames ?? { first: 0, last: 0 }
  const drive = driveAt(shot.doc, at)
  const keys = keysOf(drive).filter((k) => numbersIn(k.value).length === 2)
  const course = useQuery({ ...courseQuery(shot.id, shot.state.revision, at, first, last), enabled: keys.length > 1 }).data ?? []
  if (keys.length < 2) return null
  const seen = ([x, y]: number[]): Point => toPane(p, [(x ?? 0) + origin[0], (y ?? 0) + origin[1]])
  const way = course.map((v) => seen(numbersIn(v)))
  const moved = (frame: number, to: Point) => {
    const key = keys.find((k) => k.frame === frame)
    const [x, y] = toPicture(p, to)
    return key ? withMoved(shot.doc, at, key, { ...key, value: tidy([x - origin[0], y - origin[1]]) }) : shot.doc
  }
  return (
    <>
      <svg className="pointer-events-none absolute inset-0 size-full overflow-visible" aria-hidden data-key-path={at}>
        <polyline points={way.map((q) => q.join(',')).join(' ')} fill="none" stroke="black" strokeOpacity="0.55" strokeWidth="3" />
        <polyline points={way.map((q) => q.join(',')).join(' ')} fill="none" stroke="white" strokeOpacity="0.9" />
        {way.length <= 200 && way.map(([x, y], i) => <circle key={i} cx={x} cy={y} r="1.8" fill="white" stroke="black" strokeWidth="0.5" />)}
      </svg>
      {keys.map((k) => (
        <Grip key={k.frame} at={seen(numbersIn(k.value))} name={`key-${k.frame}`} label={`Key at frame ${k.frame}`} onMove={(to) => shot.preview(moved(k.frame, to))} onDrop={(to) => shot.commit('Move a key', moved(k.frame, to))} />
      ))}
    </>
  )
}
