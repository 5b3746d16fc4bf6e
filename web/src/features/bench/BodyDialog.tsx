import { useEffect, useRef, useState } from 'react'
import { api } from '../../api/client'
import { draftNow } from '../../api/edits'
import type { AskShape, Element, Lighting, Shape } from '../../api/types'
import { Choice } from '../../ui/Choice'
import { Modal } from '../../ui/Modal'
import { NumberField } from '../../ui/NumberField'
import type { PassOf } from './passes'
import { useFrame } from './store'
import type { ShotOnBench } from './useShot'

interface Props {
  shot: ShotOnBench
  element: Element
  pass: PassOf
}

const SHAPES: { value: Shape; label: string }[] = [
  { value: 'ball', label: 'Ball' },
  { value: 'torus', label: 'Torus' },
  { value: 'cube', label: 'Cube' },
  { value: 'cone', label: 'Cone' },
  { value: 'cloth', label: 'Cloth' },
]
const LIGHTINGS: { value: Lighting; label: string; hint: string }[] = [
  { value: 'side', label: 'Side', hint: 'One lamp from the upper left' },
  { value: 'above', label: 'Above', hint: 'One lamp from above' },
  { value: 'rims', label: 'Rims', hint: 'From behind on both sides' },
  { value: 'grazing', label: 'Grazing', hint: 'Low from one side: every unevenness shows' },
  { value: 'room', label: 'Room', hint: 'A room with bright panels' },
]

/** A height or a normal map on a simple body. */
export function BodyDialog(props: Props) {
  const [open, setOpen] = useState(false)
  return (
    <>
      <button type="button" className="h-6 rounded-tile border border-line bg-raised px-2 whitespace-nowrap hover:border-dim" data-body onClick={() => setOpen(true)}>
        On a body…
      </button>
      {open && (
        <Modal title={`${props.pass.name} on a body`} open onClose={() => setOpen(false)}>
          <Body {...props} />
        </Modal>
      )}
    </>
  )
}

const SIDE = 400

function Body({ shot, element, pass }: Props) {
  const [shape, setShape] = useState<Shape>('ball')
  const [lighting, setLighting] = useState<Lighting>('side')
  const [turn, setTurn] = useState<[number, number]>([-20, 25])
  const [tiles, setTiles] = useState(1)
  const high = pass.role === 'height'
  const usual = high ? 10 : 1
  const [strength, setStrength] = useState(usual)
  const [roughness, setRoughness] = useState(0.45)
  const frame = useFrame(shot.doc)
  const how = { element: element.id, pass: pass.id, shape, lighting, turn, tiles, strength, roughness }
  const { picture, said } = useShape({ shot: draftNow(shot, frame), frame, how: { ...how, side: SIDE } })
  const held = useRef<[number, number] | null>(null)
  const by = (dx: number, dy: number) => setTurn(([x, y]) => [x + dx * 0.5, Math.max(-90, Math.min(90, y + dy * 0.5))])
  const arrows: Record<string, [number, number]> = { ArrowLeft: [-10, 0], ArrowRight: [10, 0], ArrowUp: [0, -10], ArrowDown: [0, 10] }
  return (
    <div className="flex flex-col items-center gap-3">
      <div
        role="application"
        aria-label="The body; drag to turn it, or use the arrow keys"
        tabIndex={0}
        data-turn={turn.map((v) => v.toFixed(0)).join(',')}
        className="size-[400px] cursor-grab touch-none bg-pane active:cursor-grabbing"
        onPointerDown={(e) => {
          e.currentTarget.setPointerCapture(e.pointerId)
          held.current = [e.clientX, e.clientY]
        }}
        onPointerMove={(e) => {
          if (!held.current) return
          by(e.clientX - held.current[0], e.clientY - held.current[1])
          held.current = [e.clientX, e.clientY]
        }}
        onPointerUp={() => {
          held.current = null
        }}
        onKeyDown={(e) => {
          const arrow = arrows[e.key]
          if (!arrow) return
          e.preventDefault()
          by(...arrow)
        }}
      >
        {picture && <img src={picture} alt={`${pass.name} on a ${shape}`} draggable={false} className="pointer-events-none size-full select-none" />}
      </div>
      {said && <p role="alert" className="text-warn">{said}</p>}
      <Choice label="Body" value={shape} options={SHAPES} onChange={setShape} />
      <Choice label="Lamps" value={lighting} options={LIGHTINGS} onChange={setLighting} />
      <div className="flex flex-wrap justify-center gap-x-5 gap-y-1">
        <NumberField label="Repeats" value={tiles} unit="×" step={0.1} reset={1} slider={[0.2, 8]} min={0.05} max={100} onPreview={setTiles} onCommit={setTiles} />
        <NumberField label="Strength" value={strength} unit={high ? 'px' : '×'} step={high ? 0.1 : 0.01} reset={usual} slider={high ? [-30, 30] : [-3, 3]} onPreview={setStrength} onCommit={setStrength} />
        <NumberField label="Roughness" value={roughness} step={0.01} reset={0.45} slider={[0, 1]} min={0} max={1} onPreview={setRoughness} onCommit={setRoughness} />
      </div>
    </div>
  )
}

/** The newest picture of a body: one request at a time, so that a drag is answered as fast as it can be. */
function useShape(ask: AskShape): { picture: string | null; said: string | null } {
  const [picture, setPicture] = useState<string | null>(null)
  const [said, setSaid] = useState<string | null>(null)
  const next = useRef<AskShape | null>(null)
  const running = useRef(false)
  const key = JSON.stringify(ask)
  useEffect(() => {
    next.current = JSON.parse(key) as AskShape
    if (running.current) return
    running.current = true
    const run = async () => {
      for (let a = next.current; a; a = next.current) {
        next.current = null
        try {
          const url = URL.createObjectURL(await api.shape(a))
          setPicture((old) => {
            if (old) URL.revokeObjectURL(old)
            return url
          })
          setSaid(null)
        } catch (e) {
          setSaid(e instanceof Error ? e.message : 'Something went wrong; try again.')
        }
      }
      running.current = false
    }
    void run()
  }, [key])
  return { picture, said }
}
