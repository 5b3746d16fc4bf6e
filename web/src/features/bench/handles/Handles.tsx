import { useQuery } from '@tanstack/react-query'
import { extractsQuery, kindsQuery } from '../../../api/queries'
import type { ObjectSchema } from '../../../api/schema'
import type { LimitBy, Shot, Window } from '../../../api/types'
import { withPart } from '../../deck/matte/parts'
import type { Placement } from '../geometry'
import { chosenPart, editedLimit } from '../limits'
import { stroke, type Scene } from '../pointing'
import { useBenchOf } from '../store'
import { useLive, withElement, withExtract, withStep } from '../useShot'
import { handlesOf, type Over } from './byMeaning'
import { MatteHandles } from './MatteHandles'
import { PaintLayer } from './PaintLayer'

interface Props {
  scene: Scene
  placement: Placement
  frame: Window
  over: Over
}

/** What has parameters and is chosen: a step, an extracted pass, or where the element is put. */
interface Chosen {
  schema: ObjectSchema
  values: Record<string, unknown>
  with: (doc: Shot, values: Record<string, unknown>) => Shot
}

/** Parts of a matte that have handles of their own. */
const DRAWN = new Set<LimitBy['kind']>(['ellipse', 'polygon', 'gradient', 'brush'])

/** What is chosen, with the value that moves. */
function useChosen(scene: Scene): Chosen | null {
  const kinds = useQuery(kindsQuery).data
  const extracts = useQuery(extractsQuery).data
  const { element, step, extract } = scene
  if (extract) {
    const info = extracts?.find((k) => k.kind === extract.does.kind)
    return info ? { schema: info.schema, values: extract.does, with: (doc, values) => withExtract(doc, element.id, extract.id, (e) => ({ ...e, does: { ...e.does, ...values } })) } : null
  }
  if (step) {
    const info = kinds?.find((k) => k.kind === step.does.kind)
    return info ? { schema: info.schema, values: step.does, with: (doc, values) => withStep(doc, element.id, step.id, (s) => ({ ...s, does: { ...s.does, ...values } })) } : null
  }
  const place = element.placement
  const info = kinds?.find((k) => k.kind === 'place')
  return place && info ? { schema: info.schema, values: { ...place }, with: (doc, values) => withElement(doc, element.id, (e) => (e.placement ? { ...e, placement: { ...e.placement, ...values } } : e)) } : null
}

/** What lies over a pane for what is chosen: handles, and the brush. */
export function Handles({ scene: kept, placement, frame, over }: Props) {
  const live = useLive(kept.shot)
  const elementNow = live.doc.elements.find((e) => e.id === kept.element.id) ?? kept.element
  const scene: Scene = {
    ...kept,
    shot: live,
    element: elementNow,
    step: elementNow.steps.find((s) => s.id === kept.step?.id) ?? null,
    extract: elementNow.extracts?.find((e) => e.id === kept.extract?.id) ?? null,
  }
  const { pointing, part, brush } = useBenchOf('pointing', 'part', 'brush')
  const { shot, element, step } = scene
  const chosen = useChosen(scene)
  const by = chosenPart(element, step, part)
  const painting = pointing === 'paint' && by?.kind === 'brush'
  const changed = (next: LimitBy) => {
    const edited = editedLimit(element, step)
    if (!edited) return shot.doc
    const place = Math.min(part, edited.limit.parts.length - 1)
    return edited.put(shot.doc, withPart(edited.limit, place, (p) => ({ ...p, by: next })))
  }
  const put = (values: Record<string, unknown>, words?: string) => {
    if (!chosen) return
    const doc = chosen.with(shot.doc, values)
    if (words) shot.commit(words, doc)
    else shot.preview(doc)
  }
  // While a matte is drawn its own handles are in the way of no others.
  const quiet = painting || pointing === 'corner' || (by !== null && DRAWN.has(by.kind) && chosen?.schema.properties?.lamps === undefined)
  return (
    <>
      {chosen &&
        !quiet &&
        handlesOf(chosen.schema).map(({ name, label, Handle }) => (
          <Handle key={name} name={name} label={label} values={chosen.values} element={element} step={step} extract={scene.extract} shot={shot} placement={placement} frame={frame} over={over} put={put} />
        ))}
      {by && !painting && <MatteHandles by={by} placement={placement} onMove={(next) => shot.preview(changed(next))} onDrop={(next, label) => shot.commit(label, changed(next))} />}
      {painting && <PaintLayer placement={placement} size={brush.size} erases={brush.erases} onStroke={(points) => stroke(scene, points)} />}
    </>
  )
}
