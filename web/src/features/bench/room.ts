import { create } from 'zustand'
import { persist } from 'zustand/middleware'

/** What stands around the panes, each open or folded. */
export type Part = 'tray' | 'steps' | 'deck' | 'rows'

interface Room extends Record<Part, boolean> {
  /** Nothing but the panes and a thin head, whatever else is open. */
  cleared: boolean
  /** CSS px. */
  stepsWide: number
  deckHigh: number
  trayHigh: number
  fold: (part: Part) => void
  clear: () => void
  resize: (size: Partial<Pick<Room, 'stepsWide' | 'deckHigh' | 'trayHigh'>>) => void
}

/** How the bench is laid out on this screen; kept by the browser. */
export const useRoom = create<Room>()(
  persist(
    (set) => ({
      tray: true,
      steps: true,
      deck: true,
      rows: true,
      cleared: false,
      stepsWide: 280,
      deckHigh: 240,
      trayHigh: 77,
      fold: (part) => set((r) => (r.cleared ? { cleared: false, [part]: true } : { [part]: !r[part] })),
      clear: () => set((r) => ({ cleared: !r.cleared })),
      resize: (size) => set(size),
    }),
    { name: 'jugata-room' },
  ),
)

/** Whether a part is seen. */
export const useOpen = (part: Part): boolean => useRoom((r) => r[part] && !r.cleared)

export const PARTS: { part: Part; key: string; name: string }[] = [
  { part: 'tray', key: 'p', name: 'Passes' },
  { part: 'steps', key: 's', name: 'Steps' },
  { part: 'deck', key: 'd', name: 'Deck' },
  { part: 'rows', key: 'r', name: 'Rows around the panes' },
]
