import { useQuery } from '@tanstack/react-query'
import { factsQuery } from '../../../api/queries'
import type { Element, HashedName, LimitBy } from '../../../api/types'
import { Button } from '../../../ui/Button'
import { Choice } from '../../../ui/Choice'
import { NumberField } from '../../../ui/NumberField'
import { RangeBar } from '../../../ui/RangeBar'
import { Hint } from '../../../ui/Hint'
import { useBench, useBenchOf, type Brush } from '../../bench/store'
import type { ShotOnBench } from '../../bench/useShot'
import type { Triple } from '../../bench/geometry'
import { KeyedField } from '../../time/KeyMark'
import { Ball } from '../Ball'

export interface PartProps<K extends LimitBy['kind'] = LimitBy['kind']> {
  shot: ShotOnBench
  element: Element
  /** Number of the pass that a depth is read from. */
  depth: number | null
  by: Extract<LimitBy, { kind: K }>
  preview: (by: LimitBy) => void
  keep: (by: LimitBy, label?: string) => void
}

/** The controls of one part of a matte. */
export function PartEditor(p: PartProps) {
  const { by } = p
  switch (by.kind) {
    case 'objects':
      return <Objects {...p} by={by} />
    case 'hashed':
      return <Hashed {...p} by={by} />
    case 'depth':
      return <Depth {...p} by={by} />
    case 'facing':
      return <Facing {...p} by={by} />
    case 'luminance':
      return <Luminance {...p} by={by} />
    case 'hue':
      return <Hue {...p} by={by} />
    case 'brush':
      return <BrushTools {...p} by={by} />
    case 'polygon':
      return <Polygon {...p} by={by} />
    case 'ellipse':
      return <Ellipse {...p} by={by} />
    case 'gradient':
      return (
        <>
          <p className="text-dim">Drag its two ends in the picture.</p>
          <Dragged of={[{ name: 'from', label: 'Nothing here', value: by.from }, { name: 'to', label: 'All here', value: by.to }]} />
        </>
      )
    case 'coverage':
    case 'named':
      return null
  }
}

interface NumberProps {
  /** As documents call it. */
  name: string
  label: string
  unit?: string
  value: number
  reset: number
  step: number
  slider?: [number, number]
  min?: number
  put: (value: number, done: boolean) => void
}

function Number({ name, put, min = 0, ...n }: NumberProps) {
  return (
    <KeyedField name={name} label={n.label} value={n.value}>
      <NumberField {...n} min={min} onPreview={(v) => put(v, false)} onCommit={(v) => put(v, true)} />
    </KeyedField>
  )
}

/** Keys of what is dragged, in the picture or along a bar, and has no field here. */
function Dragged({ of }: { of: { name: string; label: string; value: unknown }[] }) {
  return (
    <div className="flex gap-5 text-[11px] leading-4 text-dim">
      {of.map((v) => (
        <KeyedField key={v.name} {...v}>
          {v.label}
        </KeyedField>
      ))}
    </div>
  )
}

const chip = 'h-6 rounded-full border border-line bg-ground px-2 hover:border-dim'

function Objects({ by, keep }: PartProps<'objects'>) {
  return (
    <div className="flex flex-wrap items-center gap-1">
      {by.ids.map((id) => (
        <Hint key={id} text={`Take object ${id} away`}>
          <button type="button" className={`figures ${chip}`} onClick={() => keep({ ...by, ids: by.ids.filter((i) => i !== id) }, 'Set objects')}>
            {id} ×
          </button>
        </Hint>
      ))}
      <PickButton />
    </div>
  )
}

function Hashed({ by, keep }: PartProps<'hashed'>) {
  const name = (h: HashedName) => h.name || h.id.toString(16)
  return (
    <div className="flex flex-wrap items-center gap-1">
      {by.ids.map((h) => (
        <Hint key={h.id} text={`Take ${name(h)} away`}>
          <button type="button" className={chip} onClick={() => keep({ ...by, ids: by.ids.filter((i) => i.id !== h.id) }, 'Set objects')}>
            {name(h)} ×
          </button>
        </Hint>
      ))}
      <PickButton />
    </div>
  )
}

/** Starts and ends picking of objects in the panes. */
function PickButton() {
  const { pointing, set } = useBenchOf('pointing', 'set')
  const picking = pointing === 'object'
  return (
    <>
      <Button aria-pressed={picking} onClick={() => set({ pointing: picking ? null : 'object' })} hint="Each click in a pane adds or removes the object under it">
        {picking ? 'Done' : 'Pick in the picture…'}
      </Button>
      {picking && <span className="text-dim">Click objects to add or remove them.</span>}
    </>
  )
}

function Depth({ shot, element, depth, by, preview, keep }: PartProps<'depth'>) {
  const frame = shot.doc.frames?.first ?? 0
  const facts = useQuery(factsQuery(shot.id, shot.state.revision, element.id, frame)).data?.find((f) => f.pass === depth)
  const own: [number, number] = [Math.max(0, by.near - by.near_soft), by.far + by.far_soft]
  const ends: [number, number] = facts?.range ?? own
  const fields = [
    ['near', 'Near', 5],
    ['far', 'Far', 10],
    ['near_soft', 'Near soft', 1],
    ['far_soft', 'Far soft', 1],
  ] as const
  const changed = (name: (typeof fields)[number][0], v: number) => {
    const next = { ...by, [name]: v }
    // The other end gives way, so that the range never turns over.
    if (name === 'near') next.far = Math.max(next.far, v)
    if (name === 'far') next.near = Math.min(next.near, v)
    return next
  }
  const of = (r: { low: number; high: number; lowSoft: number; highSoft: number }): LimitBy => ({ kind: 'depth', near: r.low, far: r.high, near_soft: r.lowSoft, far_soft: r.highSoft })
  return (
    <div className="flex flex-col gap-1" data-depth-range>
      <RangeBar label="Depth" unit="units" ends={ends} bars={facts?.histogram} value={{ low: by.near, high: by.far, lowSoft: by.near_soft, highSoft: by.far_soft }} onPreview={(r) => preview(of(r))} onCommit={(r) => keep(of(r), 'Set depth range')} />
      <div className="grid grid-cols-2 gap-x-2 gap-y-0.5 [&_input]:w-[70px] [&_label>span:first-child]:w-[56px]">
        {fields.map(([name, label, reset]) => (
          <Number key={name} name={name} label={label} value={by[name]} step={0.01} reset={reset} put={(v, done) => (done ? keep(changed(name, v), 'Set depth range') : preview(changed(name, v)))} />
        ))}
      </div>
    </div>
  )
}

function Ellipse({ by, preview, keep }: PartProps<'ellipse'>) {
  return (
    <>
      <Number name="soft" label="Soft" unit="px" value={by.soft} reset={40} step={0.5} slider={[0, 300]} put={(soft, done) => (done ? keep : preview)({ ...by, soft })} />
      <Dragged of={[{ name: 'centre', label: 'Place', value: by.centre }, { name: 'radii', label: 'Size', value: by.radii }, { name: 'turned', label: 'Turn', value: by.turned }]} />
    </>
  )
}

function Facing({ by, preview, keep }: PartProps<'facing'>) {
  return (
    <div className="flex items-start gap-2">
      <KeyedField name="toward" label="Direction" value={by.toward}>
        <Ball label="Direction" value={by.toward} onPreview={(toward: Triple) => preview({ ...by, toward })} onCommit={(toward: Triple) => keep({ ...by, toward })} />
      </KeyedField>
      <div className="flex flex-col gap-0.5 [&_input]:w-[84px] [&_label>span:first-child]:w-12">
        <Number name="within" label="Within" unit="°" value={by.within} reset={30} step={1} slider={[0, 180]} put={(v, done) => (done ? keep : preview)({ ...by, within: v, until: Math.max(v, by.until) })} />
        <Number name="until" label="Until" unit="°" value={by.until} reset={70} step={1} slider={[0, 180]} put={(v, done) => (done ? keep : preview)({ ...by, until: v, within: Math.min(v, by.within) })} />
      </div>
    </div>
  )
}

function Luminance({ by, preview, keep }: PartProps<'luminance'>) {
  const of = (r: { low: number; high: number; lowSoft: number; highSoft: number }): LimitBy => ({ kind: 'luminance', low: r.low, high: r.high, low_soft: r.lowSoft, high_soft: r.highSoft })
  return (
    <div className="flex flex-col gap-1">
      <RangeBar
        label="Luminance"
        unit="of the screen's white"
        ends={[0, 1.2]}
        ground="linear-gradient(to right, #000, #fff 83%, #fff)"
        value={{ low: by.low, high: by.high, lowSoft: by.low_soft, highSoft: by.high_soft }}
        onPreview={(r) => preview(of(r))}
        onCommit={(r) => keep(of(r), 'Set luminance range')}
      />
      <Dragged of={[{ name: 'low', label: 'From', value: by.low }, { name: 'high', label: 'To', value: by.high }, { name: 'low_soft', label: 'From soft', value: by.low_soft }, { name: 'high_soft', label: 'To soft', value: by.high_soft }]} />
    </div>
  )
}

const HUES = 'linear-gradient(to right, #f00, #ff0, #0f0, #0ff, #00f, #f0f, #f00)'

function Hue({ by, preview, keep }: PartProps<'hue'>) {
  const put = (change: Partial<typeof by>) => (v: boolean) => (v ? keep : preview)({ ...by, ...change })
  return (
    <div className="flex flex-col gap-0.5">
      <div className="relative h-2 rounded-tile opacity-80" style={{ background: HUES }} aria-hidden>
        <span className="absolute -top-0.5 h-3 w-0.5 bg-text" style={{ left: `${((((by.hue % 360) + 360) % 360) / 360) * 100}%` }} />
      </div>
      <div className="grid grid-cols-2 gap-x-2 gap-y-0.5 [&_input]:w-[76px] [&_label>span:first-child]:w-[46px]">
        <Number name="hue" label="Hue" unit="°" value={by.hue} reset={30} step={1} slider={[0, 360]} min={-360} put={(v, done) => put({ hue: v })(done)} />
        <Number name="width" label="Width" unit="°" value={by.width} reset={40} step={1} slider={[0, 360]} put={(v, done) => put({ width: Math.min(v, 360) })(done)} />
        <Number name="soft" label="Soft" unit="°" value={by.soft} reset={20} step={1} slider={[0, 180]} put={(v, done) => put({ soft: Math.min(v, 360) })(done)} />
        <Number name="least" label="Greys" value={by.least} reset={0.15} step={0.01} slider={[0, 1]} put={(v, done) => put({ least: Math.min(v, 1) })(done)} />
      </div>
    </div>
  )
}

function BrushTools({ by, keep }: PartProps<'brush'>) {
  const { pointing, brush, set } = useBenchOf('pointing', 'brush', 'set')
  const painting = pointing === 'paint'
  return (
    <div className="flex flex-col gap-1">
      <div className="flex items-center gap-1.5">
        <Button aria-pressed={painting} data-paint-button className={painting ? 'border-accent!' : ''} onClick={() => set({ pointing: painting ? null : 'paint', matteShown: useBench.getState().matteShown ?? 'tint' })} hint="Paint with the left button in either pane; the wheel zooms, the middle button moves">
          {painting ? 'Done painting' : 'Paint…'}
        </Button>
        <Choice label="Brush" value={brush.erases ? 'erase' : 'add'} options={[{ value: 'add', label: 'Add' }, { value: 'erase', label: 'Erase' }]} onChange={(v) => set({ brush: { ...brush, erases: v === 'erase' } })} />
        {by.strokes.length > 0 && (
          <Button look="quiet" onClick={() => keep({ ...by, strokes: [] }, 'Clear the strokes')} hint="Removes every stroke; undo brings them back">
            Clear
          </Button>
        )}
      </div>
      <BrushFields fields={['size', 'softness', 'flow']} />
    </div>
  )
}

const FIELDS: Record<'size' | 'softness' | 'flow' | 'depth', { label: string; unit?: string; step: number; reset: number; slider: [number, number]; max: number }> = {
  size: { label: 'Size', unit: 'px', step: 1, reset: 60, slider: [1, 400], max: 20000 },
  softness: { label: 'Soft', step: 0.01, reset: 0.5, slider: [0, 1], max: 1 },
  flow: { label: 'Flow', step: 0.01, reset: 1, slider: [0, 1], max: 1 },
  depth: { label: 'Depth', unit: 'units', step: 0.01, reset: 4, slider: [0.1, 20], max: 1e9 },
}

/** The brush's own numbers; they are the hand's, not the document's. */
export function BrushFields({ fields }: { fields: (keyof typeof FIELDS)[] }) {
  const { brush, set } = useBenchOf('brush', 'set')
  const put = (name: keyof typeof FIELDS) => (v: number) => set({ brush: { ...brush, [name]: v } satisfies Brush })
  return (
    <div className="grid grid-cols-2 gap-x-2 gap-y-0.5 [&_input]:w-[78px] [&_label>span:first-child]:w-[42px]">
      {fields.map((f) => (
        <NumberField key={f} {...FIELDS[f]} value={brush[f]} min={f === 'size' ? 1 : f === 'depth' ? 0.001 : 0} onPreview={put(f)} onCommit={put(f)} />
      ))}
    </div>
  )
}

function Polygon({ by, preview, keep }: PartProps<'polygon'>) {
  const { pointing, set } = useBenchOf('pointing', 'set')
  const adding = pointing === 'corner'
  return (
    <div className="flex flex-col gap-1">
      <div className="flex items-center gap-1.5">
        <Button aria-pressed={adding} onClick={() => set({ pointing: adding ? null : 'corner' })} hint="Each click in the picture adds a corner">
          {adding ? 'Done' : 'Add corners…'}
        </Button>
        <span className="text-dim">{by.corners.length < 3 ? 'Click at least three corners.' : 'Drag corners to move them; double-click one to remove it.'}</span>
      </div>
      {by.corners.length > 2 && <Dragged of={[{ name: 'corners', label: 'Corners', value: by.corners }]} />}
      <Number name="soft" label="Soft" unit="px" value={by.soft} reset={4} step={0.5} slider={[0, 200]} put={(soft, done) => (done ? keep : preview)({ ...by, soft })} />
    </div>
  )
}
