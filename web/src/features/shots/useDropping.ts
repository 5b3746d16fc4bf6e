import { useState, type DragEvent } from 'react'
import { dropped } from './files'

/** What makes an element take dropped files and folders, and whether something hangs over it. */
export function useDropping(take: (files: File[]) => Promise<void>) {
  const [over, setOver] = useState(false)
  const handlers = {
    onDragOver: (e: DragEvent) => {
      if (!e.dataTransfer.types.includes('Files')) return
      e.preventDefault()
      setOver(true)
    },
    onDragLeave: (e: DragEvent) => {
      if (e.currentTarget === e.target) setOver(false)
    },
    onDrop: (e: DragEvent) => {
      e.preventDefault()
      setOver(false)
      void dropped(e.dataTransfer).then(take)
    },
  }
  return { over, handlers }
}
