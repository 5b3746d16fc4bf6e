import type { Place } from '../../../api/types'
import { toPane, toPicture, type Point } from '../geometry'
import type { HandleProps } from './byMeaning'
import { Grip } from './Grip'
import { addressOf, KeyPath } from './KeyPath'

type Corner = 'top_left' | 'top_right' | 'bottom_right' | 'bottom_left'

const CORNERS: { name: Corner; label: string; at: [number, number] }[] = [
  { name: 'top_left', label: 'Top left corner', at: [0, 0] },
  { name: 'top_right', label: 'Top right corner', at: [1, 0] },
  { name: 'bottom_right', label: 'Bottom right corner', at: [1, 1] },
  { name: 'bottom_left', label: 'Bottom left corner', at: [0, 1] },
]

/** Where the four corners of a frame are put, in the picture; by numbers, the middle is dragged. */
export function PlaceHandles({ values, shot, frame, placement: p, over, put, ...of }: HandleProps) {
  if (over !== 'picture') return null
  const place = values as unknown as Place
  const rounded = (v: number) => Math.round(v * 10) / 10
  if (place.by === 'numbers') {
    const [ax, ay] = [frame.x + place.anchor[0] * frame.width, frame.y + place.anchor[1] * frame.height]
    const moved = (to: Point) => {
      const [x, y] = toPicture(p, to)
      return { moved: [rounded(x - ax), rounded(y - ay)] }
    }
    return (
      <>
        <KeyPath shot={shot} at={addressOf(of, 'moved')} origin={[ax, ay]} placement={p} />
        <Grip at={toPane(p, [ax + place.moved[0], ay + place.moved[1]])} name="place" label="The anchor" onMove={(to) => put(moved(to))} onDrop={(to) => put(moved(to), 'Move')} />
      </>
    )
  }
  const where = (c: (typeof CORNERS)[number]): Point => [frame.x + c.at[0] * frame.width + place[c.name][0], frame.y + c.at[1] * frame.height + place[c.name][1]]
  const dragged = (c: (typeof CORNERS)[number], to: Point) => {
    const [x, y] = toPicture(p, to)
    return { [c.name]: [rounded(x - frame.x - c.at[0] * frame.width), rounded(y - frame.y - c.at[1] * frame.height)] }
  }
  const outline = CORNERS.map((c) => toPane(p, where(c)).join(',')).join(' ')
  return (
    <>
      <svg className="pointer-events-none absolute inset-0 size-full overflow-visible" aria-hidden>
        <polygon points={outline} fill="none" stroke="var(--color-accent)" strokeWidth={1} strokeDasharray="4 3" />
      </svg>
      {CORNERS.map((c) => (
        <KeyPath key={c.name} shot={shot} at={addressOf(of, c.name)} origin={[frame.x + c.at[0] * frame.width, frame.y + c.at[1] * frame.height]} placement={p} />
      ))}
      {CORNERS.map((c) => (
        <Grip key={c.name} at={toPane(p, where(c))} name={c.name} label={c.label} onMove={(to) => put(dragged(c, to))} onDrop={(to) => put(dragged(c, to), 'Move a corner')} />
      ))}
    </>
  )
}
