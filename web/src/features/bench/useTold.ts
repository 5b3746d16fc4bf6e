import { useQuery } from '@tanstack/react-query'
import { elementFrameQuery, toldQuery } from '../../api/queries'
import type { Element, MediaFile, Step, Told, Window } from '../../api/types'
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

const isFile = (value: unknown): value is MediaFile => typeof value === 'object' && value !== null && 'media' in value

/** The frame in which the places of an element and its steps are told: that of the shot, but where it is made of a file that the
    server has. */
export function useElementFrame(shot: ShotOnBench, element: Element): Window {
  const kept = shot.state.shot.elements.find((e) => e.id === element.id)
  const file = Object.values(kept?.made ?? {}).find(isFile)?.media ?? ''
  return useQuery({ ...elementFrameQuery(shot.id, shot.state.revision, element.id, file), enabled: file !== '' }).data ?? shot.doc.display
}
