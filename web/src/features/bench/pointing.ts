import { api } from '../../api/client'
import { draftNow } from '../../api/edits'
import type { Element, Extract as Extracted, Finish, HashedName, PartKind, PutLamp, Role, Step, Track } from '../../api/types'
import { withPart } from '../deck/matte/parts'
import { depthAt } from './depth'
import type { Point } from './geometry'
import { chosenPart, editedLimit } from './limits'
import { freeId } from './numbered'
import type { PassOf } from './passes'
import { useBench } from './store'
import { travelTo } from './travel'
import { withExtract, withStep, type ShotOnBench } from './useShot'

/** What a click in a pane is about. */
export interface Scene {
  shot: ShotOnBench
  element: Element
  step: Step | null
  extract: Extracted | null
  track: Track | null
  partner: PassOf | null
  frame: number
}

const NOTHING = 'There is no depth at that pixel; click on a surface.'

/** Bits of the hashed ID that covers most of a pixel, from its pairs of ID and coverage. */
function mostCovering(pairs: (number | null)[]): number | null {
  let best: [id: number, coverage: number] | null = null
  for (let i = 0; i + 1 < pairs.length; i += 2) {
    const [id, coverage] = [pairs[i], pairs[i + 1]]
    if (id && coverage && coverage > (best?.[1] ?? 0)) best = [id, coverage]
  }
  // The number that JSON brought is the 32-bit float exactly; its bits are the ID.
  return best && (new Uint32Array(new Float32Array([best[0]]).buffer)[0] ?? null)
}

/** Keeps a parameter of the chosen step or extracted pass. */
function put(s: Scene, label: string, values: Record<string, unknown>) {
  if (s.extract) {
    const { id } = s.extract
    s.shot.commit(label, withExtract(s.shot.doc, s.element.id, id, (e) => ({ ...e, does: { ...e.does, ...values } })))
  } else if (s.step) {
    const { id } = s.step
    s.shot.commit(label, withStep(s.shot.doc, s.element.id, id, (e) => ({ ...e, does: { ...e.does, ...values } })))
  }
}

async function travel(s: Scene, [x, y]: Point) {
  const probe = await api.probe(s.shot.id, s.shot.state.revision, s.element.id, s.frame, x, y)
  const z = probe.passes.find((p) => p.pass === s.partner?.id)?.canonical[0]
  if (z === null || z === undefined) throw new Error(NOTHING)
  travelTo(z)
}

async function depth(s: Scene, [x, y]: Point) {
  const { pointing, depthFor, set } = useBench.getState()
  const z = await depthAt(s.shot.id, s.shot.state.revision, s.element.id, s.frame, x, y, s.partner)
  if (z === null) throw new Error(NOTHING)
  const { firstDepth: first } = useBench.getState()
  if (pointing === 'depth-range' && first === null) {
    set({ firstDepth: z })
    return
  }
  set({ pointing: null, firstDepth: null })
  if (pointing === 'depth-range' && first !== null) put(s, 'Set focus', { focus: Math.min(first, z), sharp: Math.abs(z - first) })
  else put(s, depthFor === 'focus' ? 'Set focus' : 'Set a depth', { [depthFor]: z })
}

/** Places the chosen lamp of the chosen relight by what was clicked. */
async function placeLamp(s: Scene, [x, y]: Point, label: string, how: PutLamp) {
  if (!s.step || !('lamps' in s.step.does)) return
  const { lamps } = s.step.does
  const lamp = Math.min(useBench.getState().lamp, lamps.length - 1)
  const placed = await api.place({ shot: draftNow(s.shot, s.frame), element: s.element.id, step: s.step.id, lamp, frame: s.frame, x, y, how })
  useBench.getState().set({ pointing: null })
  put({ ...s, extract: null }, label, { lamps: lamps.with(lamp, placed.lamp) })
}

/** The step with the chosen part of its matte changed. */
function putPart(s: Scene, label: string, by: PartKind) {
  const edited = editedLimit(s.element, s.step)
  if (!edited) return
  const place = Math.min(useBench.getState().part, edited.limit.parts.length - 1)
  s.shot.commit(label, edited.put(s.shot.doc, withPart(edited.limit, place, (p) => ({ ...p, by }))))
}

const NO_OBJECT = 'There is no object at that pixel; click on one.'

/** The object at a pixel, by the number that each pass of IDs has for it. */
async function objectAt(s: Scene, [x, y]: Point) {
  const probe = await api.probe(s.shot.id, s.shot.state.revision, s.element.id, s.frame, x, y)
  const of = (role: Role) => probe.passes.find((p) => p.role === role)?.canonical ?? []
  return { id: of('object_id')[0] ?? null, hash: mostCovering(of('hashed_id')) }
}

/** The name that the file has for a hashed ID. */
async function nameOf(s: Scene, hash: number): Promise<string> {
  const facts = await api.facts(s.shot.id, s.shot.state.revision, s.element.id, s.frame)
  return facts.flatMap((f) => f.names).find(([n]) => n === hash)?.[1] ?? ''
}

/** Chooses the finish of the object that was clicked; one that has none gets one of its own, as the rest is. */
async function finish(s: Scene, at: Point) {
  if (!s.step || !('finishes' in s.step.does)) return
  const { finishes, diffuse, specular, roughness, metalness } = s.step.does
  const { id, hash } = await objectAt(s, at)
  if (!id && hash === null) throw new Error(NO_OBJECT)
  const set = useBench.getState().set
  const own = finishes.find((f) => (id !== null && f.objects.includes(id)) || (hash !== null && f.hashed.includes(hash)))
  set({ pointing: null })
  if (own) { set({ item: own.id }); return; }
  const name = (hash !== null && (await nameOf(s, hash))) || `Object ${id ?? hash}`
  const fresh: Finish = { id: freeId(finishes), name, objects: hash === null && id ? [id] : [], hashed: hash === null ? [] : [hash], diffuse, specular, roughness, metalness, colour_from: 'albedo', colour: [0.8, 0.8, 0.8] }
  set({ item: fresh.id })
  put({ ...s, extract: null }, 'Give an object a finish', { finishes: [...finishes, fresh] })
}

async function object(s: Scene, at: Point) {
  const by = chosenPart(s.element, s.step, useBench.getState().part)?.by
  if (by?.kind === 'objects') {
    const { id } = await objectAt(s, at)
    if (!id) throw new Error(NO_OBJECT)
    putPart(s, 'Set objects', { kind: 'objects', ids: by.ids.includes(id) ? by.ids.filter((i) => i !== id) : [...by.ids, id] })
  } else if (by?.kind === 'hashed') {
    const { hash: id } = await objectAt(s, at)
    if (id === null) throw new Error(NO_OBJECT)
    const name = await nameOf(s, id)
    const ids: HashedName[] = by.ids.some((h) => h.id === id) ? by.ids.filter((h) => h.id !== id) : [...by.ids, { id, name }]
    putPart(s, 'Set objects', { kind: 'hashed', ids })
  }
}

function corner(s: Scene, [x, y]: Point) {
  const by = chosenPart(s.element, s.step, useBench.getState().part)?.by
  if (by?.kind === 'polygon') putPart(s, 'Add a corner', { ...by, corners: [...by.corners, [x + 0.5, y + 0.5]] })
}

/** A stroke over a pane. */
export function stroke(s: Scene, points: Point[]) {
  const { brush } = useBench.getState()
  const by = chosenPart(s.element, s.step, useBench.getState().part)?.by
  if (by?.kind === 'brush') {
    const { size, softness, flow, erases } = brush
    putPart(s, erases ? 'Erase' : 'Paint', { kind: 'brush', strokes: [...by.strokes, { id: 0, size, softness, flow, erases, points }] })
  }
}

/** A point of the chosen line, or of a new one. */
function linePoint(s: Scene, at: Point) {
  if (!s.step || !('lines' in s.step.does)) return
  const { item, set } = useBench.getState()
  const { lines } = s.step.does
  const point: Point = [at[0] + 0.5, at[1] + 0.5]
  if (lines.some((l) => l.id === item)) {
    put(s, 'Draw a line', { lines: lines.map((l) => (l.id === item ? { ...l, points: [...l.points, point] } : l)) })
    return
  }
  const id = freeId(lines)
  set({ item: id })
  put(s, 'Draw a line', { lines: [...lines, { id, points: [point] }] })
}

/** A click in a pane while something is pointed at. */
export async function point(s: Scene, at: Point) {
  const { pointing, depthFor, set } = useBench.getState()
  try {
    if (pointing === 'travel') await travel(s, at)
    else if (pointing === 'depth' || pointing === 'depth-range') await depth(s, at)
    else if (pointing === 'highlight') await placeLamp(s, at, 'Place the highlight', { kind: 'highlight' })
    else if (pointing === 'lamp-surface') await placeLamp(s, at, 'Place the lamp above a surface', { kind: 'surface', lift: useBench.getState().lift })
    else if (pointing === 'lamp-aim') await placeLamp(s, at, 'Aim the lamp', { kind: 'aim' })
    else if (pointing === 'object') await object(s, at)
    else if (pointing === 'finish') await finish(s, at)
    else if (pointing === 'corner') corner(s, at)
    else if (pointing === 'lens-line') linePoint(s, at)
    else if (pointing === 'place') {
      set({ pointing: null })
      put(s, 'Set a place', { [depthFor]: [at[0] + 0.5, at[1] + 0.5] })
    }
  } catch (e) {
    set({ trouble: e instanceof Error ? e.message : 'Something went wrong; try again.' })
  }
}
