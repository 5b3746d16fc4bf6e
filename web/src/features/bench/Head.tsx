import { useState } from 'react'
import { Link } from 'wouter'
import { Button, Key } from '../../ui/Button'
import { ThemeButton } from '../../ui/theme'
import { Modal } from '../../ui/Modal'
import { HistoryDialog } from './HistoryDialog'
import { HandoffDialog } from '../handoff/HandoffDialog'
import { useRoom } from './room'
import { RoomButtons } from './RoomButtons'
import { ShotHead } from './ShotHead'
import type { ShotOnBench } from './useShot'

/** Name, saved state, undo and redo, hand-off. */
export function Head({ shot, help, setHelp }: { shot: ShotOnBench; help: boolean; setHelp: (open: boolean) => void }) {
  const [handoff, setHandoff] = useState(false)
  const [history, setHistory] = useState(false)
  const { frames } = shot.state.shot
  const cleared = useRoom((r) => r.cleared)
  return (
    <ShotHead shot={shot} thin={cleared} words={frames ? `frames ${frames.first}–${frames.last}` : 'still'}>
      <Link href={`/shots/${shot.id}/intake`} className="inline-flex h-7 items-center rounded-tile px-1.5 text-dim hover:bg-raised hover:text-text" data-to-intake>
        Intake
      </Link>
      <RoomButtons />
      <Button look="quiet" onClick={() => setHistory(true)} hint="Look at earlier states, name them, bring them back" data-history>
        History
      </Button>
      <ThemeButton />
      <Button look="quiet" onClick={() => setHelp(true)} hint={<>Keys <Key>?</Key></>}>
        Keys
      </Button>
      <Button look="main" onClick={() => setHandoff(true)}>
        Hand off…
      </Button>
      <HandoffDialog shot={shot} open={handoff} onClose={() => setHandoff(false)} />
      <HistoryDialog shot={shot} open={history} onClose={() => setHistory(false)} />
      <KeySheet open={help} onClose={() => setHelp(false)} />
    </ShotHead>
  )
}

const KEYS: [string, string][] = [
  ['B', 'hold: the picture before all changes'],
  ['1 2 3 4 5 6', 'pair, single, wipe, spot, difference, rock'],
  ['0 / 9', 'fit the frame / one px on one px'],
  ['[ ]', 'the step before / after'],
  ['Ctrl Z', 'undo'],
  ['Ctrl Shift Z', 'redo'],
  ['T', 'the matte of the step as a tint over the picture'],
  ['X', 'brush: add or erase'],
  ['L / J', 'play the frames forwards / backwards, and stop'],
  ['I / O', 'play from this frame / up to it; once more lets it go'],
  ['K', 'a key for the field under the pointer, or none'],
  ['C', 'only the panes, and back'],
  ['P S D R', 'fold or open passes, steps, deck, rows'],
  ['Esc', 'stop picking or painting'],
  ['?', 'this sheet'],
  ['Wheel', 'zoom at the pointer'],
  ['Drag', 'move the picture; on a number, change it'],
  ['Arrows', 'on a number: step it (Shift ×10, Alt ÷10); on a lamp: move it'],
]

function KeySheet({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Modal title="Keys" open={open} onClose={onClose}>
      <dl className="grid grid-cols-[8rem_1fr] gap-y-1.5">
        {KEYS.map(([key, what]) => (
          <div key={key} className="contents">
            <dt>
              <Key>{key}</Key>
            </dt>
            <dd>{what}</dd>
          </div>
        ))}
      </dl>
    </Modal>
  )
}
