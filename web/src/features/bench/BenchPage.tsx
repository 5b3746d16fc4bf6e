import { useEffect, useState } from 'react'
import { api } from '../../api/client'
import type { Element, Pass, Step } from '../../api/types'
import { Notice } from '../../ui/Notice'
import { Deck } from '../deck/Deck'
import { Head } from './Head'
import { Seeings } from './Seeings'
import { FrameRuler } from './FrameRuler'
import { Numbers } from './Numbers'
import { Panes, usePartner } from './Panes'
import { PassTray } from './PassTray'
import { Steps } from './Steps'
import { ShotGate } from './ShotGate'
import { useBench } from './store'
import { travelTo } from './travel'
import { depthAt } from './depth'
import type { Point } from './geometry'
import { useKeys } from './useKeys'
import { withStep, type ShotOnBench } from './useShot'

/** The main screen: passes, steps, yoked panes, deck. */
export function BenchPage({ id }: { id: string }) {
  return <ShotGate id={id}>{(shot) => <Bench shot={shot} />}</ShotGate>
}

function Bench({ shot }: { shot: ShotOnBench }) {
  const [help, setHelp] = useState(false)
  const { element: chosenElement, step: chosenStep, trouble, set } = useBench()
  const element = shot.doc.elements.find((e) => e.id === chosenElement) ?? shot.doc.elements[0] ?? null
  const step = element?.steps.find((s) => s.id === chosenStep) ?? null
  const partner = usePartner(element, step)
  useKeys(shot, element, setHelp)
  const first = element?.steps[0]?.id ?? null
  useEffect(() => {
    // Something to see at once: the first step is chosen until another is.
    if (useBench.getState().step === null && first !== null) set({ step: first })
  }, [first, set])

  return (
    <main className="flex h-full flex-col">
      <Head shot={shot} help={help} setHelp={setHelp} />
      {trouble && <Notice text={trouble} onDismiss={() => set({ trouble: null })} />}
      <PassTray shot={shot} element={element} partner={partner} />
      <div className="flex min-h-0 grow">
        <Steps shot={shot} />
        <div className="flex min-w-0 grow flex-col">
          <Seeings shot={shot} element={element} partner={partner} />
          <div className="min-h-0 grow">
            <Panes shot={shot} element={element} step={step} onPoint={(at) => void point(shot, element, step, partner, at)} />
          </div>
          <FrameRuler shot={shot} />
          <Numbers shot={shot} element={element} partner={partner} />
        </div>
      </div>
      {element && step ? (
        <Deck shot={shot} element={element} step={step} />
      ) : (
        <div className="flex h-[224px] shrink-0 items-center justify-center border-t border-line bg-panel text-dim">
          Choose a step on the left to see what it reads, does, where, and how it joins; or add a change.
        </div>
      )}
    </main>
  )
}

/** Bits of the hashed ID that covers most of a pixel, from its pairs of ID and coverage. */
function mostCovering(pairs: (number | null)[]): number | null {
  let best: [id: number, coverage: number] | null = null
  for (let i = 0; i + 1 < pairs.length; i += 2) {
    const [id, coverage] = [pairs[i], pairs[i + 1]]
    if (id && coverage && coverage > (best?.[1] ?? 0)) best = [id, coverage]
  }
  // The number that JSON brought is the 32-bit float exactly; its bits are the ID.
  return best && (new Uint32Array(new Float32Array([best[0]]).buffer)[0] ?? null)
}

/** A click in a pane while picking. */
async function point(shot: ShotOnBench, element: Element | null, step: Step | null, partner: Pass | null, [x, y]: Point) {
  const { pointing, depthFor, frame, set } = useBench.getState()
  if (!element) return
  const shown = frame ?? shot.doc.frames?.first ?? 0
  try {
    if (pointing === 'travel') {
      const probe = await api.probe(shot.id, shot.state.revision, element.id, shown, x, y)
      const z = probe.passes.find((p) => p.pass === partner?.id)?.canonical[0]
      if (z === null || z === undefined) set({ trouble: 'There is no depth at that place; click on something.' })
      else travelTo(z)
      return
    }
    if (!step) return
    if (pointing === 'depth' || pointing === 'depth-range') {
      const z = await depthAt(shot.id, shot.state.revision, element.id, shown, x, y)
      if (z === null) {
        set({ trouble: 'There is no depth at that place; click on something.' })
        return
      }
      const first = useBench.getState().firstDepth
      if (pointing === 'depth-range' && first === null) {
        set({ firstDepth: z })
        return
      }
      set({ pointing: null, firstDepth: null })
      if (step.does.kind !== 'refocus') {
        const does = { ...step.does, [depthFor]: z } as Step['does']
        shot.commit('Set a depth', withStep(shot.doc, element.id, step.id, (s) => ({ ...s, does })))
        return
      }
      const [near, far] = pointing === 'depth-range' && first !== null ? [Math.min(first, z), Math.max(first, z)] : [z, z]
      const does = { ...step.does, focus: near, sharp: pointing === 'depth' ? step.does.sharp : far - near }
      shot.commit('Set focus', withStep(shot.doc, element.id, step.id, (s) => ({ ...s, does })))
      return
    }
    if (pointing === 'highlight') {
      const placed = await api.place({ shot: shot.doc, element: element.id, step: step.id, frame: shown, x, y, how: 'highlight' })
      set({ pointing: null })
      shot.commit('Put the highlight', withStep(shot.doc, element.id, step.id, (s) => ({ ...s, does: { kind: 'relight', ...placed.relight } })))
    } else if (pointing === 'object' && step.only_where?.by.kind === 'hashed') {
      const probe = await api.probe(shot.id, shot.state.revision, element.id, shown, x, y)
      const values = probe.passes.find((p) => p.role === 'hashed_id')?.canonical ?? []
      const id = mostCovering(values)
      if (id === null) {
        set({ trouble: 'There is no object at that place; click on one.' })
        return
      }
      const { invert, by } = step.only_where
      const facts = await api.facts(shot.id, shot.state.revision, element.id, shown)
      const name = facts.flatMap((f) => f.names).find(([n]) => n === id)?.[1] ?? ''
      const ids = by.ids.some((h) => h.id === id) ? by.ids.filter((h) => h.id !== id) : [...by.ids, { id, name }]
      shot.commit('Set objects', withStep(shot.doc, element.id, step.id, (s) => ({ ...s, only_where: { invert, by: { kind: 'hashed', ids } } })))
    } else if (pointing === 'object' && step.only_where?.by.kind === 'objects') {
      const probe = await api.probe(shot.id, shot.state.revision, element.id, shown, x, y)
      const id = probe.passes.find((p) => p.role === 'object_id')?.canonical[0]
      if (!id) {
        set({ trouble: 'There is no object at that place; click on one.' })
        return
      }
      const { invert, by } = step.only_where
      const ids = by.ids.includes(id) ? by.ids.filter((i) => i !== id) : [...by.ids, id]
      shot.commit('Set objects', withStep(shot.doc, element.id, step.id, (s) => ({ ...s, only_where: { invert, by: { kind: 'objects', ids } } })))
    }
  } catch (e) {
    set({ trouble: e instanceof Error ? e.message : 'That did not work.' })
  }
}
