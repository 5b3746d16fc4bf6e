import { Button } from '../../../ui/Button'
import { NumberField } from '../../../ui/NumberField'
import { useBenchOf, type Pointing } from '../../bench/store'
import { PointControl, type Control } from '../controls'

function PointButton({ to, words, hint }: { to: Pointing; words: string; hint: string }) {
  const { pointing, set } = useBenchOf('pointing', 'set')
  const mine = pointing === to
  return (
    <Button className="self-start" data-aim={to} aria-pressed={mine} onClick={() => set({ pointing: mine ? null : to })} hint={hint}>
      {mine ? 'Click the picture…' : words}
    </Button>
  )
}

/** The place of a lamp: numbers, its handle, or over a clicked surface. */
export function LampPlace(c: Control) {
  const { lift, set } = useBenchOf('lift', 'set')
  return (
    <div className="contents">
      <PointControl {...c} />
      <NumberField label="Lift" value={lift} unit="units" step={0.01} reset={0.5} min={0} hint="Distance from the clicked surface to the lamp" onPreview={(v) => set({ lift: v })} onCommit={(v) => set({ lift: v })} />
      <PointButton to="lamp-surface" words="Place above a surface…" hint="Then click a surface; the lamp is placed above it at the lift distance" />
    </div>
  )
}

/** What a spot is turned to. */
export function LampAim(c: Control) {
  return (
    <div className="contents">
      <PointControl {...c} />
      <PointButton to="lamp-aim" words="Aim it at…" hint="Then click the surface that the spot is turned to" />
    </div>
  )
}
