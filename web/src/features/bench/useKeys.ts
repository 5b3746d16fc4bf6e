import { useEffect } from 'react'
import type { Element } from '../../api/types'
import { mark, toggle } from '../time/playing/player'
import { PARTS, useRoom } from './room'
import { useBench } from './store'
import type { ShotOnBench } from './useShot'

/** Whether a key belongs to what has the focus: a field, or a list that finds its entries by their letters. */
const typing = (target: EventTarget | null) =>
  target instanceof HTMLInputElement || target instanceof HTMLTextAreaElement || (target instanceof HTMLElement && target.closest('[role=combobox], [role=listbox]') !== null)

/** Whether undo belongs to what has the focus: a field in which something is being typed. */
const undoesItself = (target: EventTarget | null) => (target instanceof HTMLInputElement || target instanceof HTMLTextAreaElement) && target.dataset.atRest === undefined

/** The keys of the bench. */
export function useKeys(shot: ShotOnBench | null, element: Element | null, help: (open: boolean) => void) {
  useEffect(() => {
    const { set } = useBench.getState()
    const neighbour = (by: number) => {
      const steps = element?.steps ?? []
      const at = steps.findIndex((s) => s.id === useBench.getState().step)
      const next = steps[at + by]
      if (next) set({ step: next.id, extract: null, part: 0, item: null, pointing: null })
    }
    const plain: Record<string, () => void> = {
      '1': () => set({ seeing: 'pair' }),
      '2': () => set({ seeing: 'single' }),
      '3': () => set({ seeing: 'wipe' }),
      '4': () => set({ seeing: 'spot' }),
      '5': () => set({ seeing: 'difference' }),
      '6': () => set({ seeing: 'rock' }),
      '0': () => set({ zoom: null, centre: null }),
      '9': () => set({ zoom: 1 / window.devicePixelRatio }),
      '[': () => neighbour(-1),
      ']': () => neighbour(1),
      l: () => shot && toggle(shot.doc, 1),
      j: () => shot && toggle(shot.doc, -1),
      i: () => shot && mark(shot.doc, 'first'),
      o: () => shot && mark(shot.doc, 'last'),
      k: () => document.querySelector<HTMLButtonElement>('[data-field]:hover [data-key]')?.click(),
      '?': () => help(true),
      t: () => set({ matteShown: useBench.getState().matteShown === 'tint' ? null : 'tint' }),
      x: () => set({ brush: { ...useBench.getState().brush, erases: !useBench.getState().brush.erases } }),
      b: () => set({ before: true }),
      B: () => set({ before: true }),
      c: () => useRoom.getState().clear(),
      Escape: () => set({ pointing: null }),
    }
    const down = (e: KeyboardEvent) => {
      if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === 'z' && !undoesItself(e.target)) {
        e.preventDefault()
        if (e.shiftKey) {
          if (shot?.state.redo) shot.redo()
        } else if (shot?.state.undo) shot.undo()
        return
      }
      if (e.ctrlKey || e.metaKey || e.altKey || e.repeat || typing(e.target)) return
      plain[e.key]?.()
      const part = PARTS.find((p) => p.key === e.key)
      if (part) useRoom.getState().fold(part.part)
    }
    const up = (e: KeyboardEvent) => {
      if (e.key.toLowerCase() === 'b') set({ before: false })
    }
    const left = () => set({ before: false })
    window.addEventListener('keydown', down)
    window.addEventListener('keyup', up)
    window.addEventListener('blur', left)
    return () => {
      window.removeEventListener('keydown', down)
      window.removeEventListener('keyup', up)
      window.removeEventListener('blur', left)
    }
  }, [shot, element, help])
}
