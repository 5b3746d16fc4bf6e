import { useEffect, useMemo, useRef, useState } from 'react'
import { api, Failure, GAVE_WAY, TAB } from '../../api/client'
import type { Draft, Look, Window } from '../../api/types'
import { isKeptAt, keep, keptAt, nearest, useKept, wayOf } from '../time/playing/memory'
import { useBench } from './store'

export interface Picture {
  bitmap: ImageBitmap
  window: Window
  scale: number
}

/** What a pane wants to see. */
export interface Wanted {
  id: string
  revision: number
  /** What is not kept yet, or null for the revision. */
  draft: Draft | null
  look: Omit<Look, 'viewer' | 'window'> & { window: Window }
}

/** Pixels up to which a moving value's picture comes as bare bytes: no time goes into packing what is small. */
const BARE = 1 << 20

async function answered(wanted: Wanted, look: Look, signal: AbortSignal): Promise<Response> {
  if (!wanted.draft) return api.saved(wanted.id, wanted.revision, look, signal)
  return api.preview({ shot: wanted.draft, look }, signal)
}

/** Asks for a picture; `name` says what it is by its content. */
export async function load(wanted: Wanted, viewer: string, signal: AbortSignal): Promise<Picture & { name: string | null }> {
  const { width, height } = wanted.look.window
  const raw = wanted.draft !== null && width * height <= BARE
  const answer = await answered(wanted, { ...wanted.look, viewer, ...(raw ? { raw } : {}) }, signal)
  const from = raw ? new ImageData(new Uint8ClampedArray(await answer.arrayBuffer()), width, height) : await answer.blob()
  const bitmap = await createImageBitmap(from, { colorSpaceConversion: 'none' })
  return { bitmap, window: wanted.look.window, scale: wanted.look.scale, name: answer.headers.get('ETag') }
}

/** Names of this tab's panes that have asked for something, for the moment when the tab is left. */
const names = new Set<string>()
window.addEventListener('pagehide', () => {
  if (names.size > 0) navigator.sendBeacon('/api/viewers/leave', new Blob([JSON.stringify([...names])], { type: 'application/json' }))
})

/** Whether a request that is under way is worth waiting for: a coarse one of a value that moved is not, once it rests. */
const outlived = (running: Wanted, next: Wanted) => running.draft !== null && (next.draft === null || next.look.scale < running.look.scale)

/** A picture that is kept for the frame, or meanwhile that of the frame nearest to it. */
function useKeptPicture(way: string | null, frame: number) {
  const there = useKept(() => way !== null && isKeptAt(way, frame))
  const hit = useMemo(() => (way !== null && there ? keptAt(way, frame) : null), [way, frame, there])
  const near = useMemo(() => (way !== null && !there ? nearest(way, frame) : null), [way, frame, there])
  return { hit, near }
}

/**
 * The newest picture of a pane. One request is under way at a time; of those that come meanwhile only the
 * newest is kept, so a drag is answered as fast as the server can and never by an older state. What is seen of a value that
 * moved is given up for the picture at rest, and everything once the pane is gone; the server is told. `settled` says that
 * what is wanted now has been answered, by a picture or by trouble. Pictures of a shot with `frames` are kept: one that is
 * there is shown at once, and until the one of a frame comes that of the nearest frame; `meanwhile` is that frame. How long the picture
 * of a value took that is not kept, and how coarse it was, is told to `took`.
 */
export function usePicture(pane: string, wanted: Wanted | null, frames: boolean, took: (ms: number, scale: number) => void): { picture: Picture | null; settled: boolean; meanwhile: number | null } {
  const [loaded, setLoaded] = useState<Picture | null>(null)
  const [answered, setAnswered] = useState<string | null>(null)
  const key = wanted ? JSON.stringify(wanted) : null
  const next = useRef<string | null>(null)
  const running = useRef<{ wanted: Wanted; abort: AbortController } | null>(null)
  const viewer = `${TAB}-${pane}`
  const { hit, near } = useKeptPicture(frames && wanted && !wanted.draft ? wayOf(wanted) : null, wanted?.look.frame ?? 0)
  const showsKept = useRef(false)

  useEffect(() => {
    names.add(viewer)
    return () => {
      names.delete(viewer)
      next.current = null
      if (!running.current) return
      running.current.abort.abort()
      void api.leave([viewer])
    }
  }, [viewer])

  // What is shown next without being kept stands in for nothing older.
  if (hit && loaded !== hit) setLoaded(hit)
  useEffect(() => {
    showsKept.current = hit !== null
  }, [hit])

  useEffect(() => {
    if (key === null) return
    if (hit) {
      next.current = null
      return
    }
    next.current = key
    if (running.current) {
      // The newer request of the same pane stops the older one on the server as well.
      if (outlived(running.current.wanted, JSON.parse(key) as Wanted)) running.current.abort.abort()
      return
    }
    const run = async () => {
      for (let asked = next.current; asked; asked = next.current) {
        next.current = null
        const now = { wanted: JSON.parse(asked) as Wanted, abort: new AbortController() }
        running.current = now
        const began = performance.now()
        try {
          const { name, ...picture } = await load(now.wanted, viewer, now.abort.signal)
          if (frames && name && !now.wanted.draft) keep(wayOf(now.wanted), now.wanted.look.frame ?? 0, name, picture)
          if (!showsKept.current) setLoaded(picture)
          // Drawing takes its share of the time.
          if (now.wanted.draft) requestAnimationFrame(() => took(performance.now() - began, now.wanted.look.scale))
          if (!useBench.getState().shown) useBench.getState().set({ shown: true })
        } catch (e) {
          if (now.abort.signal.aborted) continue
          if (e instanceof Failure && e.status !== GAVE_WAY) useBench.getState().set({ trouble: e.message })
        }
        setAnswered(asked)
      }
      running.current = null
    }
    void run()
  }, [key, viewer, hit, frames, took])

  const settled = key !== null && (hit !== null || answered === key)
  const standsIn = !settled && near !== null
  return { picture: hit ?? (standsIn ? near.picture : loaded), settled, meanwhile: standsIn ? near.frame : null }
}
