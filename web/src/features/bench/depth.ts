import { api } from '../../api/client'

/** Depth at a full-resolution px, scene units; null where there is none. */
export async function depthAt(shot: string, revision: number, element: number, frame: number, x: number, y: number): Promise<number | null> {
  const probe = await api.probe(shot, revision, element, frame, Math.floor(x), Math.floor(y))
  return probe.passes.find((p) => p.role === 'depth')?.canonical[0] ?? null
}
