import type { ComponentType } from 'react'
import type { ObjectSchema } from '../../../api/schema'
import type { Element, Extract, Step, Window } from '../../../api/types'
import type { Placement } from '../geometry'
import type { ShotOnBench } from '../useShot'
import { BlurPointHandles } from './BlurPointHandles'
import { AroundHandle, LightAngleHandle } from './AngleHandles'
import { DepthStrokeHandles } from './DepthStrokeHandles'
import { GridHandles } from './GridHandles'
import { LampHandles } from './LampHandle'
import { LensHandles } from './LensHandles'
import { PlaceHandles } from './PlaceHandles'
import { PointHandle, ShareHandle } from './PointHandle'
import { PushHandles } from './PushHandles'
import { TextureHandles } from './TextureHandles'
import { FlowStrokeHandles, SmearHandles } from './StrokeHandles'

/** What a pane shows, as far as handles go: the picture at the end, the picture before the chosen step, or a pass. */
export type Over = 'picture' | 'before' | 'pass'

/** A parameter as a handle sees it. */
export interface HandleProps {
  name: string
  /** Word for people. */
  label: string
  values: Record<string, unknown>
  element: Element
  /** The step or the extracted pass that it belongs to, if it does. */
  step: Step | null
  extract: Extract | null
  shot: ShotOnBench
  placement: Placement
  frame: Window
  over: Over
  /** Shows other values; keeps them if there are words for it. */
  put: (values: Record<string, unknown>, words?: string) => void
}

/** What lies in the picture for a parameter of a meaning, whatever kind it belongs to. */
const BY_MEANING: Record<string, ComponentType<HandleProps>> = {
  lamps: LampHandles,
  'placed-by': PlaceHandles,
  place: PointHandle,
  'depth-strokes': DepthStrokeHandles,
  'flow-strokes': FlowStrokeHandles,
  'lens-lines': LensHandles,
  pushes: PushHandles,
  smears: SmearHandles,
  'grid-points': GridHandles,
  'uv-place': TextureHandles,
  'blur-points': BlurPointHandles,
  'light-angle': LightAngleHandle,
  'around-turn': AroundHandle,
  'frame-share': ShareHandle,
}

/** The parameters of a kind that have something in the picture. */
export function handlesOf(schema: ObjectSchema): { name: string; label: string; Handle: ComponentType<HandleProps> }[] {
  return Object.entries(schema.properties ?? {}).flatMap(([name, property]) => {
    const Handle = BY_MEANING[property['x-meaning'] ?? '']
    return Handle ? [{ name, label: property['x-label'] ?? name, Handle }] : []
  })
}
