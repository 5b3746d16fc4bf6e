import { toPane, toPicture, type Placement, type Point } from '../geometry'
import { chosenPart, editedLimit } from '../limits'
import { stroke, type Scene } from '../pointing'
import { useBenchOf } from '../store'
import { useLive, withElement, withExtract, withStep } from '../useShot'
import { withPart } from '../../deck/matte/parts'
import { Grip } from './Grip'
import { PlaceHandles } from './PlaceHandles'
import { LampHandles } from './LampHandle'
import { MatteHandles } from './MatteHandles'
import { PaintLayer } from './PaintLayer'
import type { LimitBy, Window } from '../../../api/types'

interface Props {
  scene: Scene
  placement: Placement
  frame: Window
  /** Whether it lies over the picture, and not over a pass. */
  picture?: boolean
}

/** What lies over a pane for the chosen step or extracted pass: handles, and the brush. */
export function Handles({ scene: kept, placement, frame, picture = false }: Props) {
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
  const { shot, element, step, extract } = scene
  const by = chosenPart(element, step, part)
  const painting = (pointing === 'paint' && by?.kind === 'brush') || (pointing === 'paint-depth' && extract?.does.kind === 'paint_depth')
  const changed = (next: LimitBy) => {
    const edited = editedLimit(element, step)
    if (!edited) return shot.doc
    const place = Math.min(part, edited.limit.parts.length - 1)
    return edited.put(shot.doc, withPart(edited.limit, place, (p) => ({ ...p, by: next })))
  }
  return (
    <>
      {step?.does.kind === 'relight' && !painting && pointing !== 'corner' && <LampHandles shot={shot} element={element} step={step.id} lamps={step.does.lamps} placement={placement} frame={frame} />}
      {picture && step?.does.kind === 'place' && !by && (
        <PlaceHandles
          place={step.does}
          frame={frame}
          placement={placement}
          onMove={(place) => shot.preview(withStep(shot.doc, element.id, step.id, (s) => ({ ...s, does: { kind: 'place', ...place } })))}
          onDrop={(place, label) => shot.commit(label, withStep(shot.doc, element.id, step.id, (s) => ({ ...s, does: { kind: 'place', ...place } })))}
        />
      )}
      {picture && !step && !extract && element.placement && (
        <PlaceHandles
          place={element.placement}
          frame={frame}
          placement={placement}
          onMove={(place) => shot.preview(withElement(shot.doc, element.id, (e) => ({ ...e, placement: place })))}
          onDrop={(place, label) => shot.commit(label, withElement(shot.doc, element.id, (e) => ({ ...e, placement: place })))}
        />
      )}
      {by && !painting && <MatteHandles by={by} placement={placement} onMove={(next) => shot.preview(changed(next))} onDrop={(next, label) => shot.commit(label, changed(next))} />}
      {extract?.does.kind === 'plane_depth' && <PlaneHandles scene={scene} placement={placement} near={extract.does.near_at} far={extract.does.far_at} />}
      {painting && <PaintLayer placement={placement} size={brush.size} erases={brush.erases && pointing === 'paint'} onStroke={(points) => stroke(scene, points)} />}
    </>
  )
}

/** The two places of a plane. */
function PlaneHandles({ scene, placement: p, near, far }: { scene: Scene; placement: Placement; near: Point; far: Point }) {
  const { shot, element, extract } = scene
  const moved = (name: 'near_at' | 'far_at', at: Point) => {
    const [x, y] = toPicture(p, at)
    const place: Point = [Math.round(x * 10) / 10, Math.round(y * 10) / 10]
    return withExtract(shot.doc, element.id, extract?.id ?? 0, (e) => (e.does.kind === 'plane_depth' ? { ...e, does: { ...e.does, [name]: place } } : e))
  }
  const grip = (name: 'near_at' | 'far_at', at: Point, label: string) => (
    <Grip at={toPane(p, at)} name={name} label={label} size={name === 'near_at' ? 'large' : 'small'} onMove={(to) => shot.preview(moved(name, to))} onDrop={(to) => shot.commit('Move a place', moved(name, to))} />
  )
  return (
    <>
      {grip('near_at', near, 'The near place')}
      {grip('far_at', far, 'The far place')}
    </>
  )
}
