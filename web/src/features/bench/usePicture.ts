import { useEffect, useRef, useState } from 'react'
import { api } from '../../api/client'
import type { Look, Shot, Window } from '../../api/types'
import { useBench } from './store'

export interface Picture {
  bitmap: ImageBitmap
  window: Window
  scale: number
}

/** This tab, so that only its own older requests are cancelled. */
const TAB = Math.random().toString(36).slice(2)

/** What a pane wants to see. */
export interface Wanted {
  id: string
  revision: number
  /** A document that is not kept yet, or null for the revision. */
  draft: Shot | null
  look: Omit<Look, 'viewer' | 'window'> & { window: Window }
}

/** Asks for a picture. */
export async function load(wanted: Wanted, viewer: string, signal: AbortSignal): Promise<Picture> {
  const look: Look = { ...wanted.look, viewer }
  const blob = wanted.draft
    ? await api.preview({ shot: wanted.draft, look }, signal)
    : await api.saved(wanted.id, wanted.revision, look, signal)
  const bitmap = await createImageBitmap(blob, { colorSpaceConversion: 'none' })
  return { bitmap, window: wanted.look.window, scale: wanted.look.scale }
}

/**
 * The newest picture of a pane. One request is under way at a time; of those that come meanwhile only the
 * newest is kept, so a drag is answered as fast as the server can and never by an older state. `settled` says that what
 * is wanted now has been answered, by a picture or by trouble.
 */
export function usePicture(pane: string, wanted: Wanted | null): { picture: Picture | null; settled: boolean } {
  const [picture, setPicture] = useState<Picture | null>(null)
  const [answered, setAnswered] = useState<string | null>(null)
  const key = wanted ? JSON.stringify(wanted) : null
  const next = useRef<string | null>(null)
  const running = useRef(false)
  const gone = useRef<AbortController | null>(null)

  useEffect(() => {
    gone.current = new AbortController()
    return () => gone.current?.abort()
  }, [])

  useEffect(() => {
    if (key === null) return
    next.current = key
    if (running.current) return
    running.current = true
    const run = async () => {
      for (let asked = next.current; asked; asked = next.current) {
        next.current = null
        const signal = gone.current?.signal
        if (!signal || signal.aborted) break
        try {
          const made = await load(JSON.parse(asked) as Wanted, `${TAB}-${pane}`, signal)
          setPicture(made)
          if (!useBench.getState().shown) useBench.getState().set({ shown: true })
        } catch (e) {
          // Read anew: the page may have closed the pane in the meantime.
          if (gone.current?.signal.aborted) break
          if (e instanceof Error && !e.message.startsWith('stopped')) useBench.getState().set({ trouble: e.message })
        }
        setAnswered(asked)
      }
      running.current = false
    }
    void run()
  }, [key, pane])

  return { picture, settled: key !== null && answered === key }
}
