import { create } from 'zustand'
import type { Sentence, Shot } from '../../api/types'

/**
 * The document while it is changed. The document as it is kept is among the answers of the server (`shotQuery`), and what is chosen and
 * seen is the screen's (`useBench`): a pointer that moves tells nobody who looks at the document, and the other way round.
 */
interface Edited {
  /** The document while a value moves, or while it is on its way to the server. */
  draft: Shot | null
  /** The document that is on its way to the server. */
  sent: Shot | null
  /** What the steps say of the document while a value moves. */
  said: Sentence[] | null
}

export const AS_KEPT: Edited = { draft: null, sent: null, said: null }

export const useEdited = create<Edited>(() => AS_KEPT)

export const setEdited = (change: Partial<Edited>) => useEdited.setState(change)
