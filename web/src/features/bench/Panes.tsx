import { useQuery } from '@tanstack/react-query'
import { useRef } from 'react'
import { extractsQuery, kindsQuery } from '../../api/queries'
import type { Element, Extract, Step, Target } from '../../api/types'
import { Choice } from '../../ui/Choice'
import { FlatPane } from './FlatPane'
import { Handles } from './handles/Handles'
import { middleOf } from './handles/laid'
import { chosenPart } from './limits'
import { Pane } from './Pane'
import { RockPane } from './RockPane'
import { servingOf, type PassOf } from './passes'
import { point, type Scene } from './pointing'
import { useBench, useBenchOf } from './store'
import type { ShotOnBench } from './useShot'
import { isKept, useTold } from './useTold'
import { SHOWINGS } from './viewLists'

interface Props {
  shot: ShotOnBench
  scene: Scene | null
}

const PART_ROLES = { objects: 'object_id', hashed: 'hashed_id', depth: 'depth', facing: 'normal' } as const

/** The pass that belongs to what is chosen: the extracted one, what the step reads first, or what limits it. */
export function usePartner(element: Element | null, passes: PassOf[], step: Step | null, extract: Extract | null): PassOf | null {
  const kinds = useQuery(kindsQuery).data
  const { pinned, part } = useBenchOf('pinned', 'part')
  const held = passes.find((p) => p.id === pinned)
  if (held) return held
  const made = passes.find((p) => p.id === extract?.id)
  if (made) return made
  const reads = kinds?.find((k) => k.kind === step?.does.kind)?.reads.find((r) => r.required)?.role
  const by = chosenPart(element, step, part)?.by.kind
  const limit = by && by in PART_ROLES ? PART_ROLES[by as keyof typeof PART_ROLES] : undefined
  const role = reads ?? limit ?? 'normal'
  return servingOf(passes, role, step?.reads) ?? passes.find((p) => p.role !== 'beauty') ?? null
}

/** Whether what is chosen lays a texture. */
function useLays(scene: Scene | null): boolean {
  const kinds = useQuery(kindsQuery).data
  const extracts = useQuery(extractsQuery).data
  const { step = null, extract = null } = scene ?? {}
  const info = extract ? extracts?.find((k) => k.kind === extract.does.kind) : kinds?.find((k) => k.kind === step?.does.kind)
  return middleOf(info?.schema) !== undefined
}

export function Panes({ shot, scene }: Props) {
  const { seeing, divider, before, upTo, alone, view, grade, gain, pointing, matteShown, set } = useBenchOf('seeing', 'divider', 'before', 'upTo', 'alone', 'view', 'grade', 'gain', 'pointing', 'matteShown', 'set')
  const flat = useBench((b) => b.flat)
  const pointed = useBench((b) => b.crosshair !== null)
  const box = useRef<HTMLDivElement>(null)
  const { element = null, step = null, partner = null } = scene ?? {}
  const onPoint = pointing && scene ? (at: [number, number]) => void point(scene, at) : undefined
  const kinds = useQuery(kindsQuery).data
  // What moves the picture is worked on beside the picture before it.
  const moves = step !== null && !scene?.extract && kinds?.find((k) => k.kind === step.does.kind)?.moves === true
  const pinned = useBench((b) => b.pinned !== null)
  const earlier: Target | null = element && step && moves && !pinned ? { kind: 'before', element: element.id, step: step.id } : null
  const fresh = earlier !== null && !isKept(shot, element, step)
  const matte: Target | null = element && step?.only_where && matteShown ? { kind: 'limit', element: element.id, step: step.id } : null

  const told = useTold(shot, element, step, earlier !== null)
  const beyond = earlier !== null ? told?.covers ?? null : null

  let target: Target = { kind: 'shot' }
  let label = 'Picture'
  // Lines are drawn in the picture before; where only one picture is seen, it is that.
  const drawnBefore = earlier !== null && pointing === 'lens-line' && seeing !== 'pair'
  if (drawnBefore) {
    target = earlier
    label = 'Before this step'
  } else if (before && element) {
    target = { kind: 'untouched', element: element.id }
    label = 'Before all changes'
  } else if (upTo !== null && element?.steps.some((s) => s.id === upTo)) {
    const place = element.steps.findIndex((s) => s.id === upTo) + 1
    target = { kind: alone ? 'gives' : 'after', element: element.id, step: upTo }
    label = alone ? `What step ${place} gives` : `After step ${place}`
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
      tint={matteShown === 'tint' && !before ? matte : null}
      beyond={beyond}
      onPoint={pointing === 'lens-line' && !drawnBefore ? undefined : onPoint}
    >
      {(p) => (scene && !before ? <Handles scene={scene} placement={p} over={drawnBefore ? 'before' : 'picture'} /> : null)}
    </Pane>
  )
  const coloured = partner?.role === 'beauty' || partner?.role === 'albedo'
  const grey = matteShown === 'grey' ? matte : null
  const second: Target | null = grey ?? earlier ?? (partner && element && { kind: 'pass', element: element.id, pass: partner.id })
  const asPicture = grey === null && (earlier !== null || coloured)
  const legend = partner && SHOWINGS[partner.role]?.find((s) => s.value === view.showing)?.legend
  const named = `${partner?.name ?? ''}${pinned ? ' (pinned)' : ''}${legend ? ` · ${legend}` : ''}`
  const pass = (clip?: number, spot?: boolean) =>
    second && (
      <Pane
        name="pass"
        label={grey ? 'Only where' : earlier ? 'Before this step' : named}
        shot={shot}
        target={second}
        view={earlier && !grey ? { ...view, range: null, showing: 'usual' } : asPicture ? view : { ...view, exposure: 0, transform: 'srgb' }}
        grade={asPicture ? grade : null}
        live={grey !== null || fresh || (!earlier && (partner?.made !== null || element?.made !== undefined))}
        clip={clip}
        spot={spot}
        onPoint={onPoint}
      >
        {(p) => (scene && clip === undefined && !spot ? <Handles scene={scene} placement={p} over={earlier && !grey ? 'before' : 'pass'} /> : null)}
      </Pane>
    )

  // What lays a texture is worked on beside that texture, laid flat.
  const lays = useLays(scene) && !grey && !pinned
  const beside = (
    <>
      {lays && flat && scene ? <FlatPane scene={scene} /> : pass()}
      {lays && (
        <div className="absolute top-1.5 right-2 z-20" data-flat>
          <Choice
            label="Beside the picture"
            value={flat ? 'flat' : 'pass'}
            options={[
              { value: 'flat', label: 'Flat', hint: 'The texture laid flat, as it lies in UV' },
              { value: 'pass', label: partner?.name ?? 'Pass', hint: 'The pass that it is laid by' },
            ]}
            onChange={(v) => set({ flat: v === 'flat' })}
          />
        </div>
      )}
    </>
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

  if (seeing === 'rock')
    return (
      <div className="relative size-full">
        <RockPane shot={shot} target={target} view={{ ...view, range: null, showing: 'usual' }} />
      </div>
    )
  if (seeing === 'spot' && second)
    return (
      <div ref={box} className="relative size-full">
        {picture}
        {pointed && pass(undefined, true)}
      </div>
    )
  if (seeing === 'single' || seeing === 'difference' || !second) return <div className="relative size-full">{picture}</div>
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
        {beside}
      </div>
      {handle}
    </div>
  )
}
