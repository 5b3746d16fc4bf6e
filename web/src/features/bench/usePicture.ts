import { useEffect, useRef, useState } from 'react'
import { api, Failure } from '../../api/client'
import type { Draft, Look, Window } from '../../api/types'
import { useBench } from './store'

export interface Picture {
  bitmap: ImageBitmap
  window: Window
  scale: number
}

/** Status of an answer that was given up because the pane wanted something newer. */
const STOPPED = 499

/** This tab, so that only its own older requests are cancelled. */
const TAB = Math.random().toString(36).slice(2)

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

async function encoded(wanted: Wanted, look: Look, signal: AbortSignal): Promise<ImageData | Blob> {
  if (!wanted.draft) return api.saved(wanted.id, wanted.revision, look, signal)
  const { width, height } = wanted.look.window
  const raw = width * height <= BARE
  const answer = await api.preview({ shot: wanted.draft, look: { ...look, raw } }, signal)
  return raw ? new ImageData(new Uint8ClampedArray(await answer.arrayBuffer()), width, height) : answer.blob()
}

/** Asks for a picture. */
export async function load(wanted: Wanted, viewer: string, signal: AbortSignal): Promise<Picture> {
  const look: Look = { ...wanted.look, viewer }
  const bitmap = await createImageBitmap(await encoded(wanted, look, signal), { colorSpaceConversion: 'none' })
  return { bitmap, window: wanted.look.window, scale: wanted.look.scale }
}

/** Names of this tab's panes that have asked for something, for the moment when the tab is left. */
const names = new Set<string>()
window.addEventListener('pagehide', () => {
  if (names.size > 0) navigator.sendBeacon('/api/viewers/leave', new Blob([JSON.stringify([...names])], { type: 'application/json' }))
})

/** Whether a request that is under way is worth waiting for: a coarse one of a value that moved is not, once it rests. */
const outlived = (running: Wanted, next: Wanted) => running.draft !== null && (next.draft === null || next.look.scale < running.look.scale)

/**
 * The newest picture of a pane. One request is under way at a time; of those that come meanwhile only the
 * newest is kept, so a drag is answered as fast as the server can and never by an older state. What is seen of a value that
 * moved is given up for the picture at rest, and everything once the pane is gone; the server is told. `settled` says that
 * what is wanted now has been answered, by a picture or by trouble.
 */
export function usePicture(pane: string, wanted: Wanted | null): { picture: Picture | null; settled: boolean } {
  const [picture, setPicture] = useState<Picture | null>(null)
  const [answered, setAnswered] = useState<string | null>(null)
  const key = wanted ? JSON.stringify(wanted) : null
  const next = useRef<string | null>(null)
  const running = useRef<{ wanted: Wanted; abort: AbortController } | null>(null)
  const viewer = `${TAB}-${pane}`

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

  useEffect(() => {
    if (key === null) return
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
        try {
          setPicture(await load(now.wanted, viewer, now.abort.signal))
          if (!useBench.getState().shown) useBench.getState().set({ shown: true })
        } catch (e) {
          if (now.abort.signal.aborted) continue
          if (e instanceof Failure && e.status !== STOPPED) useBench.getState().set({ trouble: e.message })
        }
        setAnswered(asked)
      }
      running.current = null
    }
    void run()
  }, [key, viewer])

  return { picture, settled: key !== null && answered === key }
}
