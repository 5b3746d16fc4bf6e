import { useEffect, useLayoutEffect, useMemo, useRef, useState, type ReactNode } from 'react'
import { draftOf } from '../../api/edits'
import type { Against, DisplayTable, Draft, Target, View, Window } from '../../api/types'
import { halvings, placement, toPane, toPicture, visible, type Placement, type Point } from './geometry'
import { useBench, useBenchOf, useShownFrame } from './store'
import { useSteady } from '../tracks/tracks'
import { useEdited } from './edited'
import { usePace } from './pace'
import { usePicture, type Picture, type Wanted } from './usePicture'
import type { ShotOnBench } from './useShot'

interface Props {
  name: string
  label: string
  shot: ShotOnBench
  target: Target
  view: View
  /** Whether a value that moves shows in this pane. */
  live: boolean
  /** What the picture covers beyond the frame; shown, with the frame and its own edge drawn. */
  beyond?: Window | null | undefined
  /** Only right of this share of the width, for the wipe. */
  clip?: number | undefined
  /** Only in a round spot under the crosshair; the pointer goes through to the pane below. */
  spot?: boolean | undefined
  /** Show how far it is from another picture. */
  against?: Against | undefined
  /** A matte that is laid over it as a tint. */
  tint?: Target | null | undefined
  /** A colour table in the place of the view transform. */
  grade?: DisplayTable | null | undefined
  onPoint?: ((at: Point) => void) | undefined
  children?: ((p: Placement) => ReactNode) | undefined
}

/** Pane px of an element, kept current. */
export function useSize(ref: React.RefObject<HTMLElement | null>): Point {
  const [size, setSize] = useState<Point>([0, 0])
  useLayoutEffect(() => {
    const box = ref.current
    if (!box) return
    const watch = new ResizeObserver(() => setSize([box.clientWidth, box.clientHeight]))
    watch.observe(box)
    return () => watch.disconnect()
  }, [ref])
  return size
}

/** Draws a picture where it lies in a pane. */
export function draw(canvas: HTMLCanvasElement, size: Point, ratio: number, p: Placement, picture: Picture | null) {
  const context = canvas.getContext('2d')
  const [width, height] = [Math.round(size[0] * ratio), Math.round(size[1] * ratio)]
  // A picture that made room for others in the memory has no px any more; what is seen of it stays.
  if (picture?.bitmap.width === 0 && canvas.width === width && canvas.height === height) return
  // Setting the size costs more than wiping, and frames play.
  if (canvas.width !== width) canvas.width = width
  if (canvas.height !== height) canvas.height = height
  context?.setTransform(1, 0, 0, 1, 0, 0)
  context?.clearRect(0, 0, width, height)
  if (!context || !picture || picture.bitmap.width === 0) return
  const step = 2 ** picture.scale
  const { window: w, bitmap } = picture
  const [left, top] = toPane(p, [w.x * step, w.y * step])
  context.scale(ratio, ratio)
  // Close up, pixels are shown as they are; those of a coarser picture are not the picture's own.
  context.imageSmoothingEnabled = p.zoom < 2
  context.imageSmoothingQuality = 'high'
  context.drawImage(bitmap, left, top, w.width * step * p.zoom, w.height * step * p.zoom)
}

/** Radius of the spot, CSS px. */
const SPOT = 90

function clipped(clip: number | undefined, spot: boolean | undefined, at: Point | null, p: Placement): React.CSSProperties | undefined {
  if (spot && at) {
    const [x, y] = toPane(p, [at[0] + 0.5, at[1] + 0.5])
    return { clipPath: `circle(${SPOT}px at ${x}px ${y}px)`, pointerEvents: 'none' }
  }
  return clip === undefined ? undefined : { clipPath: `inset(0 0 0 ${clip * 100}%)` }
}

/** One of the yoked panes: all panes share pan, zoom and crosshair. */
export function Pane({ name, label, shot, target, view, live, clip, spot, against, grade, tint, beyond, onPoint, children }: Props) {
  const box = useRef<HTMLDivElement>(null)
  const canvas = useRef<HTMLCanvasElement>(null)
  const pan = useRef<{ at: Point; centre: Point; moved: boolean } | null>(null)
  const size = useSize(box)
  const { zoom, centre, pointing, coarser, set } = useBenchOf('zoom', 'centre', 'pointing', 'coarser', 'set')
  const draft = useEdited((e) => e.draft)
  const playing = useBench((b) => b.playing !== 0)
  const spotAt = useBench((b) => (spot ? b.crosshair : null))
  const frame = shot.doc.display
  const number = useShownFrame(shot.doc)
  const p = placement(size, frame, zoom, centre)
  const steady = useSteady(shot)
  // Where places of the picture are seen: what stands still is moved.
  const seenAt: Placement = steady ? { ...p, plane: steady.plane } : p
  const ratio = window.devicePixelRatio
  // What is on its way to be kept rests; a value that moves meanwhile does not.
  const moving = live && draft !== null && draft !== shot.doc
  const edited = useMemo(() => (live && draft ? draftOf(shot.id, shot.state.revision, shot.state.shot, draft, number) : null), [live, draft, shot.id, shot.state, number])
  const wanted = (coarser: number, frame: number, draft: Draft | null): Wanted | null => {
    const scale = Math.min(6, halvings(p.zoom, ratio) + coarser)
    const part = size[0] > 0 ? visible(p, size, beyond ?? shot.doc.display, scale) : null
    const how = { ...(against ? { against } : {}), ...(grade ? { grade } : {}), ...(tint ? { tint } : {}), ...(steady ? { steady: steady.held } : {}) }
    return part && { id: shot.id, revision: shot.state.revision, draft, look: { target, scale, view, window: part, frame, ...how } }
  }
  const frames = shot.doc.frames !== undefined && !spot
  const pace = usePace(name, halvings(p.zoom, ratio), moving)
  const { picture, settled, meanwhile } = usePicture(name, wanted(playing ? coarser : moving ? pace.coarser : 0, number, edited), frames, pace.took)
  const says = meanwhile === null || playing ? label : `${label} · frame ${meanwhile} until ${number} is there`

  // What this pane shows of any frame, for those that are worked out before they are seen.
  const first = shot.doc.frames?.first ?? 0
  const ways = frames ? [0, 1, 2].map((coarser) => wanted(coarser, first, null)) : []
  const told = ways.every((w) => w !== null) ? JSON.stringify(ways) : '[]'
  useEffect(() => {
    const { looks, set } = useBench.getState()
    set({ looks: { ...looks, [name]: JSON.parse(told) as Wanted[] } })
    return () => {
      set({ looks: { ...useBench.getState().looks, [name]: undefined } })
    }
  }, [name, told])

  const seen = name === 'picture' && settled ? number : null
  useEffect(() => {
    if (seen !== null) useBench.getState().set({ seen })
  }, [seen])

  const [left, top] = toPane(p, [0, 0])
  useLayoutEffect(() => {
    if (canvas.current) draw(canvas.current, size, ratio, placement(size, frame, zoom, centre), picture)
    // Where the picture lies says all of its placement.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [size, ratio, p.zoom, left, top, picture])

  useEffect(() => {
    const element = box.current
    if (!element) return
    // React's wheel listener is passive and could not keep the page from moving.
    const wheel = (e: WheelEvent) => {
      e.preventDefault()
      const bounds = element.getBoundingClientRect()
      const b = useBench.getState()
      const now = placement([bounds.width, bounds.height], frame, b.zoom, b.centre)
      const at: Point = [e.clientX - bounds.left, e.clientY - bounds.top]
      const [x, y] = toPicture(now, at)
      const k = Math.min(32, Math.max(0.03, now.zoom * 2 ** (-e.deltaY / 240)))
      b.set({ zoom: k, centre: [x - (at[0] - bounds.width / 2) / k, y - (at[1] - bounds.height / 2) / k] })
    }
    element.addEventListener('wheel', wheel, { passive: false })
    return () => element.removeEventListener('wheel', wheel)
  }, [frame])

  const at = (e: React.PointerEvent): Point => {
    const bounds = e.currentTarget.getBoundingClientRect()
    return [e.clientX - bounds.left, e.clientY - bounds.top]
  }
  const middle = (): Point => toPicture(p, [size[0] / 2, size[1] / 2])

  return (
    <div
      ref={box}
      data-pane={name}
      data-ready={picture && settled ? `${picture.scale}` : ''}
      className={`absolute inset-0 touch-none overflow-hidden bg-pane ${pointing && onPoint ? 'cursor-crosshair' : ''}`}
      style={clipped(clip, spot, spotAt, seenAt)}
      onPointerDown={(e) => {
        if (e.button > 1) return
        e.currentTarget.setPointerCapture(e.pointerId)
        pan.current = { at: at(e), centre: middle(), moved: false }
      }}
      onPointerMove={(e) => {
        const here = at(e)
        const [x, y] = toPicture(seenAt, here)
        const drag = pan.current
        if (drag && Math.hypot(here[0] - drag.at[0], here[1] - drag.at[1]) > 3) drag.moved = true
        const moved = drag?.moved
          ? { zoom: p.zoom, centre: [drag.centre[0] - (here[0] - drag.at[0]) / p.zoom, drag.centre[1] - (here[1] - drag.at[1]) / p.zoom] as Point }
          : {}
        set({ crosshair: [Math.floor(x), Math.floor(y)], ...moved })
      }}
      onPointerUp={(e) => {
        const drag = pan.current
        pan.current = null
        if (drag && !drag.moved && e.button === 0 && onPoint) {
          const [x, y] = toPicture(seenAt, at(e))
          onPoint([Math.floor(x), Math.floor(y)])
        }
      }}
      onPointerLeave={() => set({ crosshair: null })}
    >
      <canvas ref={canvas} className="absolute top-0 left-0" style={{ width: size[0], height: size[1] }} />
      {beyond && <Overscan p={p} frame={frame} covers={beyond} />}
      {!spot && <Crosshair p={seenAt} />}
      <span className="pointer-events-none absolute top-2 left-2 rounded-tile bg-black/65 px-1.5 py-0.5 text-[11px] text-neutral-200" style={clip === undefined ? undefined : { left: `calc(${clip * 100}% + 8px)` }}>
        {says}
      </span>
      {!playing && children?.(seenAt)}
    </div>
  )
}

/** The frame in a picture that reaches beyond it, and the edge of what there is. */
function Overscan({ p, frame, covers }: { p: Placement; frame: Window; covers: Window }) {
  const box = ({ x, y, width, height }: Window) => {
    const [left, top] = toPane(p, [x, y])
    return { x: left, y: top, width: width * p.zoom, height: height * p.zoom }
  }
  // What a filter spreads past the edge is no overscan.
  const beyond = Math.max(frame.x - covers.x, frame.y - covers.y, covers.x + covers.width - frame.x - frame.width, covers.y + covers.height - frame.y - frame.height)
  if (beyond <= 6) return null
  return (
    <svg className="pointer-events-none absolute inset-0 size-full overflow-visible" aria-hidden data-overscan={`${covers.width}x${covers.height}`}>
      <rect {...box(frame)} fill="none" stroke="black" strokeOpacity="0.5" strokeWidth="2.5" />
      <rect {...box(frame)} fill="none" stroke="white" strokeOpacity="0.7" />
      <rect {...box(covers)} fill="none" stroke="black" strokeOpacity="0.5" strokeWidth="2.5" />
      <rect {...box(covers)} fill="none" stroke="white" strokeOpacity="0.8" strokeDasharray="6 5" />
    </svg>
  )
}

function Crosshair({ p }: { p: Placement }) {
  const at = useBench((b) => b.crosshair)
  return at && <Cross name="crosshair" at={toPane(p, [at[0] + 0.5, at[1] + 0.5])} />
}

/** A cross at a place, pane px. */
export function Cross({ name, at: [x, y] }: { name: string; at: Point }) {
  const line = 'pointer-events-none absolute bg-white/80 mix-blend-difference'
  return (
    <span data-cross={name}>
      <span className={line} style={{ left: x - 9, top: y, width: 18, height: 1 }} />
      <span className={line} style={{ left: x, top: y - 9, width: 1, height: 18 }} />
    </span>
  )
}
