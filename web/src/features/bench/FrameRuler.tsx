import { Button } from '../../ui/Button'
import { Slider } from '../../ui/Slider'
import { useBenchOf, useFrame } from './store'
import type { ShotOnBench } from './useShot'

/** The frames of a sequence; nothing for a still. */
export function FrameRuler({ shot }: { shot: ShotOnBench }) {
  const { set } = useBenchOf('set')
  const frame = useFrame(shot.doc)
  const range = shot.doc.frames
  if (!range) return null
  const go = (to: number) => set({ frame: Math.min(range.last, Math.max(range.first, to)) })
  return (
    <div className="flex h-9 shrink-0 items-center gap-2 border-t border-line bg-panel px-3" data-frame={frame}>
      <Button look="quiet" aria-label="Frame before" disabled={frame <= range.first} onClick={() => go(frame - 1)}>
        ‹
      </Button>
      <span className="figures w-12 text-center">{frame}</span>
      <Button look="quiet" aria-label="Next frame" disabled={frame >= range.last} onClick={() => go(frame + 1)}>
        ›
      </Button>
      <Slider label="Frame" name="frame" min={range.first} max={range.last} step={1} value={frame} onChange={go} />
      <span className="figures text-dim">
        {range.first}–{range.last} · {shot.doc.rate} fps
      </span>
    </div>
  )
}
