import { api } from '../../api/client'
import type { PassOf } from './passes'

/** Depth at a full-resolution px, scene units: of the pass that is seen if it is one, else of the last that there is; null where there is none. */
export async function depthAt(shot: string, revision: number, element: number, frame: number, x: number, y: number, seen: PassOf | null = null): Promise<number | null> {
  const probe = await api.probe(shot, revision, element, frame, Math.floor(x), Math.floor(y))
  const depths = probe.passes.filter((p) => p.role === 'depth')
  const own = depths.find((p) => p.pass === seen?.id) ?? depths.findLast((p) => p.canonical[0] !== null)
  return own?.canonical[0] ?? null
}
