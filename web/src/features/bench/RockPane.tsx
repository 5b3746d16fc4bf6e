import { useEffect, useRef, useState } from 'react'
import type { Target, View } from '../../api/types'
import { draw, useSize } from './Pane'
import { halvings, placement, visible } from './geometry'
import { useBenchOf, useFrame } from './store'
import { load, type Picture, type Wanted } from './usePicture'
import type { ShotOnBench } from './useShot'

interface Props {
  shot: ShotOnBench
  target: Target
  view: View
}

/** Views from the left end to the right one. */
const VIEWS = 17

/** One way there and back, ms: gentle. */
const PERIOD = 3600

/** The picture rocked as a 3D photo: its views are made once, then played to and fro. Where motion is not wanted, the pointer rocks it. */
export function RockPane({ shot, target, view }: Props) {
  const box = useRef<HTMLDivElement>(null)
  const canvas = useRef<HTMLCanvasElement>(null)
  const size = useSize(box)
  const { zoom, centre, rockBy, grade, set } = useBenchOf('zoom', 'centre', 'rockBy', 'grade', 'set')
  const frame = useFrame(shot.doc)
  const [views, setViews] = useState<Picture[]>([])
  const p = placement(size, shot.doc.display, zoom, centre)
  // What moves needs no more: half of the screen's px, and a quarter of the time.
  const scale = Math.min(6, halvings(p.zoom, window.devicePixelRatio) + 1)
  const part = size[0] > 0 ? visible(p, size, shot.doc.display, scale) : null
  const still = window.matchMedia('(prefers-reduced-motion: reduce)').matches
  const at = useRef(0)
  const wanted: Wanted | null = part && { id: shot.id, revision: shot.state.revision, draft: null, look: { target, scale, view, window: part, frame, ...(grade ? { grade } : {}) } }
  const key = wanted && JSON.stringify([wanted, rockBy])

  useEffect(() => {
    if (key === null) return
    const [base, amount] = JSON.parse(key) as [Wanted, number]
    const stop = new AbortController()
    const run = async () => {
      const made: Picture[] = []
      for (let i = 0; i < VIEWS; i++) {
        const phase = -Math.cos((i / (VIEWS - 1)) * Math.PI)
        const rock = { amount, phase: Math.abs(phase) < 1e-6 ? 0 : phase }
        made.push(await load({ ...base, look: { ...base.look, rock } }, 'rock', stop.signal))
        setViews([...made])
      }
    }
    run().catch((e: unknown) => {
      if (!stop.signal.aborted && e instanceof Error) set({ trouble: e.message })
    })
    return () => stop.abort()
  }, [key, set])

  useEffect(() => {
    let next = 0
    const show = (now: number) => {
      const there = (now % PERIOD) / PERIOD
      const along = still ? at.current : 1 - Math.abs(2 * there - 1)
      const picture = views[Math.min(views.length - 1, Math.round(along * (VIEWS - 1)))]
      if (canvas.current) draw(canvas.current, size, window.devicePixelRatio, p, picture ?? null)
      next = requestAnimationFrame(show)
    }
    next = requestAnimationFrame(show)
    return () => cancelAnimationFrame(next)
  })

  return (
    <div
      ref={box}
      data-pane="rock"
      data-views={views.length}
      className="absolute inset-0 overflow-hidden bg-pane"
      onPointerMove={(e) => {
        const bounds = e.currentTarget.getBoundingClientRect()
        at.current = (e.clientX - bounds.left) / bounds.width
      }}
    >
      <canvas ref={canvas} className="absolute top-0 left-0" style={{ width: size[0], height: size[1] }} />
      <span className="pointer-events-none absolute top-2 left-2 rounded-tile bg-black/65 px-1.5 py-0.5 text-[11px] text-neutral-200">
        {views.length < VIEWS ? `Making view ${views.length + 1} of ${VIEWS}…` : still ? 'Rocked by the pointer' : 'Rocked'}
      </span>
    </div>
  )
}
