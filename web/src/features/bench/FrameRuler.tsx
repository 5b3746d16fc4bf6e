import { useState } from 'react'
import { Button, Key } from '../../ui/Button'
import { Slider } from '../../ui/Slider'
import { keysOf } from '../time/keys'
import { goTo, toggle } from '../time/playing/player'
import { PlayingButton } from '../time/playing/PlayingButton'
import { RulerMarks } from '../time/playing/RulerMarks'
import { StripDialog } from '../time/StripDialog'
import { useBenchOf, useShownFrame } from './store'
import type { ShotOnBench } from './useShot'

/** The frames of a sequence; nothing for a still. */
export function FrameRuler({ shot }: { shot: ShotOnBench }) {
  const { time, driven, element, step, playing, set } = useBenchOf('time', 'driven', 'element', 'step', 'playing', 'set')
  const frame = useShownFrame(shot.doc)
  const [strip, setStrip] = useState(false)
  const range = shot.doc.frames
  if (!range) return null
  const go = (to: number) => goTo(Math.min(range.last, Math.max(range.first, to)))
  // Keys of the parameter whose course is seen, else of the chosen step.
  const own = `elements/${element ?? shot.doc.elements[0]?.id}/steps/${step}/`
  const drives = (shot.doc.drives ?? []).filter((d) => (time && driven ? d.at === driven : d.at.startsWith(own)))
  const frames = [...new Set(drives.flatMap((d) => keysOf(d).map((k) => k.frame)))].toSorted((a, b) => a - b)
  return (
    <div className="flex h-9 shrink-0 items-center gap-2 border-t border-line bg-panel px-3" data-frame={frame}>
      <Button look="quiet" aria-label="Frame before" disabled={frame <= range.first} onClick={() => go(frame - 1)}>
        ‹
      </Button>
      <span className="figures w-12 text-center">{frame}</span>
      <Button look="quiet" aria-label="Next frame" disabled={frame >= range.last} onClick={() => go(frame + 1)}>
        ›
      </Button>
      <Button look="quiet" aria-label="Play backwards" aria-pressed={playing === -1} onClick={() => toggle(shot.doc, -1)} hint={<>Plays backwards <Key>J</Key></>}>
        {playing === -1 ? 'Stop' : '◂'}
      </Button>
      <Button look="quiet" className="w-12" aria-pressed={playing === 1} onClick={() => toggle(shot.doc, 1)} hint={<>Plays the frames; what is worked out already at their rate <Key>L</Key></>}>
        {playing === 1 ? 'Stop' : 'Play'}
      </Button>
      <div className="relative flex min-w-0 grow">
        <RulerMarks shot={shot} frames={range} keys={frames} />
        <Slider label="Frame" name="frame" min={range.first} max={range.last} step={1} value={frame} onChange={go} bare />
      </div>
      <PlayingButton shot={shot} frames={range} />
      <Button onClick={() => setStrip(true)} hint="Frames of the result, or of one step, side by side">
        Strip
      </Button>
      <StripDialog shot={shot} frames={range} open={strip} onClose={() => setStrip(false)} />
      <Button className="aria-pressed:border-accent aria-pressed:bg-accent-ground" aria-pressed={time} onClick={() => set({ time: !time })} hint="What moves in this shot, in the place of the deck">
        Time
      </Button>
    </div>
  )
}
