import { useEffect } from 'react'
import { api } from '../../api/client'
import { draftOf } from '../../api/edits'
import type { Sentence } from '../../api/types'
import { setEdited, useEdited } from './edited'
import { frameOf } from './store'
import type { ShotOnBench } from './useShot'

/** How long a value has to stand still for its sentence to be asked for, ms. */
const PAUSE = 60

/** Asks for the sentences of the steps while a value moves. Once for a page. */
export function useAskForSentences(shot: ShotOnBench | null) {
  const kept = shot?.doc
  const [id, state] = [shot?.id, shot?.state]
  useEffect(() => {
    let later = 0
    let stop = new AbortController()
    const ask = (b: { draft: typeof kept | null }, before: { draft: typeof kept | null }) => {
      if (b.draft === before.draft) return
      clearTimeout(later)
      stop.abort()
      const doc = b.draft
      if (!doc || doc === kept || !id || !state) return
      const draft = draftOf(id, state.revision, state.shot, doc, frameOf(state.shot))
      if (!draft) return
      stop = new AbortController()
      later = window.setTimeout(() => {
        api.sentences(draft, stop.signal).then(
          (said) => {
            if (useEdited.getState().draft === doc) setEdited({ said })
          },
          // A value that cannot be has no sentence; the old one stays until it rests.
          () => undefined,
        )
      }, PAUSE)
    }
    const leave = useEdited.subscribe(ask)
    return () => {
      leave()
      clearTimeout(later)
      stop.abort()
    }
  }, [kept, id, state])
}

/** The sentences of the steps, also while a value moves. */
export function useSentences(shot: ShotOnBench): Sentence[] {
  return useEdited((e) => e.said) ?? shot.state.sentences
}
