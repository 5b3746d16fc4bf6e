import type { ReactNode } from 'react'
import { freeId } from '../../bench/numbered'
import { DropdownMenu, Popover } from 'radix-ui'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { picturePath } from '../../../api/client'
import { factsQuery, mattesQuery } from '../../../api/queries'
import type { PropertySchema } from '../../../api/schema'
import type { Element, MatteEdge, Limit, MattePart, NamedMatte, PartInfo, PartKind, Role, Shot, Step } from '../../../api/types'
import { PLAIN } from '../../../api/view'
import { Button } from '../../../ui/Button'
import { Choice } from '../../../ui/Choice'
import { NumberField } from '../../../ui/NumberField'
import { Toggle } from '../../../ui/Toggle'
import { Hint } from '../../../ui/Hint'
import { newPart } from '../../bench/beginnings'
import { editedLimit } from '../../bench/limits'
import { usePassesOf, servingOf } from '../../bench/passes'
import { useBench, useBenchOf, type MatteShown, type Pointing } from '../../bench/store'
import { useSentences } from '../../bench/useSentences'
import { withElement, withStep, type ShotOnBench } from '../../bench/useShot'
import { Keyed, KeyedField } from '../../time/KeyMark'
import { HeldToOwn } from '../../tracks/HeldField'
import { PartEditor } from './PartEditor'
import { JOINS, named, NO_FINISH, pointingOf, usePartInfo, withPart } from './parts'

interface Props {
  shot: ShotOnBench
  element: Element
  step: Step
}

/** The matte that limits the step. */
export function OnlyWhere({ shot, element, step }: Props) {
  const { part: chosen, set } = useBenchOf('part', 'set')
  const edited = editedLimit(element, step)
  const limit = edited?.limit ?? null
  const shared = edited?.named ?? null
  const mattes = element.mattes ?? []
  const passes = usePassesOf(element)
  const own = (only_where: Limit | null) => withStep(shot.doc, element.id, step.id, (s) => ({ ...s, only_where }))
  const changed = (next: Limit | null) => (next && edited ? edited.put(shot.doc, next) : own(next))
  const keep = (label: string, next: Limit | null) => shot.commit(label, changed(next))
  const parts = limit?.parts ?? []
  const place = Math.min(chosen, parts.length - 1)
  const part = parts[place]

  const depth = servingOf(passes, 'depth', step.reads)?.id ?? null
  const frame = shot.doc.frames?.first ?? 0
  const queries = useQueryClient()
  const sentences = useSentences(shot)
  const words = sentences.find((s) => s.element === element.id && s.step === step.id)?.parts ?? []
  const info = usePartInfo(part?.by)
  const put = (doc: Shot, by: PartKind, pointing: Pointing): Shot => {
    const of = doc.elements.find((e) => e.id === element.id)
    const now = of?.steps.find((s) => s.id === step.id)
    if (!of || !now) return doc
    const next = { id: 0, by, joins: 'or' as const, invert: false }
    const before = editedLimit(of, now)
    const parts = before?.limit.parts ?? []
    set({ part: parts.length, pointing, ...(pointing === 'paint' ? { matteShown: useBench.getState().matteShown ?? 'tint' } : {}) })
    return before ? before.put(doc, { ...before.limit, parts: [...parts, next] }) : withStep(doc, of.id, now.id, (s) => ({ ...s, only_where: { parts: [next], invert: false } }))
  }
  const add = (kind: PartInfo) => {
    const by = (range?: [number, number] | null) => newPart(kind, shot.doc.display, range)
    if (kind.role === 'depth') {
      const facts = queries.query(factsQuery(shot.id, shot.state.revision, element.id, frame)).catch(() => [])
      shot.commitFound('Set where', async (doc) => put(doc, by((await facts).find((f) => f.pass === depth)?.range), pointingOf(kind)))
    } else shot.commit('Set where', put(shot.doc, by(), pointingOf(kind)))
  }
  const remove = (i: number) => {
    const left = parts.filter((_, k) => k !== i)
    set({ part: Math.max(0, i - 1), pointing: null })
    keep('Remove a part', limit && left.length > 0 ? { ...limit, parts: left } : null)
  }
  const choose = (i: number) => set({ part: i, pointing: null })

  return (
    <div className="flex flex-col gap-1">
      {shared && step.only_where && (
        <div className="flex items-center gap-1.5" data-named={shared.id}>
          <Hint text={`${shared.name} is shared: editing it changes every step that uses it`}>
            <span className="truncate font-medium">
              {shared.name}
            </span>
          </Hint>
          <span className="text-dim">shared</span>
          <span className="grow" />
          <Button look="quiet" onClick={() => shot.commit(`Use a copy of ${shared.name}`, own({ ...shared.matte, invert: shared.matte.invert !== step.only_where?.invert }))} hint="Gives this step its own matte; the named one stays as it is">
            Use a copy
          </Button>
          <Button look="quiet" onClick={() => shot.commit('Set where', own(null))} hint="Applies the step everywhere; the named matte stays">
            Detach matte
          </Button>
        </div>
      )}
      <div className="flex flex-wrap items-center gap-1" role="group" aria-label="Parts of the matte">
        {parts.length === 0 && <span className="text-dim">Everywhere</span>}
        {parts.map((p, i) => (
          <span key={i} className="flex items-center gap-1">
            {i > 0 && <span className="text-dim">{JOINS.find((j) => j.value === p.joins)?.label}</span>}
            <button type="button" data-part={i} aria-pressed={i === place} onClick={() => choose(i)} className={`h-6 max-w-40 truncate rounded-full border px-2 ${i === place ? 'border-accent bg-accent-ground' : 'border-line bg-ground hover:border-dim'}`}>
              {p.invert ? 'not ' : ''}
              {words[i] ?? ''}
            </button>
          </span>
        ))}
        <AddPart has={(role) => servingOf(passes, role, step.reads) !== null} mattes={shared ? mattes.slice(0, mattes.findIndex((m) => m.id === shared.id)) : mattes} first={parts.length === 0} onAdd={(kind) => add(kind)} onUse={(matte) => shot.commit('Set where', put(shot.doc, { kind: 'named', matte }, null))} />
        {part && parts.length === 1 && (
          <Button look="quiet" className="ml-auto" onClick={() => remove(place)} hint="Remove the selected part">
            Remove
          </Button>
        )}
      </div>
      {limit && part && (
        <>
          {parts.length > 1 && (
          <div className="flex items-center gap-2">
            {place > 0 && <Choice label="How it joins the parts before" value={part.joins} options={JOINS} onChange={(joins) => keep('Join a part', withPart(limit, place, (p) => ({ ...p, joins })))} />}
            <Hint text="Invert this part">
              <label className="flex items-center gap-1.5 whitespace-nowrap text-dim">
                <Toggle label="Not this part" on={part.invert} onChange={(invert) => keep('Invert a part', withPart(limit, place, (p) => ({ ...p, invert })))} />
                Not this
              </label>
            </Hint>
            <Button look="quiet" className="ml-auto px-0!" onClick={() => remove(place)} hint="Remove the selected part">
              Remove
            </Button>
          </div>
          )}
          <Keyed value={edited && part.id !== 0 ? { shot, at: `${edited.at}/parts/${part.id}/by` } : null}>
            {info && <PartEditor
              shot={shot}
              element={element}
              depth={depth}
              info={info}
              values={part.by}
              put={(values, done, label) => {
                const next = withPart(limit, place, (p) => ({ ...p, by: { ...p.by, ...values } }))
                if (done) keep(label ?? 'Set where', next)
                else shot.preview(changed(next))
              }}
            />}
          </Keyed>
          {info?.drawn && <HeldToOwn element={element} held={part.held} onHold={(held) => keep(held === undefined ? 'Let the matte go' : 'Hold the matte to a plane', withPart(limit, place, (p) => ({ ...p, held }) as MattePart))} />}
        </>
      )}
      {limit && step.only_where && <Whole shot={shot} element={element} step={step} limit={limit} at={edited?.at ?? ''} changed={changed} invert={(invert) => own({ ...(step.only_where ?? limit), invert })} />}
    </div>
  )
}

interface AddProps {
  has: (role: Role) => boolean
  mattes: NamedMatte[]
  first: boolean
  onAdd: (kind: PartInfo) => void
  /** Uses a matte with a name. */
  onUse: (matte: number) => void
}

const menuItem = 'cursor-pointer rounded-[4px] px-2 py-1 outline-none data-[disabled]:cursor-default data-[disabled]:opacity-50 data-[highlighted]:bg-accent-ground'

function AddPart({ has, mattes, first, onAdd, onUse }: AddProps) {
  const kinds = useQuery(mattesQuery).data?.parts ?? []
  return (
    <DropdownMenu.Root modal={false}>
      <DropdownMenu.Trigger asChild>
        <Button look={first ? 'plain' : 'quiet'} data-add-part>
          {first ? 'Add a matte…' : 'Add…'}
        </Button>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="start" side="top" sideOffset={4} className="z-40 max-h-[70vh] w-72 overflow-y-auto rounded-tile border border-line bg-raised p-1 shadow-xl">
          {mattes.map((m) => (
            <DropdownMenu.Item key={m.id} onSelect={() => onUse(m.id)} className={menuItem}>
              <span className="font-medium">{m.name}</span> <span className="text-dim">a matte of this element</span>
            </DropdownMenu.Item>
          ))}
          {kinds
            .filter((k) => !named(k, 'matte'))
            .map((k) => {
              const lacks = k.role !== null && !has(k.role)
              return (
                <DropdownMenu.Item key={k.kind} disabled={lacks} onSelect={() => onAdd(k)} className={menuItem} data-part-kind={k.kind}>
                  <span className="font-medium">{k.title}</span> <span className="text-dim">{lacks ? `needs a pass: ${k.role?.replace('_', ' ') ?? ''}` : k.about.charAt(0).toLowerCase() + k.about.slice(1)}</span>
                </DropdownMenu.Item>
              )
            })}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  )
}

const SHOWN: { value: 'no' | Exclude<MatteShown, null>; label: string; hint: string }[] = [
  { value: 'no', label: 'Hidden', hint: 'The picture as it is' },
  { value: 'tint', label: 'Tint', hint: 'Over the picture (T)' },
  { value: 'grey', label: 'Grey', hint: 'In the second pane' },
]

/** What is done with all parts together. */
function Whole({ shot, element, step, limit, at, changed, invert }: Props & { limit: Limit; at: string; changed: (l: Limit | null) => Shot; invert: (on: boolean) => Shot }) {
  const { matteShown, set } = useBenchOf('matteShown', 'set')
  return (
    <div className="flex items-start gap-2 border-t border-line pt-1">
      <MattePicture shot={shot} element={element} step={step} />
      <div className="flex min-w-0 grow flex-col gap-1 [&_[role=radiogroup]>button]:px-1.5 [&_[role=group]>button]:px-1.5">
        <span className="flex items-center gap-1.5">
          <Choice label="Show the matte" value={matteShown ?? 'no'} options={SHOWN} onChange={(v) => set({ matteShown: v === 'no' ? null : v })} />
          <Keyed value={{ shot, at: `${at}/finish`, whole: (doc) => (limit.finish ? doc : changed({ ...limit, finish: NO_FINISH })) }}>
            <EdgeButton finish={limit.finish ?? NO_FINISH} preview={(f) => shot.preview(changed({ ...limit, finish: f }))} keep={(f) => shot.commit('Shape the matte', changed({ ...limit, finish: f }))} />
          </Keyed>
        </span>
        <span className="flex items-center justify-between gap-1.5">
          <label className="flex items-center gap-1.5 whitespace-nowrap text-dim">
            <Toggle label="Everywhere else" on={step.only_where?.invert ?? false} onChange={(on) => shot.commit(on ? 'Invert where' : 'Do not invert where', invert(on))} />
            Everywhere else
          </label>
          <KeepButton shot={shot} element={element} step={step} limit={limit} />
        </span>
      </div>
    </div>
  )
}

/** How far a new band goes to either side, px. */
const BAND = 6

/** Grow or choke, soften, levels, a band along the edge. */
function EdgeButton({ finish: f, preview, keep }: { finish: MatteEdge; preview: (f: MatteEdge) => void; keep: (f: MatteEdge) => void }) {
  const changed = f.grow !== 0 || f.soften !== 0 || f.low !== 0 || f.high !== 1 || f.band !== undefined
  const info = useQuery(mattesQuery).data
  const properties = Object.entries(info?.edge_schema.properties ?? {})
  const field = (property: PropertySchema, label: string, value: number, reset: number, put: (v: number) => MatteEdge) => (
    <NumberField
      label={label}
      value={value}
      unit={property['x-unit']}
      step={property['x-step'] ?? 0.01}
      reset={reset}
      slider={property['x-slider']}
      hint={property.description}
      onPreview={(v) => preview(put(v))}
      onCommit={(v) => keep(put(v))}
    />
  )
  const keyed = (name: string, label: string, children: ReactNode) => (
    <KeyedField key={name} name={name} label={label} value={f[name as keyof MatteEdge]}>
      {children}
    </KeyedField>
  )
  const numbers = properties.flatMap(([name, property]) => {
    const [now, reset] = [f[name as keyof MatteEdge], info?.edge[name as keyof MatteEdge]]
    const label = property['x-label'] ?? name
    return typeof now === 'number' && typeof reset === 'number' ? [keyed(name, label, field(property, label, now, reset, (v) => ({ ...f, [name]: v })))] : []
  })
  const band = properties.find(([name]) => name === 'band')?.[1]
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <button type="button" data-edge className={`h-6 whitespace-nowrap rounded-tile border bg-raised px-2 hover:border-dim ${changed ? 'border-accent' : 'border-line'}`}>
          Edge…
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content side="top" align="end" sideOffset={6} className="z-40 flex w-64 flex-col gap-1.5 rounded-lg border border-line bg-panel p-3 shadow-xl">
          {numbers}
          <label className="flex items-center gap-2 text-dim">
            <Toggle
              label="Only a band along the edge"
              on={f.band !== undefined}
              onChange={(on) => keep(on ? { ...f, band: [BAND, BAND] } : { grow: f.grow, soften: f.soften, low: f.low, high: f.high })}
            />
            Only a band along the edge
          </label>
          {f.band &&
            band &&
            keyed(
              'band',
              band['x-label'] ?? 'band',
              <div className="flex flex-col gap-1.5">
                {field(band, 'Inside', f.band[0], BAND, (v) => ({ ...f, band: [v, f.band?.[1] ?? BAND] }))}
                {field(band, 'Outside', f.band[1], BAND, (v) => ({ ...f, band: [f.band?.[0] ?? BAND, v] }))}
              </div>,
            )}
          <p className="text-[11px] text-dim">Negative growth chokes.</p>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}

/** Keeps the matte under a name, so that other steps can use it. */
function KeepButton({ shot, element, step, limit }: Props & { limit: Limit }) {
  if (editedLimit(element, step)?.named) return null
  const keep = (name: string) => {
    const mattes = element.mattes ?? []
    const id = freeId(mattes)
    const named: Limit = { parts: [{ id: 0, by: { kind: 'named', matte: id }, joins: 'or', invert: false }], invert: false }
    const steps = element.steps.map((s) => (s.id === step.id ? { ...s, only_where: named } : s))
    shot.commit(`Save the matte ${name}`, withElement(shot.doc, element.id, (e) => ({ ...e, mattes: [...mattes, { id, name, matte: limit }], steps })))
  }
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <button type="button" data-keep-matte className="h-6 whitespace-nowrap rounded-tile border border-line bg-raised px-2 hover:border-dim">
          Name it…
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content side="top" align="end" sideOffset={6} className="z-40 w-64 rounded-lg border border-line bg-panel p-3 shadow-xl">
          <form
            className="flex flex-col gap-2"
            onSubmit={(e) => {
              e.preventDefault()
              const name = new FormData(e.currentTarget).get('name')
              if (typeof name === 'string' && name.trim()) keep(name.trim().slice(0, 100))
            }}
          >
            <p className="text-dim">A named matte can be used by other steps of this element. Editing it changes it everywhere.</p>
            <div className="flex gap-2">
              <input name="name" aria-label="Name of the matte" className="h-7 min-w-0 grow rounded-tile border border-line bg-ground px-2" placeholder="Ring" />
              <Button look="main" type="submit">
                Keep
              </Button>
            </div>
          </form>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}

function MattePicture({ shot, element, step }: Props) {
  const saved = shot.state.shot.elements.find((e) => e.id === element.id)?.steps.find((s) => s.id === step.id)?.only_where
  if (!saved) return null
  const scale = Math.max(0, Math.min(6, Math.floor(Math.log2(shot.doc.display.width / 128))))
  const look = { target: { kind: 'limit' as const, element: element.id, step: step.id }, scale, window: null, view: { ...PLAIN, backdrop: 'grey' as const }, viewer: null }
  return (
    <Hint text="White: fully; black: not at all. Tint: T">
      <img
        src={picturePath(shot.id, shot.state.revision, look)}
        alt="Where the step happens: white is fully, black not at all"
        className="h-[44px] w-[64px] shrink-0 rounded-[3px] border border-line object-contain"
      />
    </Hint>
  )
}
