import { createContext, useContext } from 'react'
import type { Element } from '../../api/types'

/** The other elements of the shot, for controls that name them. */
export const Others = createContext<Element[]>([])

export const useElements = (): Element[] => useContext(Others)
