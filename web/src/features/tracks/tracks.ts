import { useQuery } from '@tanstack/react-query'
import { tracksQuery } from '../../api/queries'
import type { Element, HeldTo, Shot, Track, TrackSeen } from '../../api/types'
import { planeOf, through, type Plane, type Point } from '../bench/geometry'
import { useBench, useFrame } from '../bench/store'
import { withElement, type ShotOnBench } from '../bench/useShot'

/** Corners, one way round from the upper left. */
export type Corners = Track['corners']

/** Where the tracks of a shot are at the frame that is seen. */
export function useTracks(shot: ShotOnBench): TrackSeen[] {
  const frame = useFrame(shot.doc)
  const any = shot.state.shot.elements.some((e) => (e.tracks ?? []).length > 0)
  const seen = useQuery({ ...tracksQuery(shot.id, shot.state.revision, frame), enabled: any }).data
  return any ? (seen ?? NONE) : NONE
}

const NONE: TrackSeen[] = []

/** The plane that something is held to, at the frame that is seen. */
export function usePlane(shot: ShotOnBench, held: HeldTo | null): Plane | undefined {
  const seen = useTracks(shot).find((t) => t.element === held?.element && t.track === held.track)
  return seen && held ? planeOf(seen.by) : undefined
}

/** What stands still in the panes, as pane px see it; nothing where nothing does, or where it is gone. */
export function useSteady(shot: ShotOnBench): { held: HeldTo; plane: Plane } | null {
  const steady = useBench((b) => b.steady)
  const plane = usePlane(shot, steady)
  return steady && plane ? { held: steady, plane: { by: plane.back, back: plane.by } } : null
}

/** Its corners where they are seen. */
export const cornersAt = (track: Track, seen: TrackSeen | undefined): Corners => {
  if (!seen) return track.corners
  const at = (c: Point) => through(seen.by, c)
  const [a, b, c, d] = track.corners
  return [at(a), at(b), at(c), at(d)]
}

/** The document with one track changed. */
export const withTrack = (doc: Shot, element: number, track: number, change: (t: Track) => Track): Shot =>
  withElement(doc, element, (e) => ({ ...e, tracks: (e.tracks ?? []).map((t) => (t.id === track ? change(t) : t)) }))

/** A region in the middle of a frame. */
export function middleOf({ x, y, width, height }: Shot['display']): Corners {
  const at = (u: number, v: number): Point => [Math.round(x + u * width), Math.round(y + v * height)]
  return [at(0.35, 0.35), at(0.65, 0.35), at(0.65, 0.65), at(0.35, 0.65)]
}

/** Tracks that an element may be held to: those of others. */
export const tracksOfOthers = (shot: Shot, element: Element): { held: HeldTo; name: string }[] =>
  shot.elements.filter((e) => e.id !== element.id).flatMap((e) => (e.tracks ?? []).map((t) => ({ held: { element: e.id, track: t.id }, name: `${t.name} of ${e.name}` })))
