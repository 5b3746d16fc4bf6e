import { useQuery } from '@tanstack/react-query'
import { useDeferredValue, useState } from 'react'
import { api } from '../../api/client'
import type { Element, Role } from '../../api/types'
import type { PassOf } from './passes'
import type { Point } from './geometry'
import { useBench, useFrame } from './store'
import type { ShotOnBench } from './useShot'

const plain = (v: number | null | undefined) => (v === null || v === undefined ? '–' : Math.abs(v) >= 1000 ? v.toFixed(0) : v.toFixed(4))

/** Typed coordinates bring that pixel into the middle, under the crosshair. */
function GoTo({ shot }: { shot: ShotOnBench }) {
  const [text, setText] = useState('')
  const { x, y, width, height } = shot.doc.display
  const go = () => {
    const [px, py] = text.split(/[^\d.-]+/).filter(Boolean).map(Number)
    setText('')
    if (px === undefined || py === undefined || !Number.isFinite(px) || !Number.isFinite(py)) return
    const at: Point = [Math.min(x + width - 1, Math.max(x, Math.floor(px))), Math.min(y + height - 1, Math.max(y, Math.floor(py)))]
    useBench.getState().set({ crosshair: at, centre: [at[0] + 0.5, at[1] + 0.5], zoom: useBench.getState().zoom ?? 1 / window.devicePixelRatio })
  }
  return (
    <input
      className="h-5 w-24 shrink-0 rounded-tile border border-line bg-ground px-1"
      placeholder="go to x, y"
      aria-label="Go to a pixel: x, y"
      data-go
      value={text}
      onChange={(e) => setText(e.target.value)}
      onKeyDown={(e) => {
        if (e.key === 'Enter') go()
      }}
    />
  )
}

const UNITS: Partial<Record<Role, string>> = { depth: 'units', position: 'units', motion: 'px' }

/** Values under the crosshair, of the picture and of the pass beside it. */
export function Numbers({ shot, element, partner }: { shot: ShotOnBench; element: Element | null; partner: PassOf | null }) {
  const frame = useFrame(shot.doc)
  const crosshair = useDeferredValue(useBench((b) => b.crosshair))
  const { x: left, y: top, width, height } = shot.doc.display
  const inside = crosshair && crosshair[0] >= left && crosshair[1] >= top && crosshair[0] < left + width && crosshair[1] < top + height
  const [x, y] = crosshair ?? [0, 0]
  const probe = useQuery({
    queryKey: ['probe', shot.id, shot.state.revision, element?.id, frame, x, y],
    queryFn: ({ signal }) => api.probe(shot.id, shot.state.revision, element?.id ?? 0, frame, x, y, signal),
    enabled: Boolean(inside && element),
    placeholderData: (old) => old,
    gcTime: 2000,
  })
  const values = probe.data?.passes.find((p) => p.pass === partner?.id)
  const differs = values && values.stored.length > 0 && JSON.stringify(values.canonical) !== JSON.stringify(values.stored)
  return (
    <div className="figures flex h-6 shrink-0 items-center gap-5 overflow-hidden border-t border-line bg-panel px-3 whitespace-nowrap text-dim" data-numbers>
      <GoTo shot={shot} />
      {inside ? (
        <>
          <span>
            x {x} y {y} px
          </span>
          <span>
            picture <b className="font-medium text-text">{probe.data?.result.map(plain).join(' ')}</b>
          </span>
          {partner && (
            <span>
              {partner.name}{' '}
              <b className="font-medium text-text">
                {values?.canonical.length ? values.canonical.map(plain).join(' ') : 'nothing here'} {UNITS[partner.role] ?? ''}
              </b>
              {differs && <> stored {values.stored.map(plain).join(' ')}</>}
            </span>
          )}
        </>
      ) : (
        <span className="font-sans">Point at the picture to read it and the pass at the same place.</span>
      )}
    </div>
  )
}
