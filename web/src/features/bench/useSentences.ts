import { useEffect, useState } from 'react'
import { api } from '../../api/client'
import type { Sentence } from '../../api/types'
import type { ShotOnBench } from './useShot'

/** How long a value has to stand still for its sentence to be asked for, ms. */
const PAUSE = 60

/** The sentences of the steps, also while a value moves. */
export function useSentences(shot: ShotOnBench): Sentence[] {
  const { doc, state } = shot
  const [moving, setMoving] = useState<{ of: string; said: Sentence[] } | null>(null)
  useEffect(() => {
    if (doc === state.shot) return
    const stop = new AbortController()
    const later = setTimeout(() => {
      api.sentences(doc, stop.signal).then(
        (said) => setMoving({ of: shot.id, said }),
        // A value that cannot be has no sentence; the old one stays until it rests.
        () => undefined,
      )
    }, PAUSE)
    return () => {
      clearTimeout(later)
      stop.abort()
    }
  }, [doc, state.shot, shot.id])
  return doc !== state.shot && moving?.of === shot.id ? moving.said : state.sentences
}
