import type { Arrived, Element, KindInfo, Limit, Place, Shot, Step, Track } from '../../api/types'
import type { Point } from '../bench/geometry'
import { freeId } from '../bench/numbered'
import { withElement } from '../bench/useShot'

/** The region of a plane as a matte with a soft edge that goes along with it. */
const regionOf = (track: Track): Limit => ({
  parts: [{ id: 1, by: { kind: 'polygon', corners: track.corners, soft: 8 }, joins: 'or', invert: false, held: track.id }],
  invert: false,
})

/** A step that changes only the region of a plane, and goes along with it: the document with it, and its number. */
export function changedThere(doc: Shot, element: Element, track: Track, kind: KindInfo): { doc: Shot; id: number } {
  const id = freeId(element.steps)
  const does = kind.defaults.kind === 'place' ? { ...kind.defaults, moved: beside(track) } : kind.defaults
  const step: Step = { id, on: true, does, only_where: regionOf(track), joins: kind.joins, ...(kind.moves ? { held: track.id } : {}) }
  return { id, doc: withElement(doc, element.id, (e) => ({ ...e, steps: [...e.steps, step] })) }
}

/** A region is covered by what lies to its left, if nothing else is said. */
function beside({ corners }: Track): [number, number] {
  const across = corners.map(([x]) => x)
  return [Math.round(Math.max(...across) - Math.min(...across)), 0]
}

/** How far the corners of a picture are moved so that they lie on those of a region. */
function onto({ width, height }: Arrived, [a, b, c, d]: Track['corners']) {
  const by = ([x, y]: Point, u: number, v: number): Point => [x - u * width, y - v * height]
  return { top_left: by(a, 0, 0), top_right: by(b, 1, 0), bottom_right: by(c, 1, 1), bottom_left: by(d, 0, 1) }
}

/** A picture that lies on the region of a plane, corner on corner, above the element that the plane is of. */
export function laidThere(doc: Shot, element: Element, track: Track, picture: Arrived, place: Place): Shot {
  const id = freeId(doc.elements)
  const placement: Place = { ...place, by: 'corners', ...onto(picture, track.corners) }
  const laid: Element = {
    id,
    name: `Patch on ${track.name}`,
    camera: null,
    passes: [],
    made: { kind: 'picture', picture: picture.file },
    steps: [],
    placement,
    held: { element: element.id, track: track.id },
  }
  const above = doc.elements.findIndex((e) => e.id === element.id) + 1
  return { ...doc, elements: doc.elements.toSpliced(above, 0, laid) }
}
