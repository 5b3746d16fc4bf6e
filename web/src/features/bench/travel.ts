import { useBench } from './store'

/** Share of a depth's whole range that is seen at once while travelling through it. */
const SLICE = 0.15

/** The whole range of the depth beside the picture, as far as it is known. */
export const travel: { range: [number, number] | null } = { range: null }

/** Shows the depths around one: nearer ones white, farther ones black. */
export function travelTo(z: number) {
  const { view, set } = useBench.getState()
  if (!travel.range) return
  const half = ((travel.range[1] - travel.range[0]) * SLICE) / 2
  set({ view: { ...view, range: [z - half, z + half] } })
}
