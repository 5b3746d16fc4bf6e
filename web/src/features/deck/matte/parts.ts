import type { Combine, MatteEdge, Limit, LimitBy, MattePart, Role, Window } from '../../../api/types'

/** A kind of part, as the menu shows it. */
export interface PartKind {
  kind: LimitBy['kind']
  label: string
  hint: string
  /** Role of the pass that it is read from. */
  needs?: Role
  /** A new one in a frame. */
  fresh: (frame: Window) => LimitBy
}

const middle = (f: Window): [number, number] => [f.x + f.width / 2, f.y + f.height / 2]

export const PART_KINDS: PartKind[] = [
  { kind: 'objects', label: 'Objects', hint: 'Objects of the ID pass, chosen by clicking them; hard edges', needs: 'object_id', fresh: () => ({ kind: 'objects', ids: [] }) },
  { kind: 'hashed', label: 'Objects, soft', hint: 'Objects of the hashed IDs, chosen by clicking them; antialiased', needs: 'hashed_id', fresh: () => ({ kind: 'hashed', ids: [] }) },
  { kind: 'depth', label: 'Depth', hint: 'A range of depth with soft ends', needs: 'depth', fresh: () => ({ kind: 'depth', near: 5, far: 10, near_soft: 1, far_soft: 1 }) },
  { kind: 'facing', label: 'Facing', hint: 'What faces a direction, from the normals', needs: 'normal', fresh: () => ({ kind: 'facing', toward: [0, 1, 0], within: 30, until: 70 }) },
  { kind: 'luminance', label: 'Luminance', hint: 'Bright or dark parts of the untouched picture', needs: 'beauty', fresh: () => ({ kind: 'luminance', low: 0.6, high: 1, low_soft: 0.15, high_soft: 1 }) },
  { kind: 'hue', label: 'Hue', hint: 'A range of hue of the untouched picture', needs: 'beauty', fresh: () => ({ kind: 'hue', hue: 30, width: 40, soft: 20, least: 0.15 }) },
  { kind: 'brush', label: 'Brush', hint: 'Painted in the picture', fresh: () => ({ kind: 'brush', strokes: [] }) },
  { kind: 'ellipse', label: 'Ellipse', hint: 'Drawn in the picture', fresh: (f) => ({ kind: 'ellipse', centre: middle(f), radii: [f.width * 0.2, f.height * 0.25], turned: 0, soft: Math.round(f.height * 0.1) }) },
  { kind: 'polygon', label: 'Polygon', hint: 'Corner by corner, by clicking', fresh: () => ({ kind: 'polygon', corners: [], soft: 4 }) },
  { kind: 'gradient', label: 'Gradient', hint: 'From nothing to all between two places', fresh: (f) => ({ kind: 'gradient', from: [middle(f)[0], f.y + f.height * 0.8], to: [middle(f)[0], f.y + f.height * 0.2] }) },
  { kind: 'coverage', label: 'The element', hint: 'All that it covers: its alpha', needs: 'beauty', fresh: () => ({ kind: 'coverage' }) },
]

/** Parts that are drawn in the picture, and have handles of their own there. */
export const DRAWN = new Set<LimitBy['kind']>(['ellipse', 'polygon', 'gradient', 'brush'])

export const partKind = (by: LimitBy): PartKind | undefined => PART_KINDS.find((k) => k.kind === by.kind)

export const JOINS: { value: Combine; label: string; hint: string }[] = [
  { value: 'or', label: 'or', hint: 'Here as well' },
  { value: 'and', label: 'and', hint: 'Only where both are' },
  { value: 'minus', label: 'but not', hint: 'Taken away' },
]

export const NO_FINISH: MatteEdge = { grow: 0, soften: 0, low: 0, high: 1 }

/** The limit with one part changed. */
export function withPart(limit: Limit, place: number, change: (p: MattePart) => MattePart): Limit {
  return { ...limit, parts: limit.parts.map((p, i) => (i === place ? change(p) : p)) }
}

/** A part in a few words. */
export function partWords(by: LimitBy, mattes: { id: number; name: string }[]): string {
  switch (by.kind) {
    case 'objects':
      return by.ids.length ? `object ${by.ids.join(', ')}` : 'objects…'
    case 'hashed':
      return by.ids.length ? by.ids.map((h) => h.name || h.id.toString(16)).join(', ') : 'objects…'
    case 'depth':
      return `${by.near.toFixed(2)}–${by.far.toFixed(2)} deep`
    case 'facing':
      return `facing within ${by.within.toFixed(0)}°`
    case 'luminance':
      return `luminance ${(by.low * 100).toFixed(0)}–${(by.high * 100).toFixed(0)} %`
    case 'hue':
      return `hue ${by.hue.toFixed(0)}°`
    case 'polygon':
      return `polygon of ${by.corners.length}`
    case 'brush':
      return by.strokes.length === 1 ? '1 stroke' : `${by.strokes.length} strokes`
    case 'named':
      return mattes.find((m) => m.id === by.matte)?.name ?? 'a matte that is gone'
    default:
      return partKind(by)?.label.toLowerCase() ?? by.kind
  }
}
