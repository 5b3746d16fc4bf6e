import { useState } from 'react'
import { picturePath } from '../../api/client'
import type { FrameRange, Target } from '../../api/types'
import { PLAIN } from '../../api/view'
import { Choice } from '../../ui/Choice'
import { Modal } from '../../ui/Modal'
import { useBenchOf, useFrame } from '../bench/store'
import type { ShotOnBench } from '../bench/useShot'

const COUNTS = ['8', '12', '24'].map((value) => ({ value, label: value }))

/** At most so many frames, from the first to the last. */
function spread({ first, last }: FrameRange, count: number): number[] {
  const many = Math.min(count, last - first + 1)
  return Array.from({ length: many }, (_, i) => first + Math.floor((i * (last - first)) / Math.max(1, many - 1)))
}

interface Props {
  shot: ShotOnBench
  frames: FrameRange
  open: boolean
  onClose: () => void
}

/** Frames side by side, of the result or of one step; a click goes to one. */
export function StripDialog({ shot, frames, open, onClose }: Props) {
  const { element, step, set } = useBenchOf('element', 'step', 'set')
  const frame = useFrame(shot.doc)
  const [count, setCount] = useState('8')
  const [of, setOf] = useState('shot')
  const chosen = shot.doc.elements.find((e) => e.id === (element ?? shot.doc.elements[0]?.id))
  const place = chosen?.steps.findIndex((s) => s.id === step) ?? -1
  const own = chosen && step !== null && place >= 0
  const target: Target = of === 'step' && own ? { kind: 'after', element: chosen.id, step } : { kind: 'shot' }
  const scale = Math.max(0, Math.ceil(Math.log2(shot.doc.display.width / 320)))
  return (
    <Modal title="Frames side by side" open={open} onClose={onClose} wide>
      <div className="mb-3 flex items-center gap-4">
        {own && (
          <Choice
            label="Of"
            value={of}
            options={[
              { value: 'shot', label: 'The result' },
              { value: 'step', label: `Up to step ${place + 1}` },
            ]}
            onChange={setOf}
          />
        )}
        <span className="flex items-center gap-2 text-dim">
          Frames
          <Choice label="How many frames" value={count} options={COUNTS} onChange={setCount} />
        </span>
      </div>
      <ol className="grid grid-cols-4 gap-2">
        {spread(frames, Number(count)).map((f) => (
          <li key={f}>
            <button
              type="button"
              aria-label={`Frame ${f}`}
              aria-current={f === frame}
              data-strip={f}
              onClick={() => {
                set({ frame: f })
                onClose()
              }}
              className="block w-full rounded-tile border border-line p-0.5 hover:border-dim aria-[current=true]:border-accent"
            >
              <img src={picturePath(shot.id, shot.state.revision, { target, scale, frame: f, window: null, view: PLAIN, viewer: null })} alt="" className="aspect-video w-full bg-pane object-contain" />
              <span className="figures block text-center text-dim">{f}</span>
            </button>
          </li>
        ))}
      </ol>
    </Modal>
  )
}
