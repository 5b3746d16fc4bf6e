import { useState, type DragEvent } from 'react'
import { api } from '../../api/client'
import type { ShotOnBench } from '../bench/useShot'

/** What a dragged pass is called among the things that can be dropped on a page. */
const KIND = 'application/x-jugata-pass'

/** What makes a row of a pass draggable. */
export function dragged(element: number, pass: number) {
  return {
    draggable: true,
    onDragStart: (e: DragEvent) => {
      e.dataTransfer.setData(KIND, `${element} ${pass}`)
      e.dataTransfer.effectAllowed = 'move'
    },
  }
}

/** What makes an element take passes that are dragged to it, with their sequences. */
export function useTaking(shot: ShotOnBench, element: number) {
  const [over, setOver] = useState(false)
  const carries = (e: DragEvent) => e.dataTransfer.types.includes(KIND)
  return {
    over,
    taking: {
      onDragOver: (e: DragEvent) => {
        if (!carries(e)) return
        e.preventDefault()
        setOver(true)
      },
      onDragLeave: (e: DragEvent) => {
        if (!e.currentTarget.contains(e.relatedTarget as Node | null)) setOver(false)
      },
      onDrop: (e: DragEvent) => {
        if (!carries(e)) return
        e.preventDefault()
        e.stopPropagation()
        setOver(false)
        const [from, pass] = e.dataTransfer.getData(KIND).split(' ').map(Number)
        if (from !== undefined && pass !== undefined && from !== element) shot.change((base) => api.movePasses(shot.id, { base, from, passes: [pass], to: element }))
      },
    },
  }
}
