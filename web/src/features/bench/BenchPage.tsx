import { useQuery } from '@tanstack/react-query'
import { useEffect, useState } from 'react'
import { extractsQuery } from '../../api/queries'
import { Notice } from '../../ui/Notice'
import { Deck } from '../deck/Deck'
import { ExtractDeck } from '../deck/ExtractDeck'
import { Others } from './elements'
import { Head } from './Head'
import { Seeings } from './Seeings'
import { FrameRuler } from './FrameRuler'
import { Numbers } from './Numbers'
import { Panes, usePartner } from './Panes'
import { passesOf } from './passes'
import { PassTray } from './PassTray'
import type { Scene } from './pointing'
import { Steps } from './Steps'
import { ShotGate } from './ShotGate'
import { useBench, useFrame } from './store'
import { useKeys } from './useKeys'
import type { ShotOnBench } from './useShot'

/** The main screen: passes, steps, yoked panes, deck. */
export function BenchPage({ id }: { id: string }) {
  return <ShotGate id={id}>{(shot) => <Bench shot={shot} />}</ShotGate>
}

function Bench({ shot }: { shot: ShotOnBench }) {
  const [help, setHelp] = useState(false)
  const { element: chosenElement, step: chosenStep, extract: chosenExtract, trouble, set } = useBench()
  const frame = useFrame(shot.doc)
  const kinds = useQuery(extractsQuery).data ?? []
  const element = shot.doc.elements.find((e) => e.id === chosenElement) ?? shot.doc.elements[0] ?? null
  const step = element?.steps.find((s) => s.id === chosenStep) ?? null
  const extract = element?.extracts?.find((e) => e.id === chosenExtract) ?? null
  const passes = element ? passesOf(element, kinds) : []
  const partner = usePartner(element, passes, step, extract)
  useKeys(shot, element, setHelp)
  const first = element?.steps[0]?.id ?? null
  useEffect(() => {
    // Something to see at once: the first step is chosen until another is.
    if (useBench.getState().step === null && first !== null) set({ step: first })
  }, [first, set])
  const scene: Scene | null = element && { shot, element, step: extract ? null : step, extract, partner, frame }

  return (
    <main className="flex h-full flex-col">
      <Head shot={shot} help={help} setHelp={setHelp} />
      {trouble && <Notice text={trouble} onDismiss={() => set({ trouble: null })} />}
      <PassTray shot={shot} element={element} passes={passes} partner={partner} />
      <div className="flex min-h-0 grow">
        <Steps shot={shot} />
        <div className="flex min-w-0 grow flex-col">
          <Seeings shot={shot} element={element} partner={partner} />
          <div className="min-h-0 grow">
            <Panes shot={shot} scene={scene} />
          </div>
          <FrameRuler shot={shot} />
          <Numbers shot={shot} element={element} partner={partner} />
        </div>
      </div>
      <Others value={shot.doc.elements.filter((e) => e.id !== element?.id)}>
        {element && extract ? (
          <ExtractDeck shot={shot} element={element} extract={extract} />
        ) : element && step ? (
          <Deck shot={shot} element={element} step={step} />
        ) : (
          <div className="flex h-[224px] shrink-0 items-center justify-center border-t border-line bg-panel text-dim">
            Choose a step on the left to see what it reads, does, where, and how it joins; or add a change.
          </div>
        )}
      </Others>
    </main>
  )
}
