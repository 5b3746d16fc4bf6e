import { useQuery } from '@tanstack/react-query'
import { Command } from 'cmdk'
import { DropdownMenu, Popover } from 'radix-ui'
import { useState } from 'react'
import { extractsQuery, kindsQuery, madeQuery } from '../../api/queries'
import type { Element, KindInfo, MadeInfo, Reads, Shot, Step } from '../../api/types'
import { Button } from '../../ui/Button'
import { Line } from '../../ui/glyphs'
import { Hint } from '../../ui/Hint'
import { Toggle } from '../../ui/Toggle'
import { TrackList } from '../tracks/TrackList'
import { foundFor, newExtract, newStep, withExtract } from './beginnings'
import { lacks } from './lacks'
import { offers, usePassesOf } from './passes'
import { Presets, SavePreset } from './Presets'
import { freeId } from './numbered'
import { useBench, useBenchOf } from './store'
import { useSentences } from './useSentences'
import { withElement, withStep, type ShotOnBench } from './useShot'

/** The shot as numbered sentences, in the order in which they happen. */
export function Steps({ shot }: { shot: ShotOnBench }) {
  return (
    <nav className="flex h-full flex-col overflow-x-hidden overflow-y-auto bg-panel" aria-label="Steps">
      {shot.doc.elements.map((element) => (
        <section key={element.id} className="pb-2" data-element={element.id}>
          <h2 className="flex items-center justify-between px-3 pt-3 pb-1.5 font-semibold">
            <ElementName element={element} />
            {shot.doc.elements.length > 1 ? (
              <ElementOrder shot={shot} element={element} />
            ) : (
              <span className="figures font-normal text-dim">
                {shot.doc.display.width}×{shot.doc.display.height}
              </span>
            )}
          </h2>
          <ol>
            {element.steps.map((step, place) => (
              <Row key={step.id} shot={shot} element={element} step={step} place={place} />
            ))}
          </ol>
          {element.steps.length === 0 && <p className="px-3 pb-2 text-dim">No changes yet. Add one to begin.</p>}
          <AddChange shot={shot} element={element} />
          <Presets shot={shot} element={element} />
          <TrackList shot={shot} element={element} />
        </section>
      ))}
      <AddElement shot={shot} />
    </nav>
  )
}

/** The element's name; a click opens its own deck. */
function ElementName({ element }: { element: Element }) {
  const { element: chosen, step, extract, track, set } = useBenchOf('element', 'step', 'extract', 'track', 'set')
  const here = chosen === element.id && step === null && extract === null && track === null
  return (
    <Hint text="What it is made of, where it is placed, how it joins">
      <button
        type="button"
        aria-current={here}
        data-element-name={element.id}
        className={`min-w-0 truncate rounded-[4px] px-1 text-left ${here ? 'bg-accent-ground' : 'hover:bg-raised'} ${element.only_used ? 'text-dim' : ''}`}
        onClick={() => set({ element: element.id, step: null, extract: null, pinned: null, pointing: null, upTo: null })}
      >
        {element.name}
      </button>
    </Hint>
  )
}

/** Adds something made: it lies over all others. */
function AddElement({ shot }: { shot: ShotOnBench }) {
  const kinds = useQuery(madeQuery).data ?? []
  const set = useBench((b) => b.set)
  const add = (k: MadeInfo) => {
    const id = freeId(shot.doc.elements)
    const alike = shot.doc.elements.filter((e) => e.name.startsWith(k.title)).length
    const element: Element = { id, name: alike > 0 ? `${k.title} ${alike + 1}` : k.title, camera: null, passes: [], made: k.defaults, steps: [] }
    set({ element: id, step: null, extract: null, pinned: null, pointing: null, upTo: null })
    shot.commit(`Add ${k.title.toLowerCase()}`, { ...shot.doc, elements: [...shot.doc.elements, element] })
  }
  return (
    <div className="border-t border-line px-3 py-2">
      <DropdownMenu.Root modal={false}>
        <DropdownMenu.Trigger asChild>
          <Button look="quiet" data-add-element>
            Add an element…
          </Button>
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content align="start" sideOffset={4} className="z-40 w-72 rounded-tile border border-line bg-raised p-1 shadow-xl">
            {kinds.map((k) => (
              <DropdownMenu.Item key={k.kind} onSelect={() => add(k)} data-made-kind={k.kind} className="cursor-pointer rounded-[4px] px-2 py-1 outline-none data-[highlighted]:bg-accent-ground">
                <span className="block font-medium">{k.title}</span>
                <span className="block text-dim">{k.about}</span>
              </DropdownMenu.Item>
            ))}
            <p className="px-2 py-1 text-dim">A render comes in under Intake.</p>
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
    </div>
  )
}

/** Elements lie over each other in the order of the list, the first lowest. */
function ElementOrder({ shot, element }: { shot: ShotOnBench; element: Element }) {
  const set = useBench((b) => b.set)
  const place = shot.doc.elements.findIndex((e) => e.id === element.id)
  const rest = shot.doc.elements.filter((e) => e.id !== element.id)
  const move = (to: number) => shot.commit('Reorder elements', { ...shot.doc, elements: rest.toSpliced(to, 0, element) })
  const remove = () => {
    set({ element: null, step: null, extract: null, pinned: null })
    shot.commit(`Remove ${element.name}`, { ...shot.doc, elements: rest })
  }
  return (
    <span className="flex shrink-0 font-normal">
      <Button look="quiet" aria-label="Lower" disabled={place === 0} onClick={() => move(place - 1)} hint="Lower: what comes later in the list lies over it">
        <Line kind="up" />
      </Button>
      <Button look="quiet" aria-label="Higher" disabled={place === rest.length} onClick={() => move(place + 1)} hint="Higher: over the next one">
        <Line kind="down" />
      </Button>
      <Button look="quiet" aria-label={`Remove ${element.name}`} onClick={remove} hint="Remove the element; undo brings it back">
        <Line kind="remove" />
      </Button>
    </span>
  )
}

function AddChange({ shot, element }: { shot: ShotOnBench; element: Element }) {
  const [open, setOpen] = useState(false)
  const kinds = useQuery(kindsQuery).data ?? []
  const set = useBench((b) => b.set)
  const extracts = useQuery(extractsQuery).data ?? []
  const passes = usePassesOf(element)
  const made = extracts.map((e) => e.gives)
  const absent = (k: KindInfo) => k.reads.filter((r) => r.required && !offers(element, passes, r.role))
  // Where the files of the frames say where the camera stands, what stands still goes as the camera does.
  const posed = element.camera?.world !== undefined && (element.sequences ?? []).length > 0 && offers(element, passes, 'position')
  const byItself = (r: Reads) => extracts.find((e) => e.by_itself && e.gives === r.role && (posed || !e.needs_poses))
  const lacking = (k: KindInfo) => absent(k).filter((r) => !byItself(r))
  const add = (k: KindInfo) => {
    const label = `Add ${k.title.toLowerCase()}`
    const makes = absent(k).flatMap((r) => byItself(r) ?? [])
    const own = (doc: Shot) => doc.elements.find((e) => e.id === element.id) ?? element
    const added = (before: Shot, does: Step['does']) => {
      const step = { ...newStep(own(before), k), does }
      set({ element: element.id, step: step.id, extract: null, part: 0, upTo: null })
      const doc = makes.reduce((doc, info) => withExtract(doc, element.id, newExtract(doc, own(doc), passes, info).extract), before)
      return withElement(doc, element.id, (e) => ({ ...e, steps: [...e.steps, step] }))
    }
    const found = foundFor(shot, element, k)
    if (found) shot.commitFound(label, async (doc) => added(doc, await found))
    else shot.commit(label, added(shot.doc, k.defaults))
  }
  const groups = [...new Set(kinds.map((k) => k.group))]
  return (
    <div className="px-3 pt-1">
      <Popover.Root open={open} onOpenChange={setOpen}>
        <Popover.Trigger asChild>
          <Button>Add a change…</Button>
        </Popover.Trigger>
        <Popover.Portal>
          <Popover.Content align="start" sideOffset={4} collisionPadding={8} aria-label="Changes" className="z-40 w-80 rounded-tile border border-line bg-raised shadow-xl">
            <Command label="Changes" loop className="flex max-h-[var(--radix-popover-content-available-height)] flex-col">
              <Command.Input autoFocus placeholder="Search, or choose below" className="m-1.5 h-7 shrink-0 rounded-tile border border-line bg-ground px-2" data-search-changes />
              <Command.List className="min-h-0 overflow-y-auto px-1 pb-1">
                <Command.Empty className="px-2 py-2 text-dim">No change has that word in its name or description.</Command.Empty>
                {groups.map((group) => (
                  <Command.Group key={group} heading={group} className="[&_[cmdk-group-heading]]:px-2 [&_[cmdk-group-heading]]:pt-1.5 [&_[cmdk-group-heading]]:text-[11px] [&_[cmdk-group-heading]]:font-semibold [&_[cmdk-group-heading]]:text-dim">
                    {kinds
                      .filter((k) => k.group === group)
                      .map((k) => {
                        const missing = lacking(k)
                        return (
                          <Command.Item
                            key={k.kind}
                            value={k.kind}
                            keywords={[k.title, k.about, group]}
                            disabled={missing.length > 0}
                            onSelect={() => {
                              setOpen(false)
                              add(k)
                            }}
                            className="cursor-pointer rounded-[4px] px-2 py-1 data-[disabled=true]:cursor-default data-[disabled=true]:opacity-60 data-[selected=true]:bg-accent-ground data-[selected=true]:[&_span]:text-text"
                          >
                            <span className="block font-medium">{k.title}</span>
                            <span className="block text-dim">{missing.length > 0 ? lacks(missing.map((m) => m.role), made) : k.about}</span>
                          </Command.Item>
                        )
                      })}
                  </Command.Group>
                ))}
              </Command.List>
            </Command>
          </Popover.Content>
        </Popover.Portal>
      </Popover.Root>
    </div>
  )
}

interface RowProps {
  shot: ShotOnBench
  element: Element
  step: Step
  place: number
}

function Row({ shot, element, step, place }: RowProps) {
  const sentences = useSentences(shot)
  const { element: current, step: chosen, upTo, alone, set } = useBenchOf('element', 'step', 'upTo', 'alone', 'set')
  const sentence = sentences.find((s) => s.element === element.id && s.step === step.id)?.text ?? step.does.kind
  // Steps of other elements have the same numbers.
  const here = chosen === step.id && (current ?? element.id) === element.id
  const show = (only: boolean) => set(upTo === step.id && alone === only ? { upTo: null } : { upTo: step.id, alone: only })
  const change = (label: string, steps: (list: Step[]) => Step[]) =>
    shot.commit(label, withElement(shot.doc, element.id, (e) => ({ ...e, steps: steps(e.steps) })))
  const move = (by: number) =>
    change('Reorder', (list) => {
      const rest = list.filter((s) => s.id !== step.id)
      rest.splice(place + by, 0, step)
      return rest
    })
  const copy = () => {
    const id = Math.max(...element.steps.map((s) => s.id)) + 1
    set({ step: id, extract: null })
    change('Duplicate', (list) => list.flatMap((s) => (s.id === step.id ? [s, { ...s, id }] : [s])))
  }
  const remove = () => {
    set({ step: element.steps[place + 1]?.id ?? element.steps[place - 1]?.id ?? null, upTo: null })
    change('Remove', (list) => list.filter((s) => s.id !== step.id))
  }

  return (
    <li className={`group border-l-2 px-2 py-1.5 ${here ? 'border-accent bg-accent-ground' : 'border-transparent hover:bg-raised'}`} data-step={step.id}>
      <div className="flex items-start gap-2">
        <Toggle
          label={`Step ${place + 1} happens`}
          on={step.on}
          className="mt-0.5"
          onChange={(on) => shot.commit(on ? 'Switch on' : 'Switch off', withStep(shot.doc, element.id, step.id, (s) => ({ ...s, on })))}
        />
        <button type="button" aria-current={here} className={`grow text-left ${step.on ? '' : 'text-dim line-through'}`} onClick={() => set({ element: element.id, step: step.id, extract: null, part: 0, item: null, pinned: null, pointing: null })}>
          <span className="figures mr-1.5 text-dim">{place + 1}</span>
          {sentence}
        </button>
      </div>
      <div className={`mt-1 flex items-center pl-1 ${here ? '' : 'hidden'}`}>
        <Button look="quiet" className={upTo === step.id && !alone ? 'text-accent!' : ''} aria-pressed={upTo === step.id && !alone} onClick={() => show(false)} hint="Show the picture as it is after this step">
          Up to here
        </Button>
        <Button look="quiet" data-alone className={upTo === step.id && alone ? 'text-accent!' : ''} aria-pressed={upTo === step.id && alone} onClick={() => show(true)} hint="Show only what this step gives: of lamps, their light">
          Alone
        </Button>
        <span className="grow" />
        <Button look="quiet" aria-label="Earlier" disabled={place === 0} onClick={() => move(-1)} hint="Earlier">
          <Line kind="up" />
        </Button>
        <Button look="quiet" aria-label="Later" disabled={place === element.steps.length - 1} onClick={() => move(1)} hint="Later">
          <Line kind="down" />
        </Button>
        <SavePreset shot={shot} element={element} steps={[step.id]} />
        <Button look="quiet" aria-label="Duplicate" onClick={copy} hint="Duplicate">
          <Line kind="twice" />
        </Button>
        <Button look="quiet" aria-label="Remove" onClick={remove} hint="Remove; undo brings it back">
          <Line kind="remove" />
        </Button>
      </div>
    </li>
  )
}
