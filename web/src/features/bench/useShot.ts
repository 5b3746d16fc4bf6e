import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useCallback, useEffect } from 'react'
import { api, Failure } from '../../api/client'
import { useNews } from '../../api/news'
import { shotQuery } from '../../api/queries'
import type { Element, Extract, Shot, ShotState, Step } from '../../api/types'
import { useBench } from './store'

/** The shot on the bench: as it is kept, as it looks while a value moves, and the ways to change it. */
export interface ShotOnBench {
  id: string
  state: ShotState
  /** With the value that moves, if one does. */
  doc: Shot
  saving: boolean
  /** Shows a change without keeping it. */
  preview: (doc: Shot) => void
  /** Keeps a change. */
  commit: (label: string, doc: Shot) => void
  /** Runs a change that the server makes on a revision. */
  change: (run: (base: number) => Promise<ShotState>) => void
  undo: () => void
  redo: () => void
  reload: () => void
}

/** A change on its way to the server. */
interface Change {
  run: (base: number) => Promise<ShotState>
  /** The document that it shows meanwhile; null where only the server knows. */
  doc: Shot | null
}

export function useShot(id: string): { shot: ShotOnBench | null; error: Error | null } {
  const queries = useQueryClient()
  const query = useQuery(shotQuery(id))
  const draft = useBench((b) => b.draft)
  const set = useBench((b) => b.set)

  // A newer edit is made on what is on the screen: an answer to an older one must not take that away.
  const landed = useCallback(
    (doc: Shot | null) => {
      if (doc === null || useBench.getState().draft === doc) set({ draft: null })
    },
    [set],
  )
  const arrived = useCallback(
    (state: ShotState, { doc }: Change) => {
      queries.setQueryData(shotQuery(id).queryKey, state)
      void queries.invalidateQueries({ queryKey: ['shots'] })
      landed(doc)
    },
    [id, queries, landed],
  )
  const refused = useCallback(
    (e: Error) => {
      set({ draft: null, trouble: e.message })
      if (e instanceof Failure && e.status === 409) void queries.invalidateQueries({ queryKey: shotQuery(id).queryKey })
    },
    [id, queries, set],
  )
  // One after the other: each edit is made on the revision that the one before it gave.
  const change = useMutation({
    scope: { id: `shot-${id}` },
    mutationFn: ({ run }: Change) => {
      const base = queries.getQueryData(shotQuery(id).queryKey)?.revision ?? 0
      return run(base)
    },
    onSuccess: arrived,
    onError: refused,
  })

  const state = query.data
  // What arrived meanwhile is shown once nothing moves: a value under the hand keeps the state it was begun on,
  // and the server carries the files over when it is kept.
  const newest = useNews((n) => n.of[id]?.revision)
  const behind = state !== undefined && newest !== undefined && newest > state.revision
  const quiet = draft === null && !change.isPending
  useEffect(() => {
    if (behind && quiet) void queries.invalidateQueries({ queryKey: shotQuery(id).queryKey })
  }, [behind, quiet, newest, id, queries])
  if (!state) return { shot: null, error: query.error }
  return {
    error: null,
    shot: {
      id,
      state,
      doc: draft ?? state.shot,
      saving: change.isPending,
      preview: (doc) => set({ draft: doc }),
      commit: (label, shot) => {
        set({ draft: shot })
        change.mutate({ run: (base) => api.edit(id, { base, label, shot }), doc: shot })
      },
      change: (run) => change.mutate({ run, doc: null }),
      undo: () => change.mutate({ run: (base) => api.undo(id, base), doc: null }),
      redo: () => change.mutate({ run: (base) => api.redo(id, base), doc: null }),
      reload: () => void queries.invalidateQueries({ queryKey: shotQuery(id).queryKey }),
    },
  }
}

/** The document with one element changed. */
export function withElement(doc: Shot, id: number, change: (e: Element) => Element): Shot {
  return { ...doc, elements: doc.elements.map((e) => (e.id === id ? change(e) : e)) }
}

/** The document with one extracted pass changed. */
export function withExtract(doc: Shot, element: number, id: number, change: (e: Extract) => Extract): Shot {
  return withElement(doc, element, (e) => ({ ...e, extracts: (e.extracts ?? []).map((x) => (x.id === id ? change(x) : x)) }))
}

/** The document with one step changed. */
export function withStep(doc: Shot, element: number, step: number, change: (s: Step) => Step): Shot {
  return withElement(doc, element, (e) => ({ ...e, steps: e.steps.map((s) => (s.id === step ? change(s) : s)) }))
}
