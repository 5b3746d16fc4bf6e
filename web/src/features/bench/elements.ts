import { createContext, useContext } from 'react'
import type { Element } from '../../api/types'
import type { PassOf } from './passes'

/** The other elements of the shot, for controls that name them. */
export const Others = createContext<Element[]>([])

/** The passes of the element in hand, for controls that name one. */
export const Passes = createContext<PassOf[]>([])

export const usePasses = (): PassOf[] => useContext(Passes)

export const useElements = (): Element[] => useContext(Others)
