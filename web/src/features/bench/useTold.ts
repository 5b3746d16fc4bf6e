import { useQuery } from '@tanstack/react-query'
import { toldQuery } from '../../api/queries'
import type { Element, Step, Told } from '../../api/types'
import { useFrame } from './store'
import type { ShotOnBench } from './useShot'

/** Whether the server knows a step; one on its way there is known by its edit only. */
export const isKept = (shot: ShotOnBench, element: Element | null, step: Step | null): boolean =>
  shot.state.shot.elements.some((e) => e.id === element?.id && e.steps.some((s) => s.id === step?.id))

/** What a step found out, once the server knows it. */
export function useTold(shot: ShotOnBench, element: Element | null, step: Step | null, wanted = true): Told | undefined {
  const frame = useFrame(shot.doc)
  return useQuery({ ...toldQuery(shot.id, shot.state.revision, element?.id ?? 0, step?.id ?? 0, frame), enabled: wanted && isKept(shot, element, step) }).data
}
