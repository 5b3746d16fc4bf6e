import { useState } from 'react'
import { Button, Key } from '../../ui/Button'
import { Slider } from '../../ui/Slider'
import { keysOf } from '../time/keys'
import { StripDialog } from '../time/StripDialog'
import { usePlay } from '../time/usePlay'
import { useBenchOf, useFrame } from './store'
import type { ShotOnBench } from './useShot'

const STILL = { first: 0, last: 0 }

/** The frames of a sequence; nothing for a still. */
export function FrameRuler({ shot }: { shot: ShotOnBench }) {
  const { time, driven, element, step, set } = useBenchOf('time', 'driven', 'element', 'step', 'set')
  const frame = useFrame(shot.doc)
  const [strip, setStrip] = useState(false)
  const range = shot.doc.frames
  const { playing, reached } = usePlay(range ?? STILL, frame, shot.doc.rate)
  if (!range) return null
  const go = (to: number) => set({ frame: Math.min(range.last, Math.max(range.first, to)) })
  // Keys of the parameter whose course is seen, else of the chosen step.
  const own = `elements/${element ?? shot.doc.elements[0]?.id}/steps/${step}/`
  const drives = (shot.doc.drives ?? []).filter((d) => (time && driven ? d.at === driven : d.at.startsWith(own)))
  const frames = [...new Set(drives.flatMap((d) => keysOf(d).map((k) => k.frame)))].toSorted((a, b) => a - b)
  const share = (f: number) => (f - range.first) / Math.max(1, range.last - range.first)
  return (
    <div className="flex h-9 shrink-0 items-center gap-2 border-t border-line bg-panel px-3" data-frame={frame}>
      <Button look="quiet" aria-label="Frame before" disabled={frame <= range.first} onClick={() => go(frame - 1)}>
        ‹
      </Button>
      <span className="figures w-12 text-center">{frame}</span>
      <Button look="quiet" aria-label="Next frame" disabled={frame >= range.last} onClick={() => go(frame + 1)}>
        ›
      </Button>
      <Button look="quiet" className="w-12" aria-pressed={playing} onClick={() => set({ playing: !playing })} hint={<>Plays all frames over and over <Key>L</Key></>}>
        {playing ? 'Stop' : 'Play'}
      </Button>
      <div className="relative flex min-w-0 grow">
        <Slider label="Frame" name="frame" min={range.first} max={range.last} step={1} value={frame} onChange={go} />
        {frames.map((f) => (
          <button
            key={f}
            type="button"
            aria-label={`Key at frame ${f}`}
            data-ruler-key={f}
            onClick={() => go(Math.round(f))}
            className="absolute -top-1 size-[7px] -translate-x-1/2 rounded-full border border-panel bg-accent"
            style={{ left: `calc(${share(f)} * (100% - 8px) + 4px)` }}
          />
        ))}
      </div>
      <span className="figures text-dim">
        {range.first}–{range.last} · {playing && reached !== null && `${Math.min(shot.doc.rate, reached).toFixed(reached < 10 ? 1 : 0)} of `}
        {shot.doc.rate} fps
      </span>
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
