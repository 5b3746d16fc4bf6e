import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { useCallback, useEffect, useRef, useState } from 'react'
import { api } from '../../api/client'
import { draftNow } from '../../api/edits'
import type { AskLaid, Flat, LaidAt, LaidPlace, Layer } from '../../api/types'
import type { Point } from './geometry'
import { useChosen, useLiveScene } from './handles/chosen'
import { Grip } from './handles/Grip'
import { dragged, KEPT, LABELS, layerOf, liesOf, middleOf, ON_SQUARE, PARTS, uvOf, valuesOf, type Part } from './handles/laid'
import { Cross, useSize } from './Pane'
import type { Scene } from './pointing'
import { useBench, useFrame } from './store'

/** Room around the flat texture, CSS px: its label, and handles on its border. */
const ROOM: Point = [18, 34]

/** Where UV lies in the pane: u to the right, v upward. */
interface Sheet {
  left: number
  top: number
  width: number
  height: number
  low: Point
  high: Point
}

function sheetOf({ low, high }: Flat, [width, height]: Point): Sheet {
  const [u, v] = [high[0] - low[0], high[1] - low[1]]
  const k = Math.max(Math.min((width - 2 * ROOM[0]) / u, (height - 2 * ROOM[1]) / v), 0)
  return { left: (width - u * k) / 2, top: (height - v * k) / 2, width: u * k, height: v * k, low, high }
}

const toSheet = (s: Sheet, [u, v]: Point): Point => [s.left + ((u - s.low[0]) / (s.high[0] - s.low[0])) * s.width, s.top + ((s.high[1] - v) / (s.high[1] - s.low[1])) * s.height]
const toUv = (s: Sheet, [x, y]: Point): Point => [s.low[0] + ((x - s.left) / s.width) * (s.high[0] - s.low[0]), s.high[1] - ((y - s.top) / s.height) * (s.high[1] - s.low[1])]

/** Lines at whole numbers, where a texture begins again. */
function whole(s: Sheet): string {
  const between = (from: number, to: number) => Array.from({ length: Math.max(0, Math.floor(to) - Math.ceil(from) + 1) }, (_, i) => Math.ceil(from) + i)
  const across = between(s.low[0], s.high[0]).map((u) => `M${toSheet(s, [u, s.low[1]]).join(' ')}L${toSheet(s, [u, s.high[1]]).join(' ')}`)
  const down = between(s.low[1], s.high[1]).map((v) => `M${toSheet(s, [s.low[0], v]).join(' ')}L${toSheet(s, [s.high[0], v]).join(' ')}`)
  return [...across, ...down].join('')
}

/** What is asked about, but for the layer. */
type About = Omit<AskLaid, 'layer' | 'at'>

/** Asks for one place after the other: while one is on its way, only the newest waits. */
function useNewest(ask: (at: LaidAt) => Promise<LaidPlace>) {
  const busyRef = useRef(false)
  const nextRef = useRef<(() => Promise<void>) | null>(null)
  return useCallback(
    async (at: LaidAt, then: (found: LaidPlace) => void) => {
      nextRef.current = async () => then(await ask(at))
      if (busyRef.current) return
      busyRef.current = true
      while (nextRef.current) {
        const run = nextRef.current
        nextRef.current = null
        // What cannot be found shows no mark; the picture says why.
        await run().catch(() => undefined)
      }
      busyRef.current = false
    },
    [ask],
  )
}

/** The flat texture beside the picture: where it lies in UV and which of it is seen. Point at one, and see the other. */
export function FlatPane({ scene: kept }: { scene: Scene }) {
  const box = useRef<HTMLDivElement>(null)
  const size = useSize(box)
  const scene = useLiveScene(kept)
  const chosen = useChosen(scene)
  const { shot, element } = scene
  const frame = useFrame(shot.doc)
  const draft = draftNow(shot, frame)
  const layer = layerOf(scene.step, scene.extract)
  const name = middleOf(chosen?.schema)
  const about = JSON.stringify({ shot: draft, element: element.id, frame, placed: true })
  const ask = useCallback((at: LaidAt) => api.laidAt({ ...(JSON.parse(about) as About), layer: layer as Layer, at }), [about, layer])
  const find = useNewest(ask)
  const flat = useQuery({
    queryKey: ['flat', about, layer],
    queryFn: () => (layer ? api.flat({ ...(JSON.parse(about) as About), layer }) : null),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 10_000,
    retry: false,
  })
  const crosshair = useBench((b) => b.crosshair)
  const [pointed, setPointed] = useState<Point | null>(null)
  const [seen, setSeen] = useState<Point | null>(null)
  useEffect(() => {
    if (pointed === null && crosshair) void find({ picture: [crosshair[0] + 0.5, crosshair[1] + 0.5] }, (found) => setSeen(found.uv ?? null))
  }, [crosshair, find, pointed])
  const sheet = flat.data && size[0] > 0 ? sheetOf(flat.data, size) : null
  const mark = pointed ?? (crosshair ? seen : null)
  const lies = chosen && name ? liesOf(name, chosen.values) : null
  const aspect = flat.data?.aspect ?? 1

  const move = (part: Part, to: Point, words?: string) => {
    if (!chosen || !lies || !name || !sheet) return
    chosen.put(valuesOf(name, dragged(part, lies, aspect, toUv(sheet, to))), words)
  }
  const point = (e: React.PointerEvent) => {
    if (!sheet) return
    const bounds = e.currentTarget.getBoundingClientRect()
    const uv = toUv(sheet, [e.clientX - bounds.left, e.clientY - bounds.top])
    setPointed(uv)
    void find({ uv }, ({ at }) => useBench.getState().set({ crosshair: at ? [Math.floor(at[0]), Math.floor(at[1])] : null }))
  }
  const corner = (at: Point) => (sheet && lies ? toSheet(sheet, uvOf(lies, aspect, at)).join(' ') : '')
  const border = sheet && lies ? `M${corner([0, 0])}L${corner([1, 0])}L${corner([1, 1])}L${corner([0, 1])}Z` : ''
  return (
    <div
      ref={box}
      data-pane="flat"
      data-ready={flat.data ? 'yes' : ''}
      className="absolute inset-0 touch-none overflow-hidden bg-pane"
      onPointerMove={point}
      onPointerLeave={() => {
        setPointed(null)
        useBench.getState().set({ crosshair: null })
      }}
    >
      {sheet && flat.data && (
        <>
          <img src={`data:image/png;base64,${flat.data.png}`} alt="The texture as it lies in UV; dark where it is not seen" draggable={false} className="absolute select-none" style={{ left: sheet.left, top: sheet.top, width: sheet.width, height: sheet.height }} />
          <svg className="pointer-events-none absolute inset-0 size-full" aria-hidden>
            <path d={whole(sheet)} stroke="white" strokeOpacity="0.25" fill="none" />
            <path d={border} fill="none" stroke="black" strokeOpacity="0.55" strokeWidth="3" />
            <path d={border} fill="none" stroke="white" strokeOpacity="0.9" strokeDasharray="5 4" />
          </svg>
          {mark && <Cross name="flat" at={toSheet(sheet, mark)} />}
          {lies && PARTS.map((part) => <Grip key={part} at={toSheet(sheet, uvOf(lies, aspect, ON_SQUARE[part]))} name={`flat-${part}`} label={LABELS[part]} size={part === 'middle' ? 'large' : 'small'} onMove={(to) => move(part, to)} onDrop={(to) => move(part, to, KEPT[part])} />)}
        </>
      )}
      <span className="pointer-events-none absolute top-2 left-2 rounded-tile bg-black/65 px-1.5 py-0.5 text-[11px] text-neutral-200">
        {flat.isError ? flat.error.message : mark ? `Flat · u ${mark[0].toFixed(3)}  v ${mark[1].toFixed(3)}` : 'Flat · dark where it is not seen'}
      </span>
    </div>
  )
}
