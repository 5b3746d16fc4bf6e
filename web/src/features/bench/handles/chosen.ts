import { useQuery } from '@tanstack/react-query'
import { extractsQuery, kindsQuery, madeQuery } from '../../../api/queries'
import type { ObjectSchema } from '../../../api/schema'
import type { Shot } from '../../../api/types'
import type { Scene } from '../pointing'
import { useLive, withElement, withExtract, withStep } from '../useShot'

/** What is chosen with the value that moves. */
export function useLiveScene(kept: Scene): Scene {
  const shot = useLive(kept.shot)
  const element = shot.doc.elements.find((e) => e.id === kept.element.id) ?? kept.element
  return {
    ...kept,
    shot,
    element,
    step: element.steps.find((s) => s.id === kept.step?.id) ?? null,
    extract: element.extracts?.find((e) => e.id === kept.extract?.id) ?? null,
  }
}

/** What has parameters and is chosen: a step, an extracted pass, where the element is put, or what it is made of. */
interface Parametric {
  schema: ObjectSchema
  values: Record<string, unknown>
  with: (doc: Shot, values: Record<string, unknown>) => Shot
}

interface Chosen extends Parametric {
  /** Shows other values; keeps them if there are words for it. */
  put: (values: Record<string, unknown>, words?: string) => void
}

function useParametric(scene: Scene): Parametric | null {
  const kinds = useQuery(kindsQuery).data
  const extracts = useQuery(extractsQuery).data
  const making = useQuery(madeQuery).data
  const { element, step, extract } = scene
  if (extract) {
    const info = extracts?.find((k) => k.kind === extract.does.kind)
    return info ? { schema: info.schema, values: extract.does, with: (doc, values) => withExtract(doc, element.id, extract.id, (e) => ({ ...e, does: { ...e.does, ...values } })) } : null
  }
  if (step) {
    const info = kinds?.find((k) => k.kind === step.does.kind)
    return info ? { schema: info.schema, values: step.does, with: (doc, values) => withStep(doc, element.id, step.id, (s) => ({ ...s, does: { ...s.does, ...values } })) } : null
  }
  const { placement: place, made } = element
  // Once it is put somewhere, handles are those of its place: what it is made of lies on a frame of its own.
  if (made && !place) {
    const info = making?.find((k) => k.kind === made.kind)
    return info ? { schema: info.schema, values: { ...made }, with: (doc, values) => withElement(doc, element.id, (e) => (e.made ? { ...e, made: { ...e.made, ...values } } : e)) } : null
  }
  const info = kinds?.find((k) => k.kind === 'place')
  return place && info ? { schema: info.schema, values: { ...place }, with: (doc, values) => withElement(doc, element.id, (e) => (e.placement ? { ...e, placement: { ...e.placement, ...values } } : e)) } : null
}

/** What has parameters and is chosen, with what keeps other values of them. */
export function useChosen(scene: Scene): Chosen | null {
  const found = useParametric(scene)
  return (
    found && {
      ...found,
      put: (values, words) => {
        const doc = found.with(scene.shot.doc, values)
        if (words) scene.shot.commit(words, doc)
        else scene.shot.preview(doc)
      },
    }
  )
}
