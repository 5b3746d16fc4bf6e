import { Button } from '../../../ui/Button'
import { NumberField } from '../../../ui/NumberField'
import { useBench, type Pointing } from '../../bench/store'
import { PointControl, type Control } from '../controls'

function PointButton({ to, words, hint }: { to: Pointing; words: string; hint: string }) {
  const { pointing, set } = useBench()
  const mine = pointing === to
  return (
    <Button className="self-start" data-aim={to} aria-pressed={mine} onClick={() => set({ pointing: mine ? null : to })} hint={hint}>
      {mine ? 'Click the picture…' : words}
    </Button>
  )
}

/** The place of a lamp: numbers, its handle, or over a clicked surface. */
export function LampPlace(c: Control) {
  const { lift, set } = useBench()
  return (
    <div className="flex flex-col gap-1">
      <PointControl {...c} />
      <NumberField label="Lift" value={lift} unit="units" step={0.01} reset={0.5} min={0} hint="How far off a clicked surface the lamp is hung" onPreview={(v) => set({ lift: v })} onCommit={(v) => set({ lift: v })} />
      <PointButton to="lamp-surface" words="Hang it over…" hint="Then click the surface over which the lamp hangs, at the distance of the lift" />
    </div>
  )
}

/** What a spot is turned to. */
export function LampAim(c: Control) {
  return (
    <div className="flex flex-col gap-1">
      <PointControl {...c} />
      <PointButton to="lamp-aim" words="Aim it at…" hint="Then click the surface that the spot is turned to" />
    </div>
  )
}
