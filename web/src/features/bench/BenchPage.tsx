import { useEffect, useRef, useState, type ReactNode } from 'react'
import { Group, Panel, Separator, type PanelSize } from 'react-resizable-panels'
import { Notice } from '../../ui/Notice'
import { TrackDeck } from '../tracks/TrackDeck'
import { Player } from '../time/playing/player'
import { TimeDeck } from '../time/TimeDeck'
import { Deck } from '../deck/Deck'
import { DeckLine } from '../deck/DeckLine'
import { ElementDeck } from '../deck/ElementDeck'
import { ExtractDeck } from '../deck/ExtractDeck'
import { CameraGoes, mayGo, Others, OwnMattes } from './elements'
import type { NamedMatte } from '../../api/types'
import { Head } from './Head'
import { Seeings } from './Seeings'
import { FrameRuler } from './FrameRuler'
import { Numbers } from './Numbers'
import { Panes, usePartner } from './Panes'
import { usePassesOf } from './passes'
import { PassTray } from './PassTray'
import type { Scene } from './pointing'
import { useOpen, useRoom } from './room'
import { Steps } from './Steps'
import { ShotGate } from './ShotGate'
import { useBench, useBenchOf, useFrame } from './store'
import { useKeys } from './useKeys'
import { useAskForSentences } from './useSentences'
import type { ShotOnBench } from './useShot'

/** The main screen: passes, steps, yoked panes, deck. */
export function BenchPage({ id }: { id: string }) {
  return <ShotGate id={id}>{(shot) => <Bench shot={shot} />}</ShotGate>
}

function Bench({ shot }: { shot: ShotOnBench }) {
  const [help, setHelp] = useState(false)
  const { element: chosenElement, step: chosenStep, extract: chosenExtract, track: chosenTrack, trouble, time, set } = useBenchOf('element', 'step', 'extract', 'track', 'trouble', 'time', 'set')
  const frame = useFrame(shot.doc)
  const element = shot.doc.elements.find((e) => e.id === chosenElement) ?? shot.doc.elements[0] ?? null
  const step = element?.steps.find((s) => s.id === chosenStep) ?? null
  const extract = element?.extracts?.find((e) => e.id === chosenExtract) ?? null
  const track = element?.tracks?.find((t) => t.id === chosenTrack) ?? null
  const passes = usePassesOf(element)
  const partner = usePartner(element, passes, step, extract)
  useKeys(shot, element, setHelp)
  const first = element?.steps[0]?.id ?? null
  const opened = useRef(false)
  useEffect(() => {
    // Something to see at once: the first step is chosen when the shot is opened.
    if (opened.current || first === null) return
    opened.current = true
    if (useBench.getState().step === null) set({ step: first })
  }, [first, set])
  const scene: Scene | null = element && { shot, element, step: extract ? null : step, extract, track, partner, frame }
  useAskForSentences(shot)
  const rows = useOpen('rows')
  const cleared = useRoom((r) => r.cleared)

  return (
    <main className="flex h-full flex-col">
      <Player shot={shot} />
      <Head shot={shot} help={help} setHelp={setHelp} />
      {trouble && <Notice text={trouble} onDismiss={() => set({ trouble: null })} />}
      <Room
        tray={<PassTray shot={shot} element={element} passes={passes} partner={partner} />}
        steps={<Steps shot={shot} />}
        deck={
          <Others value={shot.doc.elements.filter((e) => e.id !== element?.id)}>
            <CameraGoes value={mayGo(element)}>
            <OwnMattes value={element?.mattes ?? NO_MATTES}>
            {time ? (
              <TimeDeck shot={shot} />
            ) : element && track ? (
              <TrackDeck shot={shot} element={element} track={track} />
            ) : element && extract ? (
              <ExtractDeck shot={shot} element={element} extract={extract} />
            ) : element && step ? (
              <Deck shot={shot} element={element} step={step} />
            ) : element ? (
              <ElementDeck shot={shot} element={element} />
            ) : (
              <div className="flex h-full items-center justify-center bg-panel text-dim">
                Add an element on the left, or bring in a render under Intake.
              </div>
            )}
            </OwnMattes>
            </CameraGoes>
          </Others>
        }
      >
        <div className="flex h-full min-w-0 flex-col">
          {!cleared && <Seeings shot={shot} element={element} partner={partner} />}
          <div className="min-h-0 grow">
            <Panes shot={shot} scene={scene} />
          </div>
          {!cleared && <FrameRuler shot={shot} />}
          {rows && <Numbers shot={shot} element={element} partner={partner} />}
        </div>
      </Room>
      <FoldedDeck>{element && step && !extract ? <DeckLine shot={shot} element={element} step={step} /> : null}</FoldedDeck>
    </main>
  )
}

const NO_MATTES: NamedMatte[] = []

/** The deck's line while it is folded. */
function FoldedDeck({ children }: { children: ReactNode }) {
  const folded = useRoom((r) => !r.deck && !r.cleared)
  return folded ? children : null
}

const BAR = 'bg-line outline-offset-0 hover:bg-dim focus-visible:bg-accent data-[separator=active]:bg-accent'

/** The parts around the panes, as large as they were dragged. */
function Room({ tray, steps, deck, children }: { tray: ReactNode; steps: ReactNode; deck: ReactNode; children: ReactNode }) {
  const [trayOpen, stepsOpen, deckOpen] = [useOpen('tray'), useOpen('steps'), useOpen('deck')]
  const { stepsWide, deckHigh, trayHigh, resize } = useRoom.getState()
  const px = (key: 'stepsWide' | 'deckHigh' | 'trayHigh') => (size: PanelSize) => resize({ [key]: Math.round(size.inPixels) })
  return (
    <Group key={`${trayOpen} ${deckOpen}`} orientation="vertical" className="min-h-0 grow">
      {trayOpen && (
        <>
          <Panel id="tray" defaultSize={trayHigh} minSize={60} maxSize={180} groupResizeBehavior="preserve-pixel-size" onResize={px('trayHigh')}>
            {tray}
          </Panel>
          <Separator className={`h-px ${BAR}`} aria-label="Height of the passes" />
        </>
      )}
      <Panel id="middle" minSize={160}>
        <Group key={`${stepsOpen}`} orientation="horizontal" className="h-full">
          {stepsOpen && (
            <>
              <Panel id="steps" defaultSize={stepsWide} minSize={200} maxSize={520} groupResizeBehavior="preserve-pixel-size" onResize={px('stepsWide')}>
                {steps}
              </Panel>
              <Separator className={`w-px ${BAR}`} aria-label="Width of the steps" />
            </>
          )}
          <Panel id="panes" minSize={320}>
            {children}
          </Panel>
        </Group>
      </Panel>
      {deckOpen && (
        <>
          <Separator className={`h-px ${BAR}`} aria-label="Height of the deck" />
          <Panel id="deck" defaultSize={deckHigh} minSize={120} maxSize={420} groupResizeBehavior="preserve-pixel-size" onResize={px('deckHigh')}>
            {deck}
          </Panel>
        </>
      )}
    </Group>
  )
}
