import { useQuery } from '@tanstack/react-query'
import type { ReactNode } from 'react'
import { madeQuery } from '../../../api/queries'
import type { Element } from '../../../api/types'
import { usePartInfo, withPart, type Values } from '../../deck/matte/parts'
import { within, type Placement, type Plane } from '../geometry'
import { chosenPart, editedLimit } from '../limits'
import { stroke, type Scene } from '../pointing'
import { useBenchOf } from '../store'
import { useElementFrame } from '../useTold'
import { handlesOf, type Over } from './byMeaning'
import { KeyPath } from './KeyPath'
import { useChosen, useLiveScene } from './chosen'
import { MatteHandles } from './MatteHandles'
import { PaintLayer } from './PaintLayer'
import { TextHandles } from './TextHandles'
import { TrackHandles } from '../../tracks/TrackHandles'
import { usePlane } from '../../tracks/tracks'

/** Places of the parts of a matte. */
const PLACES = ['centre', 'from', 'to']

interface Props {
  scene: Scene
  placement: Placement
  over: Over
}

/** The text of a made element, if it is one, with the name and the word of its parameter. */
function useText(element: Element): { name: string; label: string; text: string } | null {
  const making = useQuery(madeQuery).data
  const { made } = element
  const properties = Object.entries(making?.find((k) => k.kind === made?.kind)?.schema.properties ?? {})
  const [name, property] = properties.find(([, q]) => q['x-meaning'] === 'lines') ?? []
  const text = name && (made as unknown as Record<string, unknown>)[name]
  return name && typeof text === 'string' ? { name, label: property?.['x-label'] ?? name, text } : null
}

/** What lies over a pane for what is chosen: handles, and the brush. */
export function Handles({ scene: kept, placement, over }: Props) {
  const scene = useLiveScene(kept)
  const { pointing, part, brush } = useBenchOf('pointing', 'part', 'brush')
  const { shot, element, step } = scene
  const chosen = useChosen(scene)
  const frame = useElementFrame(kept.shot, element)
  const text = useText(element)
  const own = chosenPart(element, step, part)
  const by = own?.by ?? null
  const partAt = own && own.id !== 0 ? `${editedLimit(element, step)?.at ?? ''}/parts/${own.id}/by` : null
  const of = (track: number | undefined) => (track === undefined ? null : { element: element.id, track })
  const partPlane = usePlane(shot, of(own?.held))
  const ownPlane = usePlane(shot, step || scene.extract ? of(step?.held) : (element.held ?? null))
  const on = (plane: Plane | undefined) => ({ ...placement, plane: within(placement.plane, plane) })
  const partPlaced = on(partPlane)
  const info = usePartInfo(by ?? undefined)
  const track = scene.track && element.tracks?.find((t) => t.id === scene.track?.id)
  const painting = pointing === 'paint' && by !== null && 'strokes' in by
  const changed = (next: Values) => {
    const edited = editedLimit(element, step)
    if (!edited) return shot.doc
    const place = Math.min(part, edited.limit.parts.length - 1)
    return edited.put(shot.doc, withPart(edited.limit, place, (p) => ({ ...p, by: { ...p.by, ...next } })))
  }
  // While a matte is drawn its own handles are in the way of no others.
  const quiet = painting || pointing === 'corner' || (info?.drawn === true && chosen?.schema.properties?.lamps === undefined)
  if (track) return over === 'picture' ? <TrackHandles shot={shot} element={element} track={track} placement={placement} /> : null
  const pinned = (plane: unknown, children: ReactNode) => (plane ? <div className="contents" data-pinned>{children}</div> : children)
  return (
    <>
      {chosen &&
        !quiet &&
        pinned(
          ownPlane,
          handlesOf(chosen.schema).map(({ name, label, Handle }) => (
            <Handle key={name} name={name} label={label} values={chosen.values} element={element} step={step} extract={scene.extract} shot={shot} placement={on(ownPlane)} frame={frame} over={over} put={chosen.put} />
          )),
        )}
      {text && over === 'picture' && !step && !scene.extract && <TextHandles {...text} shot={shot} element={element} placement={placement} />}
      {by && !painting && partAt && pinned(partPlane, PLACES.filter((name) => name in by).map((name) => <KeyPath key={name} shot={shot} at={`${partAt}/${name}`} placement={partPlaced} />))}
      {by && !painting && pinned(partPlane, info && <MatteHandles info={info} values={by} placement={partPlaced} onMove={(next) => shot.preview(changed(next))} onDrop={(next, label) => shot.commit(label, changed(next))} />)}
      {painting && <PaintLayer placement={partPlaced} size={brush.size} erases={brush.erases} onStroke={(points) => stroke(scene, points)} />}
    </>
  )
}
