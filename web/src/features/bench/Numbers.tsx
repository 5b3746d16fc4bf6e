import { useQuery } from '@tanstack/react-query'
import { useDeferredValue } from 'react'
import { api } from '../../api/client'
import type { Element, Pass } from '../../api/types'
import { useBench, useFrame } from './store'
import type { ShotOnBench } from './useShot'

const plain = (v: number | null | undefined) => (v === null || v === undefined ? '–' : Math.abs(v) >= 1000 ? v.toFixed(0) : v.toFixed(4))

const UNITS: Partial<Record<Pass['role'], string>> = { depth: 'units', position: 'units', motion: 'px' }

/** Values under the crosshair, of the picture and of the pass beside it. */
export function Numbers({ shot, element, partner }: { shot: ShotOnBench; element: Element | null; partner: Pass | null }) {
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
  const differs = values && JSON.stringify(values.canonical) !== JSON.stringify(values.stored)
  return (
    <div className="figures flex h-6 shrink-0 items-center gap-5 overflow-hidden border-t border-line bg-panel px-3 whitespace-nowrap text-dim" data-numbers>
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
