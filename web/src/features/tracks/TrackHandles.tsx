import { useState } from 'react'
import type { Element, Track } from '../../api/types'
import { toPane, toPicture, type Placement, type Point } from '../bench/geometry'
import { Grip } from '../bench/handles/Grip'
import { Outline, tidy } from '../bench/handles/Outline'
import { freeId } from '../bench/numbered'
import { useFrame } from '../bench/store'
import type { ShotOnBench } from '../bench/useShot'
import { cornersAt, useTracks, withTrack, type Corners } from './tracks'

interface Props {
  shot: ShotOnBench
  element: Element
  track: Track
  placement: Placement
}

const NAMES = ['Upper left', 'Upper right', 'Lower right', 'Lower left']

/** The region of a track where it is seen. On its own frame its corners draw it; on others they put it right. */
export function TrackHandles({ shot, element, track, placement: p }: Props) {
  const frame = useFrame(shot.doc)
  const seen = useTracks(shot).find((t) => t.element === element.id && t.track === track.id)
  const [moving, setMoving] = useState<{ corner: number; at: Point } | null>(null)
  const own = frame === track.at
  const rest = own ? track.corners : cornersAt(track, seen)
  const corners = rest.map((c, i) => (moving?.corner === i ? moving.at : c)) as Corners
  const drop = (i: number, to: Point) => {
    const [a, b, c, d] = rest.map((at, k) => (k === i ? tidy(toPicture(p, to)) : at)) as Corners
    const placed: Corners = [a, b, c, d]
    setMoving(null)
    if (own) {
      shot.commit('Draw the plane', withTrack(shot.doc, element.id, track.id, (t) => ({ ...t, corners: placed })))
      return
    }
    const put = track.put_right ?? []
    const before = put.find((r) => r.frame === frame)
    const right = { id: before?.id ?? freeId(put), frame, from: track.corners, to: placed }
    const all = before ? put.map((r) => (r.id === before.id ? right : r)) : [...put, right]
    shot.commit(`Put the plane right at frame ${frame}`, withTrack(shot.doc, element.id, track.id, (t) => ({ ...t, put_right: all })))
  }
  const away = seen?.found !== undefined && seen.found !== null && seen.found.fits === 0
  return (
    <>
      <Outline d={`M${corners.map((c) => toPane(p, c).join(' ')).join('L')}Z`} faint={away} />
      {corners.map((c, i) => (
        <Grip
          key={NAMES[i]}
          at={toPane(p, c)}
          name={`track-${i}`}
          label={own ? `${NAMES[i] ?? ''} corner of the plane` : `${NAMES[i] ?? ''} corner; dragging it puts the plane right on this frame`}
          onMove={(to) => setMoving({ corner: i, at: toPicture(p, to) })}
          onDrop={(to) => drop(i, to)}
        />
      ))}
    </>
  )
}
