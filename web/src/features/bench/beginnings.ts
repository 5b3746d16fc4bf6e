import type { Element, Extract, ExtractInfo, KindInfo, PartInfo, PartKind, Shot, Step, Window } from '../../api/types'
import { depthAt } from './depth'
import { freeId } from './numbered'
import { freePassId, servingOf, type PassOf } from './passes'
import { useBench, type Pointing } from './store'
import { withElement, type ShotOnBench } from './useShot'

/** A new step of a kind, as it is declared. */
export const newStep = (element: Element, kind: KindInfo): Step => ({ id: freeId(element.steps), on: true, does: kind.defaults, only_where: null, joins: kind.joins })

/** What only the shot can say of a new step of a kind; null if nothing has to be asked for. */
export function foundFor(shot: ShotOnBench, element: Element, kind: KindInfo): Promise<Step['does']> | null {
  const does = kind.defaults
  if (does.kind !== 'refocus') return null
  // Something in the picture should be sharp at once: what is in its middle.
  const { x, y, width, height } = shot.doc.display
  const frame = useBench.getState().frame ?? shot.doc.frames?.first ?? 0
  const middle = depthAt(shot.id, shot.state.revision, element.id, frame, x + width / 2, y + height / 2).catch(() => null)
  return middle.then((z) => ({ ...does, focus: z ?? does.focus }))
}

/** A new extracted pass of a kind, and what a click in the picture is for then. */
export function newExtract(doc: Shot, element: Element, passes: PassOf[], kind: ExtractInfo): { extract: Extract; pointing: Pointing } {
  const { x, y, width, height } = doc.display
  let does = kind.defaults
  let pointing: Pointing = null
  // What other passes of the role are merged into takes their place.
  let serves = servingOf(passes, kind.gives) === null || kind.reads.some((r) => r.role === kind.gives)
  // A new plane leans back through the middle of the frame; merging begins with what there is.
  if (does.kind === 'plane_depth') does = { ...does, near_at: [x + width / 2, y + height * 0.85], far_at: [x + width / 2, y + height * 0.2] }
  else if (does.kind === 'paint_depth') pointing = 'paint-depth'
  else if (does.kind === 'elements_depth') {
    does = { ...does, own: servingOf(passes, 'depth') !== null, elements: doc.elements.filter((e) => e.id !== element.id).map((e) => e.id) }
    serves = true
  }
  const words = kind.gives === 'other' ? kind.title.toLowerCase() : kind.gives.replace('_', ' ')
  const alike = passes.filter((p) => p.name.startsWith(words)).length
  return { extract: { id: freePassId(element), name: alike > 0 ? `${words} ${alike + 1}` : words, serves, does }, pointing }
}

/** The shot with one more extracted pass of an element. */
export const withExtract = (doc: Shot, element: number, extract: Extract): Shot => withElement(doc, element, (e) => ({ ...e, extracts: [...(e.extracts ?? []), extract] }))

/** A new part of a matte on a frame; `range` is what its pass holds, where that is known. */
export function newPart(kind: PartInfo, frame: Window, range?: [number, number] | null): PartKind {
  const by = kind.defaults
  const at = (x: number, y: number): [number, number] => [frame.x + frame.width * x, frame.y + frame.height * y]
  switch (by.kind) {
    case 'ellipse':
      return { ...by, centre: at(0.5, 0.5), radii: [frame.width * 0.2, frame.height * 0.25], soft: Math.round(frame.height * 0.1) }
    case 'gradient':
      return { ...by, from: at(0.5, 0.8), to: at(0.5, 0.2) }
    case 'depth': {
      if (!range) return by
      // The nearer part of what there is: something is seen at once.
      const [near, far] = range
      const share = (s: number) => Number((near + (far - near) * s).toFixed(2))
      const soft = Number(((far - near) * 0.1).toFixed(2))
      return { ...by, near: share(0), far: share(0.4), near_soft: soft, far_soft: soft }
    }
    default:
      return by
  }
}
