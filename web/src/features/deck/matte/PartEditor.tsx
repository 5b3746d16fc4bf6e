import { useQuery } from '@tanstack/react-query'
import type { ComponentType } from 'react'
import { factsQuery } from '../../../api/queries'
import type { PropertySchema } from '../../../api/schema'
import type { Element, HashedName, PaintedStroke, PartInfo } from '../../../api/types'
import { Button } from '../../../ui/Button'
import { Choice } from '../../../ui/Choice'
import { NumberField } from '../../../ui/NumberField'
import { RangeBar, type Range } from '../../../ui/RangeBar'
import { Hint } from '../../../ui/Hint'
import { useBench, useBenchOf } from '../../bench/store'
import type { ShotOnBench } from '../../bench/useShot'
import type { Triple } from '../../bench/geometry'
import { KeyedField } from '../../time/KeyMark'
import { Ball } from '../Ball'
import { BrushFields } from './BrushFields'
import { meaningOf, named, type Values } from './parts'

interface Props {
  shot: ShotOnBench
  element: Element
  /** Number of the pass that a depth is read from. */
  depth: number | null
  /** What kind of part it is. */
  info: PartInfo
  values: Values
  /** Shows other values, or keeps them. */
  put: (values: Values, done: boolean, label?: string) => void
}

/** A parameter of a part as its control sees it. */
interface Field extends Props {
  name: string
  property: PropertySchema
}

/** The controls of one part of a matte: what its parameters mean says which. */
export function PartEditor(p: Props) {
  const fields = Object.entries((p.info.schema).properties ?? {}).map(([name, property]) => ({ ...p, name, property }))
  const numbers = fields.filter((f) => typeof f.values[f.name] === 'number' && meaningOf(f.property) !== 'dragged')
  const dragged = fields.filter((f) => IN_THE_PICTURE.has(meaningOf(f.property)))
  return (
    <div className="flex flex-wrap items-start gap-x-2 gap-y-1" data-part-fields={p.info.kind}>
      <Bar {...p} />
      {fields.map((f) => {
        const Own = BY_MEANING[meaningOf(f.property)]
        return Own && <Own key={f.name} {...f} />
      })}
      {numbers.length > 0 && (
        <div className={`grid gap-x-2 gap-y-0.5 [&_label>span:first-child]:w-[54px] ${numbers.length > 2 ? 'grid-cols-2 [&_input]:w-[72px]' : '[&_input]:w-[88px]'}`}>
          {numbers.map((f) => (
            <NumberOf key={f.name} {...f} />
          ))}
        </div>
      )}
      {dragged.length > 0 && <Dragged fields={dragged} />}
    </div>
  )
}

const labelOf = (f: Field) => f.property['x-label'] ?? f.name

function NumberOf(f: Field) {
  const slider = f.property['x-slider']
  const fresh = f.info.defaults as unknown as Values
  return (
    <KeyedField name={f.name} label={labelOf(f)} value={f.values[f.name]}>
      <NumberField
        label={labelOf(f)}
        unit={f.property['x-unit']}
        value={f.values[f.name] as number}
        reset={fresh[f.name] as number}
        step={f.property['x-step'] ?? 0.01}
        slider={slider}
        min={slider?.[0] === 0 || meaningOf(f.property).endsWith('-soft') ? 0 : undefined}
        hint={f.property.description}
        onPreview={(v) => f.put(changed(f, v), false)}
        onCommit={(v) => f.put(changed(f, v), true)}
      />
    </KeyedField>
  )
}

/** The values with one number changed; where it is an end of a range, the other end gives way rather than be passed. */
function changed({ info, values, name, property }: Field, v: number): Values {
  const next = { ...values, [name]: v }
  const [low, high] = [named(info, 'low'), named(info, 'high')]
  if (low && high && meaningOf(property) === 'low') next[high] = Math.max(next[high] as number, v)
  if (low && high && meaningOf(property) === 'high') next[low] = Math.min(next[low] as number, v)
  return next
}

/** A range with soft ends, over what there is of it. */
function Bar({ shot, element, depth, info, values, put }: Props) {
  const frame = shot.doc.frames?.first ?? 0
  const deep = info.role === 'depth'
  const { data, isLoading } = useQuery({ ...factsQuery(shot.id, shot.state.revision, element.id, frame), enabled: deep })
  const facts = data?.find((f) => f.pass === depth)
  const names = (['low', 'high', 'low-soft', 'high-soft'] as const).map((meaning) => named(info, meaning))
  const [low, high, lowSoft, highSoft] = names
  if (!low || !high || !lowSoft || !highSoft) return null
  const of = (name: string) => values[name] as number
  const next = (r: Range): Values => ({ ...values, [low]: r.low, [high]: r.high, [lowSoft]: r.lowSoft, [highSoft]: r.highSoft })
  const own: [number, number] = [Math.max(0, of(low) - of(lowSoft)), of(high) + of(highSoft)]
  const seen = deep ? { unit: 'units', ends: facts?.range ?? own, bars: facts?.histogram } : { unit: 'of the screen’s white', ends: WHITE, ground: GREYS }
  return (
    <div className="w-full">
      <RangeBar
        label={info.title}
        {...seen}
        waits={isLoading}
        value={{ low: of(low), high: of(high), lowSoft: of(lowSoft), highSoft: of(highSoft) }}
        onPreview={(r) => put(next(r), false)}
        onCommit={(r) => put(next(r), true, `Set ${info.title.toLowerCase()} range`)}
      />
    </div>
  )
}

/** Luminance as far as a little brighter than white. */
const WHITE: [number, number] = [0, 1.2]
const GREYS = 'linear-gradient(to right, #000, #fff 83%, #fff)'

/** Meanings of what is dragged in the picture and has no field here. */
const IN_THE_PICTURE = new Set(['ellipse', 'dragged', 'ramp-from', 'ramp-to'])

/** What is dragged in the picture, and its keys where there are frames. */
function Dragged({ fields }: { fields: Field[] }) {
  if (!fields[0]?.shot.doc.frames) return <p className="text-dim">Drag its handles in the picture.</p>
  return (
    <div className="flex w-full gap-5 text-[11px] leading-4 text-dim">
      <span>In the picture:</span>
      {fields.map((f) => (
        <KeyedField key={f.name} name={f.name} label={labelOf(f)} value={f.values[f.name]}>
          <span>{labelOf(f)}</span>
        </KeyedField>
      ))}
    </div>
  )
}

const BY_MEANING: Record<string, ComponentType<Field>> = {
  'object-ids': Objects,
  'hashed-objects': Hashed,
  direction: Direction,
  hue: HueBar,
  strokes: BrushTools,
  corners: Corners,
}

const chip = 'h-6 rounded-full border border-line bg-ground px-2 hover:border-dim'

function Chips({ of, onRemove }: { of: { id: number; name: string; hint: string }[]; onRemove: (id: number) => void }) {
  return (
    <div className="flex flex-wrap items-center gap-1">
      {of.map((o) => (
        <Hint key={o.id} text={`Take ${o.hint} away`}>
          <button type="button" className={`figures ${chip}`} onClick={() => onRemove(o.id)}>
            {o.name} ×
          </button>
        </Hint>
      ))}
      <PickButton />
    </div>
  )
}

function Objects({ name, values, put }: Field) {
  const ids = values[name] as number[]
  return <Chips of={ids.map((id) => ({ id, name: `${id}`, hint: `object ${id}` }))} onRemove={(id) => put({ ...values, [name]: ids.filter((i) => i !== id) }, true, 'Set objects')} />
}

function Hashed({ name, values, put }: Field) {
  const ids = values[name] as HashedName[]
  const word = (h: HashedName) => h.name || h.id.toString(16)
  return <Chips of={ids.map((h) => ({ id: h.id, name: word(h), hint: word(h) }))} onRemove={(id) => put({ ...values, [name]: ids.filter((h) => h.id !== id) }, true, 'Set objects')} />
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

function Direction(f: Field) {
  const put = (done: boolean) => (v: Triple) => f.put({ ...f.values, [f.name]: v }, done)
  return (
    <KeyedField name={f.name} label={labelOf(f)} value={f.values[f.name]}>
      <Ball label={labelOf(f)} value={f.values[f.name] as Triple} onPreview={put(false)} onCommit={put(true)} />
    </KeyedField>
  )
}

const HUES = 'linear-gradient(to right, #f00, #ff0, #0f0, #0ff, #00f, #f0f, #f00)'

/** Where on the circle of hues it is. */
function HueBar({ name, values }: Field) {
  const hue = values[name] as number
  return (
    <div className="relative h-2 w-full rounded-tile opacity-80" style={{ background: HUES }} aria-hidden>
      <span className="absolute -top-0.5 h-3 w-0.5 bg-text" style={{ left: `${((((hue % 360) + 360) % 360) / 360) * 100}%` }} />
    </div>
  )
}

function BrushTools({ name, values, put }: Field) {
  const { pointing, brush, set } = useBenchOf('pointing', 'brush', 'set')
  const painting = pointing === 'paint'
  return (
    <div className="flex flex-col gap-1">
      <div className="flex items-center gap-1.5">
        <Button aria-pressed={painting} data-paint-button className={painting ? 'border-accent!' : ''} onClick={() => set({ pointing: painting ? null : 'paint', matteShown: useBench.getState().matteShown ?? 'tint' })} hint="Paint with the left button in either pane; the wheel zooms, the middle button moves">
          {painting ? 'Done painting' : 'Paint…'}
        </Button>
        <Choice label="Brush" value={brush.erases ? 'erase' : 'add'} options={[{ value: 'add', label: 'Add' }, { value: 'erase', label: 'Erase' }]} onChange={(v) => set({ brush: { ...brush, erases: v === 'erase' } })} />
        {(values[name] as PaintedStroke[]).length > 0 && (
          <Button look="quiet" onClick={() => put({ ...values, [name]: [] }, true, 'Clear the strokes')} hint="Removes every stroke; undo brings them back">
            Clear
          </Button>
        )}
      </div>
      <BrushFields fields={['size', 'softness', 'flow']} />
    </div>
  )
}

function Corners(f: Field) {
  const { pointing, set } = useBenchOf('pointing', 'set')
  const adding = pointing === 'corner'
  const corners = f.values[f.name] as unknown[]
  return (
    <div className="flex w-full flex-col gap-1">
      <div className="flex items-center gap-1.5">
        <Button aria-pressed={adding} onClick={() => set({ pointing: adding ? null : 'corner' })} hint="Each click in the picture adds a corner">
          {adding ? 'Done' : 'Add corners…'}
        </Button>
        <span className="text-dim">{corners.length < 3 ? 'Click at least three corners.' : 'Drag corners to move them; double-click one to remove it.'}</span>
      </div>
      {corners.length > 2 && f.shot.doc.frames && <Dragged fields={[f]} />}
    </div>
  )
}
