import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useCallback, useEffect, useMemo } from 'react'
import { useShallow } from 'zustand/react/shallow'
import { api, Failure } from '../../api/client'
import { between, meantAt } from '../../api/edits'
import { useNews } from '../../api/news'
import { atFrameQuery, shotQuery } from '../../api/queries'
import type { Element, Extract, Sentence, Shot, ShotState, Step } from '../../api/types'
import { seenAt } from '../time/keys'
import { AS_KEPT, setEdited, useEdited } from './edited'
import { frameOf, useBench, within } from './store'

/** A shot as it stands, with the values and sentences of the frame that is seen. */
export interface SeenState extends ShotState {
  sentences: Sentence[]
}

/** The shot on the bench: as it is kept, as it looks while a value moves, and the ways to change it. */
export interface ShotOnBench {
  id: string
  state: SeenState
  /** As it was kept last. A value that moves is not in it: what shows one asks by `useLive` or `useLiveStep`. */
  doc: Shot
  saving: boolean
  /** Shows a change without keeping it. */
  preview: (doc: Shot) => void
  /** Keeps a change. */
  commit: (label: string, doc: Shot) => void
  /** Keeps a change that has to be found out first; what is changed or undone meanwhile waits for it. */
  commitFound: (label: string, find: (doc: Shot) => Promise<Shot>) => void
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
  /** The frame that it was made on. */
  frame?: number
}

export function useShot(id: string): { shot: ShotOnBench | null; error: Error | null } {
  const queries = useQueryClient()
  const query = useQuery(shotQuery(id))
  const sent = useEdited((e) => e.sent)
  const still = useEdited((e) => e.draft === null)
  const set = useBench((b) => b.set)

  // A newer edit is made on what is on the screen: an answer to an older one must not take that away.
  const landed = useCallback(
    (doc: Shot | null) => {
      const now = useEdited.getState()
      if (doc === null || now.draft === doc) setEdited(AS_KEPT)
      else if (now.sent === doc) setEdited({ sent: null })
    },
    [],
  )
  const arrived = useCallback(
    (state: ShotState, { doc, frame }: Change) => {
      if (frame !== undefined) queries.setQueryData(atFrameQuery(id, state.revision, frame).queryKey, state.at_frame)
      queries.setQueryData(shotQuery(id).queryKey, state)
      void queries.invalidateQueries({ queryKey: ['shots'] })
      landed(doc)
    },
    [id, queries, landed],
  )
  const refused = useCallback(
    (e: Error) => {
      setEdited(AS_KEPT)
      set({ trouble: e.message })
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

  const kept = query.data
  const chosen = useBench((b) => (kept ? within(kept.shot, b.frame) : 0))
  const moves = (kept?.shot.drives?.length ?? 0) > 0
  const atFrame = useQuery({ ...atFrameQuery(id, kept?.revision ?? 0, chosen), enabled: moves }).data
  // What moves has the values of the frame; all that looks at the document sees them.
  const state = useMemo<SeenState | undefined>(() => {
    if (!kept) return undefined
    const seen = (moves && atFrame) || kept.at_frame
    return { ...kept, at_frame: seen, shot: moves ? seenAt(kept.shot, seen.driven) : kept.shot, sentences: seen.sentences }
  }, [kept, moves, atFrame])
  // What arrived meanwhile is shown once nothing moves: a value under the hand keeps the state it was begun on,
  // and the server carries the files over when it is kept.
  const newest = useNews((n) => n.of[id]?.revision)
  const behind = state !== undefined && newest !== undefined && newest > state.revision
  const quiet = still && !change.isPending
  useEffect(() => {
    if (behind && quiet) void queries.invalidateQueries({ queryKey: shotQuery(id).queryKey })
  }, [behind, quiet, newest, id, queries])
  const { mutate, isPending: saving } = change
  const shot = useMemo<ShotOnBench | null>(
    () =>
      state === undefined
        ? null
        : {
            id,
            state,
            doc: sent ?? state.shot,
            saving,
            preview: (doc) => setEdited({ draft: doc }),
            commit: (label, shot) => {
              const edits = between(sent ?? state.shot, shot)
              setEdited({ draft: shot, sent: shot })
              const meant = meantAt(state.shot, frameOf(shot))
              mutate({ run: (base) => api.edit(id, { base, label, edits, ...meant }), doc: shot, ...meant })
            },
            commitFound: (label, find) => {
              const run = async (base: number) => {
                const now = queries.getQueryData(shotQuery(id).queryKey)?.shot ?? state.shot
                const edits = between(now, await find(now))
                return api.edit(id, { base, label, edits, ...meantAt(now, frameOf(now)) })
              }
              mutate({ run, doc: null })
            },
            change: (run) => mutate({ run, doc: null }),
            undo: () => mutate({ run: (base) => api.undo(id, base), doc: null }),
            redo: () => mutate({ run: (base) => api.redo(id, base), doc: null }),
            reload: () => void queries.invalidateQueries({ queryKey: shotQuery(id).queryKey }),
          },
    [id, state, sent, saving, mutate, queries],
  )
  return { shot, error: shot ? null : query.error }
}

/** The shot with the value that moves: who asks is drawn anew at each of its moves. */
export function useLive(shot: ShotOnBench): ShotOnBench {
  const draft = useEdited((e) => e.draft)
  return useMemo(() => (draft ? { ...shot, doc: draft } : shot), [draft, shot])
}

/** A step with the value that moves: who asks is drawn anew only when what it picks has changed. */
export function useLiveStep(shot: ShotOnBench, element: Element, step: Step, pick: (step: Step, element: Element) => unknown[]) {
  const now = () => {
    const doc = useEdited.getState().draft ?? shot.doc
    const e = doc.elements.find((e) => e.id === element.id) ?? element
    return { shot: { ...shot, doc }, element: e, step: e.steps.find((s) => s.id === step.id) ?? step }
  }
  useEdited(
    useShallow(() => {
      const { step, element } = now()
      return pick(step, element)
    }),
  )
  return now()
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
