import { Popover } from 'radix-ui'
import type { FrameRange } from '../../../api/types'
import { Button, Key } from '../../../ui/Button'
import { Choice } from '../../../ui/Choice'
import { NumberField } from '../../../ui/NumberField'
import { useBenchOf } from '../../bench/store'
import type { ShotOnBench } from '../../bench/useShot'
import { framesKept, useKept, wayOf } from './memory'
import { mark } from './player'
import { played, type AtEnd } from './range'

const ENDS: { value: AtEnd; label: string }[] = [
  { value: 'again', label: 'Again' },
  { value: 'back', label: 'There and back' },
  { value: 'stop', label: 'Stop' },
]

const SCALES: { value: '0' | '1' | '2' | 'auto'; label: string; hint: string }[] = [
  { value: 'auto', label: 'What keeps up', hint: 'Coarser while frames come too late or have no room, finer once they are there' },
  { value: '0', label: 'As seen', hint: 'As fine as the picture that stands still' },
  { value: '1', label: '½', hint: 'Half of that' },
  { value: '2', label: '¼', hint: 'A quarter of that' },
]

const SHARES = ['', ' at ½', ' at ¼']

interface Props {
  shot: ShotOnBench
  frames: FrameRange
}

/** Which frames play and how; the button says how well it goes. */
export function PlayingButton({ shot, frames }: Props) {
  const { playing, reached, coarser, between } = useBenchOf('playing', 'reached', 'coarser', 'between')
  const range = played(shot.doc, between)
  const { rate } = shot.doc
  const now = playing !== 0 && reached !== null ? `${Math.min(rate, reached).toFixed(reached < 10 ? 1 : 0)} of ` : ''
  const still = `${range.first}–${range.last} · ${rate} fps`
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        {/* As wide at rest as while it plays: the line beside it must not change its length under the pointer. */}
        <Button look="quiet" className="figures text-left" style={{ minWidth: `${still.length + 14}ch` }} data-playing-menu hint="Which frames play, and how">
          {range.first}–{range.last} · {now}
          {rate} fps{SHARES[coarser]}
        </Button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content side="top" align="end" sideOffset={6} collisionPadding={8} aria-label="Playing" className="z-50 w-[340px] rounded-tile border border-line bg-raised p-3 shadow-xl">
          <PlayingFields shot={shot} frames={frames} range={range} />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}

function PlayingFields({ shot, frames, range }: Props & { range: FrameRange }) {
  const { between, atEnd, playScale, looks, coarser, set } = useBenchOf('between', 'atEnd', 'playScale', 'looks', 'coarser', 'set')
  useKept((k) => k.changes)
  const look = looks.picture?.[coarser]
  const there = look ? framesKept(wayOf(look)).filter((f) => f >= range.first && f <= range.last).length : 0
  const count = range.last - range.first + 1
  const end = (label: string, which: 'first' | 'last', key: string) => (
    <span className="flex items-center gap-1">
      <NumberField label={label} value={range[which]} step={1} min={frames.first} max={frames.last} reset={frames[which]} onPreview={() => undefined} onCommit={(v) => mark(shot.doc, which, Math.round(v))} />
      <Key>{key}</Key>
    </span>
  )
  return (
    <div className="flex flex-col gap-2">
      <p className="text-dim">
        {there === count ? 'All frames are worked out.' : `${there} of ${count} frames are worked out; the others follow while nothing else is to be done.`}
      </p>
      {end('Plays from', 'first', 'I')}
      {end('Plays to', 'last', 'O')}
      {between && (
        <Button className="self-start" look="quiet" onClick={() => set({ between: null })}>
          All frames
        </Button>
      )}
      <span className="text-dim">At the end</span>
      <span>
        <Choice label="At the end" value={atEnd} options={ENDS} onChange={(v) => set({ atEnd: v })} />
      </span>
      <span className="text-dim">How fine it plays</span>
      <span>
        <Choice label="How fine it plays" value={`${playScale}`} options={SCALES} onChange={(v) => set({ playScale: v === 'auto' ? v : (Number(v) as 0 | 1 | 2) })} />
      </span>
    </div>
  )
}
