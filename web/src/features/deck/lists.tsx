import { useContext, type ComponentProps, type ReactNode } from 'react'
import type { ObjectSchema } from '../../api/schema'
import type { BlurPoint, ColourStop, GridPoint, LensLine, OutlineRing, OwnLine } from '../../api/types'
import { Button } from '../../ui/Button'
import { Line } from '../../ui/glyphs'
import { useFrameOf } from '../bench/elements'
import { chosenOf, freeId, MANY, PUSH, type Numbered } from '../bench/numbered'
import { useBenchOf, type Pointing } from '../bench/store'
import { Keyed, useKeyedWithin } from '../time/KeyMark'
import { CheckerButton } from './CheckerButton'
import { itemsOf, type Control } from './controls'
import { BrushFields } from './matte/BrushFields'
import { Parameters } from './Parameters'

/** The one of a list that is chosen in the picture or in the deck. */
function useChosenOf<T extends Numbered>(list: T[]): T | undefined {
  const { item } = useBenchOf('item')
  return chosenOf(list, item)
}

/** From one thing of a long list to the next. */
function Stepper({ word, at, of, onGo }: { word: string; at: number; of: number; onGo: (i: number) => void }) {
  return (
    <span className="flex items-center">
      <Button look="quiet" aria-label={`The ${word} before`} disabled={at === 0} onClick={() => onGo(at - 1)}>
        ‹
      </Button>
      <span className="figures">
        {word} {at + 1} of {of}
      </span>
      <Button look="quiet" aria-label={`The next ${word}`} disabled={at === of - 1} onClick={() => onGo(at + 1)}>
        ›
      </Button>
    </span>
  )
}

/** The numbers of a list's things; one of them is chosen, and can be removed. */
function Picked({ c, word, lead }: { c: Control; word: string; lead: ReactNode }) {
  const list = c.value as Numbered[]
  const { set } = useBenchOf('set')
  const chosen = useChosenOf(list)
  return (
    <div className="flex max-w-[250px] flex-wrap items-center gap-1" role="radiogroup" aria-label={c.schema['x-label']}>
      {lead}
      {list.length > MANY && chosen && <Stepper word={word} at={list.indexOf(chosen)} of={list.length} onGo={(i) => set({ item: list[i]?.id ?? null })} />}
      {(list.length > MANY ? [] : list).map((one, i) => (
        <button key={one.id} type="button" role="radio" aria-checked={one === chosen} aria-label={`${word} ${i + 1}`} className={`figures min-w-6 rounded-tile border px-1.5 py-0.5 ${one === chosen ? 'border-accent bg-accent-ground' : 'border-line hover:bg-raised'}`} onClick={() => set({ item: one.id })}>
          {i + 1}
        </button>
      ))}
      {chosen && (
        <Button look="quiet" aria-label={`Remove ${word} ${list.indexOf(chosen) + 1}`} onClick={() => c.onCommit(list.filter((one) => one !== chosen))} hint={`Remove the chosen ${word}; undo brings it back`}>
          <Line kind="remove" />
        </Button>
      )}
    </div>
  )
}

/** A button that turns on what a drag or a click in the picture does. */
function PointButton({ to, on, off, hint }: { to: NonNullable<Pointing>; on: string; off: string; hint: string }) {
  const { pointing, set } = useBenchOf('pointing', 'set')
  const mine = pointing === to
  return (
    <Button data-point={to} aria-pressed={mine} onClick={() => set({ pointing: mine ? null : to })} hint={hint}>
      {mine ? on : off}
    </Button>
  )
}

/** The parameters of the chosen one. */
function ChosenFields({ c, usual }: { c: Control; usual: Record<string, unknown> }) {
  const list = c.value as Numbered[]
  const chosen = useChosenOf(list)
  return chosen ? <FieldsOf c={c} list={list} chosen={chosen} schema={itemsOf(c)} usual={usual} /> : null
}

interface FieldsProps {
  c: Control
  list: Numbered[]
  chosen: Numbered
  schema: ObjectSchema
  usual: Record<string, unknown>
}

function FieldsOf({ c, list, chosen, schema, usual }: FieldsProps) {
  const keyed = useKeyedWithin(c.name, chosen.id)
  const put = (name: string, v: unknown) => list.map((one) => (one === chosen ? { ...one, [name]: v } : one))
  return (
    <Keyed value={keyed}>
      <Parameters within schema={schema} values={chosen as Numbered & Record<string, unknown>} defaults={usual} onPreview={(name, v) => c.onPreview(put(name, v))} onCommit={(name, v) => c.onCommit(put(name, v))} />
    </Keyed>
  )
}

/** What is added to a list by a button, one after the other. */
interface AddedProps<T extends Numbered> {
  c: Control
  /** Word for one of them. */
  word: string
  hint: string
  /** What one begins with. */
  usual: Omit<T, 'id'>
  /** The next one, where it differs from the usual. */
  next: (list: T[]) => Partial<Omit<T, 'id'>>
}

function Added<T extends Numbered>({ c, word, hint, usual, next }: AddedProps<T>) {
  const list = c.value as T[]
  const { set } = useBenchOf('set')
  const add = () => {
    const id = freeId(list)
    set({ item: id })
    c.onCommit([...list, { ...usual, ...next(list), id }])
  }
  return (
    <div className="contents">
      <Picked c={c} word={word} lead={
          <Button {...{ [`data-add-${word}`]: true }} onClick={add} hint={hint}>
            Add a {word}
          </Button>
        } />
      <ChosenFields c={c} usual={{ ...usual }} />
    </div>
  )
}

/** Places that each have a blur. */
export function BlurPointsControl(c: Control) {
  const { x, y, width, height } = useFrameOf()
  const at = (u: number, v: number): [number, number] => [Math.round(x + u * width), Math.round(y + v * height)]
  const usual: Omit<BlurPoint, 'id'> = { at: at(0.5, 0.5), size: 12 }
  // The first two lie apart, sharp and blurred, so that something is seen at once.
  const first = [{ at: at(0.3, 0.5), size: 0 }, { at: at(0.7, 0.5), size: 24 }]
  return <Added<BlurPoint> c={c} word="point" hint="Another place with a blur of its own, to be moved in the picture" usual={usual} next={(points) => first[points.length] ?? {}} />
}

/** A colour that is added. */
const STOP: Omit<ColourStop, 'id'> = { at: 0.5, colour: [0.3, 0.3, 0.3], opacity: 1 }

/** Colours between the first and the last. */
export const ColourStopsControl = (c: Control) => (
  <Added<ColourStop> c={c} word="colour" hint="Another colour, in the middle of the widest gap" usual={STOP} next={(stops) => ({ at: widestGap(stops.map((s) => s.at)) })} />
)

/** A new ring of an outline. */
const RING: Omit<OutlineRing, 'id'> = { width: 4, side: 'outside', colour: [0.02, 0.02, 0.02], opacity: 1 }

/** Rings along an outline; each new one lies around those before it. */
export const RingsControl = (c: Control) => (
  <Added<OutlineRing> c={c} word="ring" hint="Another ring, under the others" usual={RING} next={(rings) => ({ width: RING.width + (rings.at(-1)?.width ?? 0) })} />
)

/** A line of lettering with a size of its own. */
const OWN_LINE: Omit<OwnLine, 'id'> = { line: 1, size: 1, tracking: 0 }

/** Lines of lettering that are set otherwise; each new one is the first that is not yet. */
export const OwnLinesControl = (c: Control) => (
  <Added<OwnLine> c={c} word="line" hint="Gives one line a size and a tracking of its own" usual={OWN_LINE} next={(lines) => ({ line: firstFree(lines.map((l) => l.line)) })} />
)

const firstFree = (taken: number[]): number => Array.from({ length: taken.length + 1 }, (_, i) => i + 1).find((n) => !taken.includes(n)) ?? 1

/** The middle of the widest gap between places from 0 to 1. */
function widestGap(places: number[]): number {
  const all = [0, ...places, 1].sort((a, b) => a - b)
  const gaps = all.slice(1).map((to, i) => ({ from: all[i] ?? 0, to }))
  const widest = gaps.reduce((a, b) => (b.to - b.from > a.to - a.from + 1e-9 ? b : a))
  return Math.round(500 * (widest.from + widest.to)) / 1000
}

/** Ellipses that are pushed. */
export function PushesControl(c: Control) {
  const { pointing, set } = useBenchOf('pointing', 'set')
  const frame = useFrameOf()
  const pushes = c.value as Numbered[]
  const add = () => {
    const id = freeId(pushes)
    const r = Math.round(frame.height / 8)
    set({ item: id })
    c.onCommit([...pushes, { ...PUSH, id, at: [frame.x + frame.width / 2, frame.y + frame.height / 2], size: [r, r] }])
  }
  return (
    <div className="contents">
      <Picked c={c} word="push" lead={
          <>
            <PointButton to="push" on="Done pushing" off="Push…" hint="Drag in the picture from where something is to where it should be" />
            <Button look="quiet" data-add-push onClick={add} hint="One in the middle of the picture, to be moved by its handles">
              Add one
            </Button>
          </>
        } />
      {pointing === 'push' && <BrushFields fields={['size']} />}
      <ChosenFields c={c} usual={{ ...PUSH }} />
    </div>
  )
}

interface StrokesProps {
  c: Control
  to: NonNullable<Pointing>
  /** One of them, what the button says while it draws and before, and what drawing does. */
  word: string
  on: string
  off: string
  hint: string
  fields: ComponentProps<typeof BrushFields>['fields']
}

/** Strokes that are drawn with the brush. */
function Strokes({ c, to, word, on, off, hint, fields }: StrokesProps) {
  const { pointing } = useBenchOf('pointing')
  return (
    <div className="flex flex-col gap-1">
      <Picked c={c} word={word} lead={<PointButton to={to} on={on} off={off} hint={hint} />} />
      {pointing === to && <BrushFields fields={fields} />}
    </div>
  )
}

/** Strokes that smear. */
export const SmearsControl = (c: Control) => (
  <Strokes c={c} to="smear" word="smear" on="Done smearing" off="Smear…" hint="Draw in the picture: what lies under the brush is dragged along" fields={['size', 'softness', 'flow']} />
)

/** Strokes along which the picture flows. */
export const FlowStrokesControl = (c: Control) => (
  <Strokes c={c} to="paint-flow" word="stroke" on="Done painting" off="Paint…" hint="Draw in either pane the way that things move" fields={['size', 'softness']} />
)

/** Lines along what ought to be straight. */
export function LensLinesControl(c: Control) {
  const { pointing, set } = useBenchOf('pointing', 'set')
  const drawing = pointing === 'lens-line'
  const lines = c.value as LensLine[]
  const keyed = useContext(Keyed)
  const { x, y, width, height } = useFrameOf()
  const add = () => {
    const id = freeId(lines)
    set({ item: id, pointing: null })
    c.onCommit([...lines, { id, points: [0.1, 0.5, 0.9].map((k) => [Math.round(x + width * k), Math.round(y + height * 0.12)]) }])
  }
  return (
    <div className="flex max-w-[250px] flex-col gap-1">
      <Picked
        c={c}
        word="line"
        lead={
          <>
            <Button data-point="lens-line" aria-pressed={drawing} onClick={() => set({ pointing: drawing ? null : 'lens-line', item: drawing ? null : 0 })} hint="Click along something that ought to be straight, in the picture before this step">
              {drawing ? 'Done' : 'Draw a line…'}
            </Button>
            {!drawing && (
              <Button look="quiet" data-add-line onClick={add} hint="A line of three points near the upper edge, to be moved by its handles">
                Add one
              </Button>
            )}
            {!drawing && keyed && (
              <CheckerButton
                by={keyed}
                onFound={(found) => {
                  set({ item: null })
                  c.onCommit(found)
                }}
              />
            )}
            {drawing && lines.length > 0 && (
              <Button data-next-line onClick={() => set({ item: 0 })} hint="The next click begins another line">
                Next line
              </Button>
            )}
          </>
        }
      />
      <p className="text-dim">{drawing ? 'Click along something straight, at least three times; near the edges it tells most.' : 'Drag the points; double-click one to remove it.'}</p>
    </div>
  )
}

/** The points of a grid that were dragged. */
export function GridPointsControl(c: Control) {
  const points = c.value as GridPoint[]
  return (
    <div className="flex items-center gap-1.5">
      <span className="text-dim">{points.length === 1 ? '1 point moved' : `${points.length} points moved`}</span>
      {points.length > 0 && (
        <Button look="quiet" onClick={() => c.onCommit([])} hint="Every point goes back; undo brings the moves back">
          Put all back
        </Button>
      )}
    </div>
  )
}
