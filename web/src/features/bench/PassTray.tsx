import { DropdownMenu } from 'radix-ui'
import { useQuery } from '@tanstack/react-query'
import { picturePath } from '../../api/client'
import { extractsQuery, findingsQuery } from '../../api/queries'
import type { Element, ExtractInfo } from '../../api/types'
import { PLAIN } from '../../api/view'
import { RoleGlyph } from '../../ui/glyphs'
import { Hint } from '../../ui/Hint'
import { lacks } from './lacks'
import { newExtract, withExtract } from './beginnings'
import { offers, type PassOf } from './passes'
import { useBench, useBenchOf, useFrame } from './store'
import type { ShotOnBench } from './useShot'

/** Width of a tile's picture, px. */
const TILE = 96

interface Props {
  shot: ShotOnBench
  element: Element | null
  passes: PassOf[]
  partner: PassOf | null
}

/** One tile for each pass; a click keeps it in the second pane. An extracted pass has a dashed rim, and its deck opens. */
export function PassTray({ shot, element, passes, partner }: Props) {
  const { pinned, extract, shown: pictured, set } = useBenchOf('pinned', 'extract', 'shown', 'set')
  const number = useFrame(shot.doc)
  const first = shot.doc.frames?.first ?? 0
  const findings = useQuery({ ...findingsQuery(shot.id, shot.state.revision, element?.id ?? 0, first), enabled: element !== null && pictured }).data ?? []
  // A pass that is only just being made has no picture in the revision that is kept.
  const kept = new Set(shot.state.shot.elements.flatMap((e) => (e.id === element?.id ? [...e.passes.map((p) => p.id), ...passes.filter((p) => e.made && !p.made).map((p) => p.id), ...(e.extracts ?? []).map((x) => x.id)] : [])))
  const choose = (pass: PassOf) => {
    const seeing = useBench.getState().seeing
    const pair = seeing === 'single' ? ({ seeing: 'pair' } as const) : {}
    const again = pinned === pass.id
    if (pass.made) set({ pinned: null, extract: extract === pass.id ? null : pass.id, pointing: null, ...pair })
    else set({ pinned: again ? null : pass.id, extract: null, ...pair })
  }
  const frame = shot.doc.display
  const scale = Math.max(0, Math.min(6, Math.floor(Math.log2(frame.width / TILE / 1.5))))
  return (
    <div className="flex h-full items-stretch gap-1.5 overflow-x-auto bg-panel px-2 py-1.5" role="toolbar" aria-label="Passes">
      {element && passes.map((pass) => {
        const look = { target: { kind: 'pass' as const, element: element.id, pass: pass.id }, scale, frame: number, window: null, view: { ...PLAIN, backdrop: 'grey' as const }, viewer: null }
        const shown = pass.id === partner?.id
        const rim = pass.made ? 'border-dashed' : ''
        const wrong = findings.filter((f) => f.pass === pass.id && !f.accepted)
        const does = pass.made
          ? `${pass.name}: extracted${pass.made.serves ? '' : ', not the default'}; show how it is made`
          : pinned === pass.id
            ? 'Pinned to the second pane; click to follow the selected step again'
            : `Show ${pass.name} beside the picture`
        const hint = wrong.length > 0 ? `${does}. ${wrong.map((f) => f.title).join(', ')}: see Intake` : does
        return (
          <Hint key={pass.id} text={hint}>
            <button
              type="button"
              data-pass={pass.id}
              aria-pressed={pinned === pass.id || extract === pass.id}
              onClick={() => choose(pass)}
              className={`group flex w-[104px] shrink-0 flex-col rounded-tile border p-[3px] text-left ${rim} ${shown ? 'border-accent bg-accent-ground' : `${pass.made ? 'border-dim' : 'border-line'} bg-raised hover:border-dim`}`}
            >
              <img src={pictured && kept.has(pass.id) ? picturePath(shot.id, shot.state.revision, look) : undefined} alt="" className="min-h-0 w-full grow rounded-[3px] bg-pane object-cover" />
              <span className="mt-0.5 flex items-center gap-1 px-0.5">
                <RoleGlyph role={pass.role} />
                <span className={`truncate text-[11px] ${pass.made && !pass.made.serves ? 'text-dim' : ''}`}>{pass.name}</span>
                {wrong.length > 0 && (
                  <span className="ml-auto rounded-full border border-warn px-1 text-[10px] leading-[13px] text-warn">{wrong.length}</span>
                )}
                {pinned === pass.id && <span className="ml-auto size-1.5 rounded-full bg-accent" aria-hidden />}
              </span>
            </button>
          </Hint>
        )
      })}
      {element && <ExtractMenu shot={shot} element={element} passes={passes} />}
      {passes.length === 0 && element && <span className="text-dim">This element has no passes; bring in a render with its passes to work on it.</span>}
    </div>
  )
}

/** Adds an extracted pass. */
function ExtractMenu({ shot, element, passes }: { shot: ShotOnBench; element: Element; passes: PassOf[] }) {
  const kinds = useQuery(extractsQuery).data ?? []
  const set = useBench((b) => b.set)
  const groups = [...new Set(kinds.map((k) => k.gives))]
  const lacking = (k: ExtractInfo) => k.reads.filter((r) => r.required && !offers(element, passes, r.role))
  const add = (k: ExtractInfo) => {
    const { extract, pointing } = newExtract(shot.doc, element, passes, k)
    set({ element: element.id, extract: extract.id, pinned: null, pointing })
    shot.commit(`Extract: ${k.title.toLowerCase()}`, withExtract(shot.doc, element.id, extract))
  }
  return (
    <DropdownMenu.Root modal={false}>
      <DropdownMenu.Trigger asChild>
        <button type="button" data-extract-menu className="w-[72px] shrink-0 rounded-tile border border-dashed border-line text-dim hover:border-dim hover:text-text">
          Extract…
        </button>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="start" sideOffset={4} className="z-40 max-h-[76vh] w-96 overflow-y-auto rounded-tile border border-line bg-raised p-1 shadow-xl">
          {groups.map((role) => (
            <DropdownMenu.Group key={role}>
              <DropdownMenu.Label className="flex items-center gap-1.5 px-2 pt-1.5 text-[11px] font-semibold text-dim">
                <RoleGlyph role={role} /> {role.replace('_', ' ')}
              </DropdownMenu.Label>
              {kinds
                .filter((k) => k.gives === role)
                .map((k) => {
                  const missing = lacking(k)
                  return (
                    <DropdownMenu.Item key={k.kind} disabled={missing.length > 0} onSelect={() => add(k)} data-extract-kind={k.kind} className="cursor-pointer rounded-[4px] px-2 py-1 outline-none data-[disabled]:cursor-default data-[disabled]:opacity-50 data-[highlighted]:bg-accent-ground">
                      <span className="block font-medium">{k.title}</span>
                      <span className="block text-dim">{missing.length > 0 ? lacks(missing.map((m) => m.role), []) : k.about}</span>
                    </DropdownMenu.Item>
                  )
                })}
            </DropdownMenu.Group>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  )
}
