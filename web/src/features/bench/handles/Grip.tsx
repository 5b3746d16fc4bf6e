import { useRef, type ReactNode } from 'react'
import type { Point } from '../geometry'
import { Hint } from '../../../ui/Hint'

interface Props {
  /** Where it is, pane px. */
  at: Point
  label: string
  name: string
  /** Small for corners, large for what matters. */
  size?: 'small' | 'large'
  /** It was taken hold of. */
  onChoose?: (() => void) | undefined
  onMove: (at: Point) => void
  onDrop: (at: Point) => void
  onRemove?: (() => void) | undefined
  children?: ReactNode
}

const ARROWS: Record<string, Point> = { ArrowLeft: [-4, 0], ArrowRight: [4, 0], ArrowUp: [0, -4], ArrowDown: [0, 4] }

/** A handle in the picture: dragged, or moved with the arrow keys. */
export function Grip({ at: [x, y], label, name, size = 'small', onChoose, onMove, onDrop, onRemove, children }: Props) {
  // Where on the handle it is held, and whether it was moved.
  const held = useRef<{ grip: Point; moved: boolean } | null>(null)
  const place = (e: React.PointerEvent): Point => {
    const bounds = (e.currentTarget.closest('[data-pane]') ?? e.currentTarget).getBoundingClientRect()
    const [gx, gy] = held.current?.grip ?? [0, 0]
    return [e.clientX - bounds.left - gx, e.clientY - bounds.top - gy]
  }
  const look = size === 'large' ? 'size-6 border-2' : 'size-3.5 border-[1.5px]'
  return (
    <Hint text={label}>
      <button
        type="button"
        data-handle={name}
        aria-label={`${label}; drag, or use the arrow keys`}
        className={`absolute z-20 -translate-x-1/2 -translate-y-1/2 cursor-grab touch-none rounded-full border-white bg-black/60 shadow-[0_0_0_1.5px_black] active:cursor-grabbing ${look}`}
        style={{ left: x, top: y }}
        onPointerDown={(e) => {
          if (e.button !== 0) return
          e.stopPropagation()
          e.currentTarget.setPointerCapture(e.pointerId)
          held.current = { grip: [0, 0], moved: false }
          const [px, py] = place(e)
          held.current.grip = [px - x, py - y]
          onChoose?.()
        }}
        onPointerMove={(e) => {
          if (!held.current) return
          e.stopPropagation()
          held.current.moved = true
          onMove(place(e))
        }}
        onPointerUp={(e) => {
          if (!held.current) return
          e.stopPropagation()
          const to = place(e)
          const moved = held.current.moved
          held.current = null
          if (moved) onDrop(to)
        }}
        onDoubleClick={(e) => {
          e.stopPropagation()
          onRemove?.()
        }}
        onKeyDown={(e) => {
          const by = ARROWS[e.key]
          if (by) {
            e.preventDefault()
            e.stopPropagation()
            onDrop([x + by[0], y + by[1]])
          } else if ((e.key === 'Delete' || e.key === 'Backspace') && onRemove) {
            e.preventDefault()
            onRemove()
          }
        }}
      >
        {children}
      </button>
    </Hint>
  )
}
