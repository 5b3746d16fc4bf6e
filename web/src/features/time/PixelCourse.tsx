import { useQuery } from '@tanstack/react-query'
import { useEffect, useState } from 'react'
import { pixelsQuery } from '../../api/queries'
import { useBenchOf, useFrame } from '../bench/store'
import type { ShotOnBench } from '../bench/useShot'
import { CourseGraph } from './CourseGraph'
import { goTo } from './playing/player'

/** Until the pointer counts as resting, ms. */
const RESTS = 200

/** Frames that are seen at once, around the one that is chosen. */
const MOST = 1000

const STROKES = ['stroke-red-500', 'stroke-green-500', 'stroke-blue-500']

const plain = (v: number | undefined) => (v === undefined ? '–' : v.toFixed(4))

/** The px under the pointer, where it rested last. */
function useRested(): [number, number] | null {
  const { crosshair } = useBenchOf('crosshair')
  const [at, setAt] = useState(crosshair)
  useEffect(() => {
    if (!crosshair) return
    const rests = setTimeout(() => setAt(crosshair), RESTS)
    return () => clearTimeout(rests)
  }, [crosshair])
  return at
}

/** What one pixel of the result is on each frame: red, green and blue, scene-linear. */
export function PixelCourse({ shot }: { shot: ShotOnBench }) {
  const frame = useFrame(shot.doc)
  const at = useRested()
  const own = shot.doc.frames ?? { first: 0, last: 0 }
  const from = Math.max(own.first, Math.min(frame - MOST / 2, own.last - MOST + 1))
  const to = Math.min(own.last, from + MOST - 1)
  const course = useQuery({ ...pixelsQuery(shot.id, shot.state.revision, at ?? [0, 0], from, to), enabled: at !== null }).data
  if (!at || !course) return <p className="text-dim">{at ? 'The frames are worked out…' : 'Point at the picture.'}</p>
  const here = course[frame - from]
  return (
    <div className="flex h-full flex-col" data-pixel-at={at.join(' ')}>
      <p className="figures text-dim">
        x {at[0]} y {at[1]} · frame {frame} <b className="font-medium text-text">{[0, 1, 2].map((c) => plain(here?.[c])).join(' ')}</b>
      </p>
      <div className="min-h-0 grow">
        <CourseGraph course={course.map((v) => v.slice(0, 3))} first={from} last={to} frame={frame} keys={[]} onGo={goTo} strokes={STROKES} />
      </div>
    </div>
  )
}
