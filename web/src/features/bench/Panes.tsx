import { useQuery } from '@tanstack/react-query'
import { useRef } from 'react'
import { kindsQuery } from '../../api/queries'
import type { Element, Pass, Step, Target } from '../../api/types'
import { LampHandle } from './LampHandle'
import { Pane } from './Pane'
import { useBench } from './store'
import type { Point } from './geometry'
import type { ShotOnBench } from './useShot'

interface Props {
  shot: ShotOnBench
  element: Element | null
  step: Step | null
  onPoint: (at: Point) => void
}

/** The pass that belongs to the chosen step: what it reads first, or what limits it. */
export function usePartner(element: Element | null, step: Step | null): Pass | null {
  const kinds = useQuery(kindsQuery).data
  const pinned = useBench((b) => b.pinned)
  if (!element) return null
  const held = element.passes.find((p) => p.id === pinned)
  if (held) return held
  const reads = kinds?.find((k) => k.kind === step?.does.kind)?.reads.find((r) => r.required)?.role
  const by = step?.only_where?.by.kind
  const limit = by === 'objects' ? 'object_id' : by === 'hashed' ? 'hashed_id' : by
  const role = reads ?? limit ?? 'normal'
  return element.passes.find((p) => p.role === role) ?? element.passes.find((p) => p.role !== 'beauty') ?? null
}

export function Panes({ shot, element, step, onPoint }: Props) {
  const { seeing, divider, before, upTo, view, grade, gain, pointing, crosshair, set } = useBench()
  const partner = usePartner(element, step)
  const box = useRef<HTMLDivElement>(null)

  let target: Target = { kind: 'shot' }
  let label = 'Picture'
  if (before && element) {
    target = { kind: 'untouched', element: element.id }
    label = 'Before all changes'
  } else if (upTo !== null && element?.steps.some((s) => s.id === upTo)) {
    target = { kind: 'after', element: element.id, step: upTo }
    label = `After step ${element.steps.findIndex((s) => s.id === upTo) + 1}`
  }

  const picture = (
    <Pane
      name="picture"
      label={seeing === 'difference' ? `Difference from the untouched picture, ×${gain}` : label}
      shot={shot}
      target={target}
      view={{ ...view, range: null, showing: 'usual' }}
      against={seeing === 'difference' && element ? { other: { kind: 'target', target: { kind: 'untouched', element: element.id } }, gain } : undefined}
      grade={grade}
      live={!before}
      onPoint={pointing ? onPoint : undefined}
    >
      {(p, frame) =>
        step?.does.kind === 'relight' && element && !before ? (
          <LampHandle shot={shot} element={element} step={step.id} lamp={step.does} placement={p} frame={frame} />
        ) : null
      }
    </Pane>
  )
  const coloured = partner?.role === 'beauty' || partner?.role === 'albedo'
  const pass = (clip?: number, spot?: boolean) =>
    partner &&
    element && (
      <Pane
        name="pass"
        label={`${partner.name}${useBench.getState().pinned === partner.id ? ' (pinned)' : ''}`}
        shot={shot}
        target={{ kind: 'pass', element: element.id, pass: partner.id }}
        view={coloured ? view : { ...view, exposure: 0, transform: 'srgb' }}
        grade={coloured ? grade : null}
        live={false}
        clip={clip}
        spot={spot}
        onPoint={pointing ? onPoint : undefined}
      />
    )

  const drag = (e: React.PointerEvent) => {
    const bounds = box.current?.getBoundingClientRect()
    if (!bounds || e.buttons === 0) return
    set({ divider: Math.min(0.95, Math.max(0.05, (e.clientX - bounds.left) / bounds.width)) })
  }
  const handle = (
    <div
      role="separator"
      aria-orientation="vertical"
      aria-label="Divider between picture and pass"
      aria-valuenow={Math.round(divider * 100)}
      tabIndex={0}
      className="absolute inset-y-0 z-10 w-2.5 -translate-x-1/2 cursor-col-resize touch-none"
      style={{ left: `${divider * 100}%` }}
      onPointerDown={(e) => e.currentTarget.setPointerCapture(e.pointerId)}
      onPointerMove={drag}
      onKeyDown={(e) => {
        const by = e.key === 'ArrowLeft' ? -0.02 : e.key === 'ArrowRight' ? 0.02 : 0
        if (by) set({ divider: Math.min(0.95, Math.max(0.05, divider + by)) })
      }}
    >
      <span className="mx-auto block h-full w-px bg-dim" />
    </div>
  )

  if (seeing === 'spot' && partner)
    return (
      <div ref={box} className="relative size-full">
        {picture}
        {crosshair && pass(undefined, true)}
      </div>
    )
  if (seeing === 'single' || seeing === 'difference' || !partner) return <div className="relative size-full">{picture}</div>
  if (seeing === 'wipe')
    return (
      <div ref={box} className="relative size-full">
        {picture}
        {pass(divider)}
        {handle}
      </div>
    )
  return (
    <div ref={box} className="relative size-full">
      <div className="absolute inset-y-0 left-0" style={{ right: `${(1 - divider) * 100}%` }}>
        {picture}
      </div>
      <div className="absolute inset-y-0 right-0" style={{ left: `${divider * 100}%` }}>
        {pass()}
      </div>
      {handle}
    </div>
  )
}
