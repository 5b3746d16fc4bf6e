import { createContext, useContext } from 'react'
import type { Element } from '../../api/types'
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

export const StepNames = createContext<StepName[]>([])

export const useSteps = (): StepName[] => useContext(StepNames)

export const usePasses = (): PassOf[] => useContext(Passes)

export const useElements = (): Element[] => useContext(Others)
