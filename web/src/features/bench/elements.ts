import { createContext, useContext } from 'react'
import type { Element, NamedMatte, Window } from '../../api/types'
import type { PassOf } from './passes'

/** The other elements of the shot, for controls that name them. */
export const Others = createContext<Element[]>([])

/** The passes of the element in hand, for controls that name one. */
export const Passes = createContext<PassOf[]>([])

/** A step of the element in hand, for controls that name one. */
export interface StepName {
  id: number
  name: string
  kind: string
}

/** The frame that is worked on, for what is put into its middle. */
export const FrameOf = createContext<Window>({ x: 0, y: 0, width: 1920, height: 1080 })

export const useFrameOf = (): Window => useContext(FrameOf)

/** The named mattes of the element in hand. */
export const OwnMattes = createContext<NamedMatte[]>([])

export const useOwnMattes = (): NamedMatte[] => useContext(OwnMattes)

/** Whether the camera of the element in hand may go: its frames are files of their own, and it is known where it stands. */
export const CameraGoes = createContext(false)

export const mayGo = (element: Element | null): boolean => element?.camera?.world !== undefined && (element.sequences ?? []).length > 0

export const StepNames = createContext<StepName[]>([])

export const useSteps = (): StepName[] => useContext(StepNames)

export const usePasses = (): PassOf[] => useContext(Passes)

export const useElements = (): Element[] => useContext(Others)
