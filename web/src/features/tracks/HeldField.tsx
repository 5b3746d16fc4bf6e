import type { Element } from '../../api/types'
import { Select } from '../../ui/Select'
import { PlaneGlyph } from './TrackList'

interface Props<T> {
  /** What is there to be held to. */
  planes: { value: T; name: string }[]
  held: T | null
  same: (a: T, b: T) => boolean
  onHold: (to: T | null) => void
}

/** What something is held to: nothing, or a plane that is followed. */
export function HeldField<T>({ planes, held, same, onHold }: Props<T>) {
  if (planes.length === 0) return null
  const at = held === null ? -1 : planes.findIndex((p) => same(p.value, held))
  const options = [{ value: '', label: 'nothing' }, ...planes.map((p, i) => ({ value: `${i}`, label: p.name }))]
  return (
    <div className="mt-1.5 flex items-center gap-2 text-dim" data-held={at}>
      <PlaneGlyph />
      <span className="shrink-0">Held to</span>
      <Select label="Held to" name="held" className="min-w-0 flex-1" value={at < 0 ? '' : `${at}`} options={options} onChange={(v) => onHold(v === '' ? null : (planes[Number(v)]?.value ?? null))} />
    </div>
  )
}

/** The same for what goes along with a plane of its own element. */
export function HeldToOwn({ element, held, onHold }: { element: Element; held: number | undefined; onHold: (track: number | undefined) => void }) {
  const planes = (element.tracks ?? []).map((t) => ({ value: t.id, name: t.name }))
  return <HeldField planes={planes} held={held ?? null} same={Object.is} onHold={(to) => onHold(to ?? undefined)} />
}
