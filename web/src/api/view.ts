import type { View } from './types'

/** A pass or picture as it is shown if nobody asks for more. */
export const PLAIN: View = { exposure: 0, backdrop: 'grey', range: null, gamma: 1, planes: 'all', transform: 'srgb', showing: 'usual' }
