import type { Element, Pass } from '../../api/types'
import { picturePath } from '../../api/client'
import { RoleGlyph } from '../../ui/glyphs'
import { useQuery } from '@tanstack/react-query'
import { findingsQuery } from '../../api/queries'
import { PLAIN } from '../../api/view'
import { useBench, useFrame } from './store'
import type { ShotOnBench } from './useShot'

/** Width of a tile's picture, px. */
const TILE = 96

/** One tile for each pass; a click keeps it in the second pane. */
export function PassTray({ shot, element, partner }: { shot: ShotOnBench; element: Element | null; partner: Pass | null }) {
  const { pinned, shown: pictured, set } = useBench()
  const number = useFrame(shot.doc)
  const first = shot.doc.frames?.first ?? 0
  const findings = useQuery({ ...findingsQuery(shot.id, shot.state.revision, element?.id ?? 0, first), enabled: element !== null && pictured }).data ?? []
  const frame = shot.doc.display
  const scale = Math.max(0, Math.min(6, Math.floor(Math.log2(frame.width / TILE / 1.5))))
  return (
    <div className="flex h-[76px] shrink-0 items-center gap-1.5 overflow-x-auto border-b border-line bg-panel px-2" role="toolbar" aria-label="Passes">
      {element?.passes.map((pass) => {
        const look = { target: { kind: 'pass' as const, element: element.id, pass: pass.id }, scale, frame: number, window: null, view: { ...PLAIN, backdrop: 'grey' as const }, viewer: null }
        const shown = pass.id === partner?.id
        const wrong = findings.filter((f) => f.pass === pass.id && !f.accepted)
        return (
          <button
            key={pass.id}
            type="button"
            aria-pressed={pinned === pass.id}
            title={pinned === pass.id ? 'Pinned to the second pane; click to let it follow the chosen step again' : `Show ${pass.name} beside the picture`}
            onClick={() => set({ pinned: pinned === pass.id ? null : pass.id, seeing: useBench.getState().seeing === 'single' ? 'pair' : useBench.getState().seeing })}
            className={`group w-[104px] shrink-0 rounded-tile border p-[3px] text-left ${shown ? 'border-accent bg-accent-ground' : 'border-line bg-raised hover:border-dim'}`}
          >
            <img src={pictured ? picturePath(shot.id, shot.state.revision, look) : undefined} alt="" className="h-[42px] w-full rounded-[3px] bg-pane object-cover" />
            <span className="mt-0.5 flex items-center gap-1 px-0.5">
              <RoleGlyph role={pass.role} />
              <span className="truncate text-[11px]">{pass.name}</span>
              {wrong.length > 0 && (
                <span className="ml-auto rounded-full border border-warn px-1 text-[10px] leading-[13px] text-warn" title={`${wrong.map((f) => f.title).join(', ')}: see Intake`}>
                  {wrong.length}
                </span>
              )}
              {pinned === pass.id && <span className="ml-auto size-1.5 rounded-full bg-accent" aria-hidden />}
            </span>
          </button>
        )
      })}
      {element?.passes.length === 0 && <span className="text-dim">This element has no passes; bring in a render with its passes to work on it.</span>}
    </div>
  )
}
