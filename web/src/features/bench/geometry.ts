import type { Camera, Window } from '../../api/types'

export type Point = [number, number]
export type Triple = [number, number, number]

/** How full-resolution px lie in a pane of CSS px. */
export interface Placement {
  zoom: number
  /** Pane px of full-resolution px (0, 0). */
  left: number
  top: number
  /** What is drawn lies on a plane: from the frame on which it is told to the one that is seen, and back. */
  plane?: Plane | undefined
}

/** Rows of a projective map of full-resolution px. */
export type Projective = [Triple, Triple, Triple]

/** A plane that is followed, there and back. */
export interface Plane {
  by: Projective
  back: Projective
}

const ONE: Projective = [[1, 0, 0], [0, 1, 0], [0, 0, 1]]

/** Where a projective map puts a place. */
export function through(m: Projective, [x, y]: Point): Point {
  const of = (r: Triple) => r[0] * x + r[1] * y + r[2]
  const w = of(m[2])
  return Math.abs(w) < 1e-9 ? [x, y] : [of(m[0]) / w, of(m[1]) / w]
}

/** A projective map and the way back; one that squeezes everything into a line moves nothing. */
export function planeOf(by: Projective): Plane {
  const [[a, b, c], [d, e, f], [g, h, i]] = by
  const back: Projective = [
    [e * i - f * h, c * h - b * i, b * f - c * e],
    [f * g - d * i, a * i - c * g, c * d - a * f],
    [d * h - e * g, b * g - a * h, a * e - b * d],
  ]
  const size = a * back[0][0] + b * back[1][0] + c * back[2][0]
  return Math.abs(size) < 1e-12 ? { by: ONE, back: ONE } : { by, back }
}

/** Room around the frame when it is fitted, CSS px. */
const MARGIN = 10

export function placement(pane: Point, frame: Window, zoom: number | null, centre: Point | null): Placement {
  const fit = Math.min((pane[0] - 2 * MARGIN) / frame.width, (pane[1] - 2 * MARGIN) / frame.height)
  const k = zoom ?? Math.max(fit, 0.01)
  const [cx, cy] = centre ?? [frame.x + frame.width / 2, frame.y + frame.height / 2]
  return { zoom: k, left: Math.round(pane[0] / 2 - cx * k), top: Math.round(pane[1] / 2 - cy * k) }
}

export const toPane = (p: Placement, at: Point): Point => {
  const [x, y] = p.plane ? through(p.plane.by, at) : at
  return [p.left + x * p.zoom, p.top + y * p.zoom]
}

export const toPicture = (p: Placement, [x, y]: Point): Point => {
  const at: Point = [(x - p.left) / p.zoom, (y - p.top) / p.zoom]
  return p.plane ? through(p.plane.back, at) : at
}

/** One plane in another. */
export function within(outer: Plane | undefined, inner: Plane | undefined): Plane | undefined {
  if (!outer || !inner) return outer ?? inner
  const after = (a: Projective, b: Projective): Projective => {
    const row = (r: Triple): Triple => [0, 1, 2].map((c) => r[0] * (b[0][c] ?? 0) + r[1] * (b[1][c] ?? 0) + r[2] * (b[2][c] ?? 0)) as Triple
    return [row(a[0]), row(a[1]), row(a[2])]
  }
  return { by: after(outer.by, inner.by), back: after(inner.back, outer.back) }
}

/** How often a picture may be halved and still fill the screen's px. */
export function halvings(zoom: number, ratio: number): number {
  return Math.max(0, Math.min(6, Math.floor(-Math.log2(Math.max(zoom * ratio, 1e-6)) + 1e-6)))
}

/** Blocks in which windows are asked for, px at their scale, so that small moves ask for nothing new. */
const BLOCK = 128

/** The part of the frame that a pane shows, in px at a scale; null if it shows none. */
export function visible(p: Placement, pane: Point, frame: Window, scale: number): Window | null {
  const step = 2 ** scale
  const [l, t] = toPicture(p, [0, 0])
  const [r, b] = toPicture(p, pane)
  const low = (v: number, edge: number) => Math.max(Math.floor(edge / step), Math.floor(v / step / BLOCK) * BLOCK)
  const high = (v: number, edge: number) => Math.min(Math.ceil(edge / step), Math.ceil(v / step / BLOCK) * BLOCK)
  const x = low(l, frame.x)
  const y = low(t, frame.y)
  const width = high(r, frame.x + frame.width) - x
  const height = high(b, frame.y + frame.height) - y
  return width > 0 && height > 0 ? { x, y, width, height } : null
}

/** Rows of the 3×4 matrix of a turn and a shift: from one camera's space into another's. */
export type Way = number[]

const column = (m: Way, c: number): Triple => [m[c] ?? 0, m[4 + c] ?? 0, m[8 + c] ?? 0]

/** A direction in the space that a way leads to; of a place, what has to be added as well. */
export function turned(way: Way, v: Triple): Triple {
  const [x, y, z] = [column(way, 0), column(way, 1), column(way, 2)]
  return [0, 1, 2].map((r) => (x[r] ?? 0) * v[0] + (y[r] ?? 0) * v[1] + (z[r] ?? 0) * v[2]) as Triple
}

/** A place in the space that a way leads to. */
export function gone(way: Way, v: Triple): Triple {
  const by = column(way, 3)
  const [x, y, z] = turned(way, v)
  return [x + by[0], y + by[1], z + by[2]]
}

/** The way back: of a turn, rows and columns change places. */
export function wayBack(way: Way): Way {
  const rows = [column(way, 0), column(way, 1), column(way, 2)]
  const by = column(way, 3)
  return rows.flatMap(([x, y, z]) => [x, y, z, -(x * by[0] + y * by[1] + z * by[2])])
}

/** Where a point of camera space appears, full-resolution px; null behind the camera. */
export function project(camera: Camera, [x, y, z]: Triple): Point | null {
  if (z >= 0) return null
  return [camera.centre_x - (x * camera.focal) / z, camera.centre_y + (y * camera.focal) / z]
}

/** The point of camera space behind a place in the picture, at depth `-z`. */
export function unproject(camera: Camera, [px, py]: Point, z: number): Triple {
  return [((px - camera.centre_x) / camera.focal) * -z, (-(py - camera.centre_y) / camera.focal) * -z, z]
}

/** A place on a ball of radius 1 (y up) for a direction; directions away from the viewer lie beyond the rim, up to 2. */
export function ballOf([x, y, z]: Triple): Point {
  const flat = Math.hypot(x, y)
  if (flat < 1e-6) return [0, z < 0 ? 2 : 0]
  const r = z >= 0 ? flat : 2 - flat
  return [(x / flat) * r, (y / flat) * r]
}

/** Farthest place that is told apart: straight from behind has no side, and a handle there would jump to the top. */
const FARTHEST = 1.998

/** The direction of a place on the ball; inverse of `ballOf`. */
export function directionOf([x, y]: Point): Triple {
  const far = Math.hypot(x, y)
  const r = Math.min(far, FARTHEST)
  const flat = r <= 1 ? r : 2 - r
  const z = Math.sqrt(Math.max(0, 1 - flat * flat)) * (r <= 1 ? 1 : -1)
  const k = far < 1e-6 ? 0 : flat / far
  const tidy = (v: number) => Number(v.toFixed(4))
  return [tidy(x * k), tidy(y * k), tidy(z)]
}
