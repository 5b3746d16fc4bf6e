import { create } from 'zustand'
import { api } from '../../../api/client'
import type { FrameRange } from '../../../api/types'
import type { Picture, Wanted } from '../../bench/usePicture'

/** Bytes of pictures that are kept for playing. */
const MOST = 512 << 20

/** Ways of looking whose names are remembered. */
const LOOKS = 24

/** Frames whose names are asked for at once. */
const CHUNK = 128

interface Kept {
  /** Pictures by their content, so that a change that is taken back has its pictures at once. */
  pictures: Map<string, Picture>
  bytes: number
}

const kept: Kept = { pictures: new Map(), bytes: 0 }

/** For each way of looking, what the picture of each frame is called; null if there is none. */
const names = new Map<string, Map<number, string | null>>()

/** Counts what has come and gone, so that who shows what is kept is drawn anew. */
export const useKept = create<{ changes: number }>(() => ({ changes: 0 }))

const told = () => useKept.setState(({ changes }) => ({ changes: changes + 1 }))

/** A way of looking at any frame of a revision. */
export function wayOf({ id, revision, look }: Wanted): string {
  return JSON.stringify([id, revision, { ...look, frame: 0 }])
}

function namesOf(way: string): Map<number, string | null> {
  const known = names.get(way) ?? new Map<number, string | null>()
  names.delete(way)
  names.set(way, known)
  for (const old of names.keys()) {
    if (names.size <= LOOKS) break
    names.delete(old)
  }
  return known
}

export const sizeOf = ({ window: w }: Pick<Picture, 'window'>) => 4 * w.width * w.height

/** How many pictures of this size are kept at most. */
export const room = (bytes: number) => Math.max(1, Math.floor(MOST / Math.max(1, bytes)))

/** The picture of a frame, if it is kept. */
export function keptAt(way: string, frame: number): Picture | null {
  const name = names.get(way)?.get(frame)
  const picture = name ? kept.pictures.get(name) : undefined
  if (!name || !picture) return null
  // What was seen last goes last.
  kept.pictures.delete(name)
  kept.pictures.set(name, picture)
  return picture
}

/** Whether the picture of a frame is kept. */
export function isKeptAt(way: string, frame: number): boolean {
  const name = names.get(way)?.get(frame)
  return Boolean(name && kept.pictures.has(name))
}

/** Frames whose pictures are kept, in order. */
export function framesKept(way: string): number[] {
  const known = names.get(way)
  return known ? [...known].flatMap(([frame, name]) => (name && kept.pictures.has(name) ? [frame] : [])).toSorted((a, b) => a - b) : []
}

/** The kept picture of the frame that is nearest to one. */
export function nearest(way: string, frame: number): { frame: number; picture: Picture } | null {
  const [first] = framesKept(way).toSorted((a, b) => Math.abs(a - frame) - Math.abs(b - frame))
  const picture = first === undefined ? null : keptAt(way, first)
  return picture && first !== undefined ? { frame: first, picture } : null
}

/** Keeps a picture; those that were seen longest ago make room. */
export function keep(way: string, frame: number, name: string, picture: Picture) {
  namesOf(way).set(frame, name)
  const old = kept.pictures.get(name)
  if (old) kept.bytes -= sizeOf(old)
  kept.pictures.delete(name)
  kept.pictures.set(name, picture)
  kept.bytes += sizeOf(picture)
  for (const [other, gone] of kept.pictures) {
    if (kept.bytes <= MOST || kept.pictures.size <= 2) break
    kept.pictures.delete(other)
    kept.bytes -= sizeOf(gone)
    gone.bitmap.close()
  }
  told()
}

/** Forgets the picture of a frame that cannot be made, so that it is not asked for again and again. */
export function cannot(way: string, frame: number) {
  namesOf(way).set(frame, null)
}

/** Learns what the pictures of a frame and of those around it are called. */
export async function learn(wanted: Wanted, range: FrameRange, frame: number, signal: AbortSignal): Promise<void> {
  const way = wayOf(wanted)
  if (namesOf(way).has(frame)) return
  const from = range.first + Math.floor((frame - range.first) / CHUNK) * CHUNK
  const to = Math.min(range.last, from + CHUNK - 1)
  const all = await api.names(wanted.id, wanted.revision, { look: { ...wanted.look, viewer: null }, from, to }, signal)
  const known = namesOf(way)
  for (const [i, name] of all.entries()) if (!known.has(from + i)) known.set(from + i, name)
  told()
}

/** What a frame's picture is called: nothing if nobody knows, null if there is none. */
export const nameAt = (way: string, frame: number): string | null | undefined => names.get(way)?.get(frame)
