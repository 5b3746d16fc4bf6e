import type { ObjectSchema } from '../../../api/schema'
import type { Extract, Layer, Step } from '../../../api/types'
import type { Point } from '../geometry'

/** A part of a texture that is dragged. */
export type Part = 'middle' | 'right' | 'top'

export const PARTS: Part[] = ['middle', 'right', 'top']

export const LABELS: Record<Part, string> = {
  middle: 'Middle of the texture',
  right: 'Right side of the texture: size and turn',
  top: 'Upper side of the texture: height',
}

/** What a change of each is called. */
export const KEPT: Record<Part, string> = { middle: 'Move a texture', right: 'Size a texture', top: 'Size a texture' }

/** Where a texture lies in UV. */
export interface Lies {
  middle: Point
  size: Point
  turn: number
}

/** What a place in UV makes of a texture whose part is dragged there. */
export function dragged(part: Part, { middle, size, turn }: Lies, aspect: number, uv: Point): Partial<Lies> {
  if (part === 'middle') return { middle: tidyUv(uv) }
  const [width, height] = size
  const across = [uv[0] - middle[0], ((uv[1] - middle[1]) * width) / (height * aspect)] as const
  if (part === 'right') {
    const half = Math.max(Math.hypot(...across), 1e-4)
    // A texture that is turned over has its right side on the left.
    const sign = Math.sign(width) || 1
    const wide = 2 * half * sign
    const angle = (Math.atan2(across[1] * sign, across[0] * sign) * 180) / Math.PI
    return { size: tidyUv([wide, (height / width) * wide]), turn: Math.round(angle * 10) / 10 }
  }
  // The size is along u and v; the turn is within it.
  const upright = Math.cos((turn * Math.PI) / 180)
  if (Math.abs(upright) < 0.3) return {}
  const high = Math.abs((2 * (uv[1] - middle[1])) / upright)
  return { size: tidyUv([width, Math.sign(height) * Math.max(high, 1e-4)]) }
}

const tidyUv = (p: Point): Point => [Math.round(p[0] * 1e4) / 1e4, Math.round(p[1] * 1e4) / 1e4]

/** What lays a texture, if something that could is chosen. */
export const layerOf = (step: Step | null, extract: Extract | null): Layer | null => (extract ? { kind: 'extract', id: extract.id } : step ? { kind: 'step', id: step.id } : null)

/** The name of the parameter that says where a texture's middle lies, if there is one. */
export const middleOf = (schema: ObjectSchema | undefined): string | undefined => Object.entries(schema?.properties ?? {}).find(([, p]) => p['x-meaning'] === 'uv-place')?.[0]

/** Parameters by where a texture lies now. */
export const valuesOf = (name: string, lies: Partial<Lies>): Record<string, unknown> => ({ ...lies, ...(lies.middle ? { [name]: lies.middle } : {}) })

/** Where a texture lies by its parameters; `name` is the one of its middle. */
export const liesOf = (name: string, values: Record<string, unknown>): Lies => ({ middle: values[name] as Point, size: values.size as Point, turn: values.turn as number })

/** UV of a place of the texture's own square, x right and y down. */
export function uvOf({ middle, size, turn }: Lies, aspect: number, [x, y]: Point): Point {
  const [a, b] = [(x - 0.5) * aspect, 0.5 - y]
  const t = (turn * Math.PI) / 180
  return [middle[0] + ((a * Math.cos(t) - b * Math.sin(t)) / aspect) * size[0], middle[1] + (a * Math.sin(t) + b * Math.cos(t)) * size[1]]
}

/** Where the parts lie on the texture's own square. */
export const ON_SQUARE: Record<Part, Point> = { middle: [0.5, 0.5], right: [1, 0.5], top: [0.5, 0] }
