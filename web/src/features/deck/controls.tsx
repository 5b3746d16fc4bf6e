import { useEffect, useEffectEvent, useRef, useState } from 'react'
import { bringDrawing, bringFont, send } from '../../api/client'
import { Button } from '../../ui/Button'
import { Choice } from '../../ui/Choice'
import { FileButton } from '../../ui/FileButton'
import { NumberField } from '../../ui/NumberField'
import type { ObjectSchema, PropertySchema } from '../../api/schema'
import { Toggle } from '../../ui/Toggle'
import { Hint } from '../../ui/Hint'
import { Select } from '../../ui/Select'
import { useBenchOf } from '../bench/store'
import type { MediaFile, DepthStroke } from '../../api/types'
import type { Point, Triple } from '../bench/geometry'
import { useElements, useOwnMattes, usePasses, useSteps } from '../bench/elements'
import { ACCEPTED } from '../shots/files'
import { Ball } from './Ball'
import { CurveControl } from './CurveControl'
import { FinishesControl } from './lamps/FinishesControl'
import { FollowLamp } from './lamps/FollowLamp'
import { LampAim, LampPlace } from './lamps/LampPlace'
import { LampsControl } from './lamps/LampsControl'
import { BlurPointsControl, ColourStopsControl, FlowStrokesControl, GridPointsControl, LensLinesControl, OwnLinesControl, PushesControl, RingsControl, SmearsControl } from './lists'
import { BrushFields } from './matte/BrushFields'
import { linearOf, hexOf } from './colour'

/** A parameter as a control sees it. */
export interface Control {
  name: string
  schema: PropertySchema
  /** The whole schema that it is part of. */
  root: ObjectSchema
  value: unknown
  reset: unknown
  options: { value: string; label: string; hint?: string | undefined; face?: string | undefined }[]
  onPreview: (value: unknown) => void
  onCommit: (value: unknown) => void
}

/** Names that are not put together of words. */
const NAMES: Record<string, string> = { catmull_rom: 'Catmull-Rom', lanczos3: 'Lanczos 3', brown: 'Brown-Conrady', px: 'Pixels' }

export const words = (name: string) => {
  if (NAMES[name]) return NAMES[name]
  const text = name.replaceAll('_', ' ')
  return text.charAt(0).toUpperCase() + text.slice(1)
}

/** Choices of a parameter, if it is one of a few words. */
export function optionsOf(schema: PropertySchema, root: ObjectSchema): Control['options'] {
  const target = schema.$ref ? root.$defs?.[schema.$ref.replace('#/$defs/', '')] : schema
  const list = target?.oneOf?.map((o) => ({ value: o.const ?? '', hint: o.description })) ?? target?.enum?.map((value) => ({ value, hint: undefined })) ?? []
  return list.filter((o) => o.value).map((o) => ({ ...o, label: words(o.value) }))
}

/** A schema writes a 32-bit number with all digits of a 64-bit one. */
const asWritten = (v: unknown): unknown => (typeof v === 'number' ? Number(v.toPrecision(7)) : Array.isArray(v) ? v.map(asWritten) : v)

/** The values that the parameters of a schema begin with. */
export const defaultsOf = (schema: ObjectSchema): Record<string, unknown> => Object.fromEntries(Object.entries(schema.properties ?? {}).map(([name, p]) => [name, asWritten(p.default)]))

/** Meanings of parameters that have no field: numbers that stay with things, and the frame, which the shot says by itself. */
const NO_FIELD = new Set(['hidden', 'frame'])

/** Whether a parameter plays a part, given the others. */
export function plays(schema: PropertySchema, values: Record<string, unknown>): boolean {
  if (NO_FIELD.has(schema['x-meaning'] ?? '')) return false
  return Object.entries(schema['x-when'] ?? {}).every(([name, value]) => [value].flat().some((v) => values[name] === v))
}

/** Schemas of things in lists, by the list's. */
const ITEMS = new WeakMap<PropertySchema, ObjectSchema>()

/** The schema of the things in a list: the same object each time, so that their controls are drawn anew with their own values only. */
export function itemsOf({ schema, root }: Pick<Control, 'schema' | 'root'>): ObjectSchema {
  const known = ITEMS.get(schema)
  if (known) return known
  const item = { ...root.$defs?.[schema.items?.$ref?.replace('#/$defs/', '') ?? ''], $defs: root.$defs ?? {} }
  ITEMS.set(schema, item)
  return item
}

const label = (c: Control) => c.schema['x-label'] ?? words(c.name)

function NumberControl(c: Control) {
  return (
    <NumberField
      label={label(c)}
      value={c.value as number}
      unit={c.schema['x-unit']}
      step={c.schema['x-step'] ?? 0.01}
      reset={c.reset as number}
      slider={c.schema['x-slider']}
      hint={c.schema.description}
      onPreview={c.onPreview}
      onCommit={c.onCommit}
    />
  )
}

function ChoiceControl(c: Control) {
  return (
    <Hint text={c.schema.description}>
      <div className="flex items-center gap-2">
        <span className="field w-20 shrink-0 truncate text-dim">{label(c)}</span>
        <Choice label={label(c)} value={c.value as string} options={c.options} onChange={c.onCommit} />
      </div>
    </Hint>
  )
}

function DirectionControl(c: Control) {
  return (
    <Hint text={c.schema.description}>
      <div className="flex items-center gap-2">
        <span className="field w-20 shrink-0 self-start truncate text-dim">{label(c)}</span>
        <Ball label={label(c)} value={c.value as Triple} onPreview={c.onPreview} onCommit={c.onCommit} />
        <span className="figures flex flex-col text-dim">
          {(c.value as Triple).map((v, i) => (
            <span key={i}>
              {'xyz'[i]} {v.toFixed(3)}
            </span>
          ))}
        </span>
      </div>
    </Hint>
  )
}

/** Some numbers that belong together, in one row under one label. */
function Row({ c, across }: { c: Control; across: string[] }) {
  const values = c.value as number[]
  const reset = c.reset as number[]
  const put = (i: number, v: number) => values.map((old, k) => (k === i ? v : old))
  return (
    <div className="flex items-center gap-1">
      <Hint text={c.schema.description}>
        <span className="field w-20 shrink-0 truncate text-dim">{label(c)}</span>
      </Hint>
      {values.map((v, i) => (
        <NumberField
          key={i}
          bare
          label={`${label(c)} ${across[i] ?? ''}`}
          value={v}
          unit={c.schema['x-unit']}
          step={c.schema['x-step'] ?? 0.01}
          reset={reset[i] ?? 0}
          hint={c.schema.description}
          onPreview={(n) => c.onPreview(put(i, n))}
          onCommit={(n) => c.onCommit(put(i, n))}
        />
      ))}
      {values.length < 3 && <span className="text-[11px] text-dim">{c.schema['x-unit']}</span>}
    </div>
  )
}

/** A place in the scene. */
export function PointControl(c: Control) {
  return <Row c={c} across={['x', 'y', 'z']} />
}

function ColourControl(c: Control) {
  const rgb = c.value as Triple
  const field = useRef<HTMLInputElement>(null)
  const commit = useEffectEvent((hex: string) => c.onCommit(linearOf(hex)))
  useEffect(() => {
    const input = field.current
    if (!input) return
    // React's onChange is the browser's "input"; "change" comes once, when the colour is chosen.
    const chosen = () => commit(input.value)
    input.addEventListener('change', chosen)
    return () => input.removeEventListener('change', chosen)
  }, [])
  return (
    <Hint text={`${c.schema.description ?? ''} ${rgb.map((v) => v.toFixed(3)).join(', ')}`}>
      <label className="flex items-center gap-2">
        <span className="field w-20 shrink-0 truncate text-dim">{label(c)}</span>
        <input
          ref={field}
          type="color"
          className="h-6 w-12 cursor-pointer rounded-tile border border-line bg-ground p-0.5"
          value={hexOf(rgb)}
          onChange={(e) => c.onPreview(linearOf(e.target.value))}
        />
      </label>
    </Hint>
  )
}

/** A depth: a number, or a click on what lies there. */
function DepthControl(c: Control) {
  const { pointing, depthFor, firstDepth, set } = useBenchOf('pointing', 'depthFor', 'firstDepth', 'set')
  const mine = depthFor === c.name ? pointing : null
  const toggle = (to: 'depth' | 'depth-range') => set({ pointing: mine === to ? null : to, depthFor: c.name, firstDepth: null })
  return (
    <div className="flex flex-col gap-1">
      <NumberControl {...c} />
      <div className="flex gap-1">
        <Button aria-pressed={mine === 'depth'} onClick={() => toggle('depth')} hint="Then click it in either pane">
          {mine === 'depth' ? 'Click in the picture…' : 'Pick in the picture…'}
        </Button>
        {c.name === 'focus' && (
          <Button aria-pressed={mine === 'depth-range'} onClick={() => toggle('depth-range')} hint="Then click two things: everything between them stays sharp">
            {mine === 'depth-range' ? (firstDepth === null ? 'Click one…' : 'And the other…') : 'Range'}
          </Button>
        )}
      </div>
    </div>
  )
}

function SwitchControl(c: Control) {
  return (
    <Hint text={c.schema.description}>
      <label className="flex items-center gap-2 text-dim">
        <Toggle label={label(c)} on={c.value === true} onChange={c.onCommit} />
        {label(c)}
      </label>
    </Hint>
  )
}

/** A place of the picture: two numbers, or a click. */
function PlaceControl(c: Control) {
  const { pointing, depthFor, set } = useBenchOf('pointing', 'depthFor', 'set')
  const [x, y] = c.value as Point
  const mine = pointing === 'place' && depthFor === c.name
  return (
    <Hint text={c.schema.description}>
      <div className="flex items-center gap-2">
        <span className="field w-20 shrink-0 truncate text-dim">{label(c)}</span>
        <Button aria-pressed={mine} onClick={() => set({ pointing: mine ? null : 'place', depthFor: c.name })} hint="Then click the place, or drag its handle">
          {mine ? 'Click in the picture…' : 'Pick in the picture…'}
        </Button>
        <span className="figures text-dim">
          {x.toFixed(0)}, {y.toFixed(0)}
        </span>
      </div>
    </Hint>
  )
}

/** Two numbers: a way right and down, or a width and a height. */
function PairControl(c: Control) {
  return <Row c={c} across={({ offset: ['→', '↓'], moved: ['→', '↓'], 'uv-place': ['u', 'v'] })[c.schema['x-meaning'] ?? ''] ?? ['x', 'y']} />
}

/** Other elements, each in or out. */
function ElementsControl(c: Control) {
  const chosen = c.value as number[]
  const others = useElements()
  if (others.length === 0) return <p className="max-w-72 text-dim">This shot has no other element; bring one in under Intake.</p>
  return (
    <div className="flex flex-col gap-1">
      {others.map((e) => (
        <label key={e.id} className="flex items-center gap-2">
          <Toggle label={e.name} on={chosen.includes(e.id)} onChange={(on) => c.onCommit(on ? [...chosen, e.id] : chosen.filter((i) => i !== e.id))} />
          {e.name}
        </label>
      ))}
    </div>
  )
}

/** One other element. */
function ElementControl(c: Control) {
  const others = useElements()
  if (others.length === 0) return <p className="max-w-72 text-dim">This shot has no other element; bring one in under Intake.</p>
  return <Pick {...c} none="choose an element…" from={others} />
}

/** One of the other elements, or what happens without one. */
function OtherElement({ none, ...c }: Control & { none: string }) {
  const others = useElements()
  return <Pick {...c} none={none} from={others} />
}

/** One of the element's passes of normals. */
function NormalPassControl(c: Control) {
  const passes = usePasses().filter((p) => p.role === 'normal')
  return <Pick {...c} none="choose a normal map…" from={passes} />
}

/** One of the element's steps; `kind` keeps to those of one kind. */
function StepControl({ kind, none, ...c }: Control & { kind?: string; none: string }) {
  const steps = useSteps().filter((s) => kind === undefined || s.kind === kind)
  return <Pick {...c} none={none} from={steps} />
}

/** One of the element's named mattes. */
function OwnMatteControl({ none, ...c }: Control & { none: string }) {
  const mattes = useOwnMattes()
  return <Pick {...c} none={none} from={mattes} />
}

/** One of a few with long names. */
function ListControl(c: Control) {
  return (
    <Hint text={c.schema.description}>
      <label className="flex items-center gap-2">
        <span className="field w-20 shrink-0 truncate text-dim">{label(c)}</span>
        <Select className="w-36" label={label(c)} name={c.name} value={c.value as string} options={c.options} onChange={c.onCommit} />
      </label>
    </Hint>
  )
}

/** One thing by its number, from a list. */
function Pick({ none, from, ...c }: Control & { none: string; from: { id: number; name: string }[] }) {
  const value = c.value as number | null
  return (
    <Hint text={c.schema.description}>
      <label className="flex items-center gap-2">
        <span className="field w-20 shrink-0 truncate text-dim">{label(c)}</span>
        <Select
          className="w-44"
          label={label(c)}
          name={c.name}
          value={value === null ? '' : String(value)}
          options={[{ value: '', label: none }, ...from.map((o) => ({ value: String(o.id), label: o.name }))]}
          onChange={(v) => c.onCommit(v === '' ? null : Number(v))}
        />
      </label>
    </Hint>
  )
}

/** A file, which is sent and then named. */
function MediaFileControl({ accept, bring, ...c }: Control & { accept: string; bring: (file: File) => Promise<MediaFile> }) {
  const file = c.value as MediaFile | null
  const [said, setSaid] = useState<string | null>(null)
  const send = async (chosen: File) => {
    setSaid(`Bringing in ${chosen.name}…`)
    try {
      c.onCommit(await bring(chosen))
      setSaid(null)
    } catch (e) {
      setSaid(`${chosen.name}: ${e instanceof Error ? e.message : 'it was not taken.'}`)
    }
  }
  return (
    <Hint text={c.schema.description}>
      <div className="flex max-w-72 flex-col gap-1">
        <div className="flex items-center gap-2">
          <span className="field w-20 shrink-0 truncate text-dim">{label(c)}</span>
          <FileButton name={c.name} accept={accept} label={file ? 'Another…' : 'Choose a file…'} onPick={(chosen) => void send(chosen)} />
          <span className="truncate">{file?.name}</span>
        </div>
        {said && <p role="status">{said}</p>}
      </div>
    </Hint>
  )
}

/** A picture from a file. */
const PictureFileControl = (c: Control) => <MediaFileControl {...c} accept={ACCEPTED} bring={async (file) => (await send(file, () => undefined)).file} />

/** Faces of the fonts that come with the application, as the styles name them. */
const FACES: Record<string, string> = { cinzel: 'Cinzel', archivo_black: 'Archivo Black', oswald: 'Oswald', zilla_slab: 'Zilla Slab', great_vibes: 'Great Vibes', limelight: 'Limelight' }

/** A font, each shown in its own face. */
function FontControl(c: Control) {
  const options = c.options.map((o) => ({ ...o, label: FACES[o.value] ?? 'From a file…', face: FACES[o.value] && `'${FACES[o.value]} face'` }))
  return <ListControl {...c} options={options} />
}

/** Until what is typed is kept, ms: nobody has to leave the field for it. */
const TYPED = 1500

/** Some lines of text. */
function LinesControl(c: Control) {
  const kept = useRef(c.value)
  const soon = useRef(0)
  const keep = (text: unknown) => {
    window.clearTimeout(soon.current)
    if (text === kept.current) return
    kept.current = text
    c.onCommit(text)
  }
  return (
    <label className="flex items-start gap-2">
      <span className="field w-20 shrink-0 truncate text-dim">{label(c)}</span>
      <textarea
        className="h-[74px] w-52 resize-none rounded-tile border border-line bg-ground px-1.5 py-1"
        aria-label={label(c)}
        data-lines={c.name}
        value={c.value as string}
        spellCheck={false}
        onChange={(e) => {
          const text = e.target.value
          c.onPreview(text)
          window.clearTimeout(soon.current)
          soon.current = window.setTimeout(() => keep(text), TYPED)
        }}
        onFocus={() => {
          kept.current = c.value
        }}
        onBlur={() => keep(c.value)}
      />
    </label>
  )
}

/** An angle: a number, and a dial that is dragged round. */
function AngleControl(c: Control) {
  const value = c.value as number
  const radians = (value * Math.PI) / 180
  const at = (e: React.PointerEvent<SVGSVGElement>) => {
    const box = e.currentTarget.getBoundingClientRect()
    const degrees = (Math.atan2(box.top + box.height / 2 - e.clientY, e.clientX - box.left - box.width / 2) * 180) / Math.PI
    return Math.round((degrees + 360) % 360)
  }
  return (
    <div className="flex items-center gap-1">
      <NumberControl {...c} />
      <svg
        viewBox="-12 -12 24 24"
        className="size-6 shrink-0 cursor-grab touch-none"
        data-dial={c.name}
        aria-hidden
        onPointerDown={(e) => {
          e.currentTarget.setPointerCapture(e.pointerId)
          c.onPreview(at(e))
        }}
        onPointerMove={(e) => {
          if (e.buttons === 1) c.onPreview(at(e))
        }}
        onPointerUp={(e) => c.onCommit(at(e))}
      >
        <circle r="10" className="fill-ground stroke-line" />
        <line x1="0" y1="0" x2={8 * Math.cos(radians)} y2={-8 * Math.sin(radians)} className="stroke-dim" />
        <circle cx={9 * Math.cos(radians)} cy={-9 * Math.sin(radians)} r="2.5" className="fill-accent" />
      </svg>
    </div>
  )
}

/** Strokes that carry a depth. */
function DepthStrokesControl(c: Control) {
  const { pointing, set } = useBenchOf('pointing', 'set')
  const strokes = c.value as DepthStroke[]
  const painting = pointing === 'paint-depth'
  return (
    <div className="flex flex-col gap-1">
      <div className="flex items-center gap-1.5">
        <Button aria-pressed={painting} data-paint-button onClick={() => set({ pointing: painting ? null : 'paint-depth' })} hint="Paint over what is at the brush's depth, in either pane">
          {painting ? 'Done painting' : 'Paint…'}
        </Button>
        <span className="text-dim">{strokes.length === 1 ? '1 stroke' : `${strokes.length} strokes`}</span>
        {strokes.length > 0 && (
          <Button look="quiet" onClick={() => c.onCommit(strokes.slice(0, -1))} hint="Removes the last stroke">
            Remove last stroke
          </Button>
        )}
      </div>
      <BrushFields fields={['depth', 'size']} />
    </div>
  )
}

/** Where light comes from in the picture, which may follow a lamp. */
function LightAngleControl(c: Control) {
  return (
    <div className="contents">
      <AngleControl {...c} />
      <FollowLamp name={c.name} hint="Comes from where a lamp is, whatever becomes of it; another angle is then so much beside it" />
    </div>
  )
}

/** How far something is moved, which may be on to a lamp. */
function MovedControl(c: Control) {
  return (
    <div className="contents">
      <PairControl {...c} />
      <FollowLamp name={c.name} seen hint="Its anchor lies where a lamp is seen, whatever becomes of the lamp" />
    </div>
  )
}

/** From a parameter's declared meaning to its control; plain numbers and choices need none. */
const BY_MEANING: Record<string, (c: Control) => React.ReactNode> = {
  direction: DirectionControl,
  'scene-point': PointControl,
  colour: ColourControl,
  depth: DepthControl,
  place: PlaceControl,
  offset: PairControl,
  moved: MovedControl,
  spot: PairControl,
  pair: PairControl,
  'uv-place': PairControl,
  'frame-share': PairControl,
  elements: ElementsControl,
  element: ElementControl,
  behind: (c) => <OtherElement {...c} none="all that lies below" />,
  'filled-by': (c) => <OtherElement {...c} none="its own colour" />,
  'normal-pass': NormalPassControl,
  'picture-file': PictureFileControl,
  'font-file': (c) => <MediaFileControl {...c} accept=".otf,.ttf" bring={bringFont} />,
  'drawing-file': (c) => <MediaFileControl {...c} accept=".svg" bring={bringDrawing} />,
  font: FontControl,
  lines: LinesControl,
  angle: AngleControl,
  'light-angle': LightAngleControl,
  'own-matte': (c) => <OwnMatteControl {...c} none="its own outline" />,
  'limit-matte': (c) => <OwnMatteControl {...c} none="where it happens" />,
  'part-matte': (c) => <OwnMatteControl {...c} none="all of it" />,
  rings: RingsControl,
  'own-lines': OwnLinesControl,
  curve: (c) => <CurveControl {...c} tones />,
  profile: CurveControl,
  'depth-strokes': DepthStrokesControl,
  lamps: LampsControl,
  finishes: FinishesControl,
  'lens-step': (c) => <StepControl {...c} kind="lens" none="its own" />,
  step: (c) => <StepControl {...c} none={c.name === 'first' ? 'the first' : 'the last'} />,
  'choice-list': ListControl,
  'lens-lines': LensLinesControl,
  pushes: PushesControl,
  smears: SmearsControl,
  'grid-points': GridPointsControl,
  'blur-points': BlurPointsControl,
  'colour-stops': ColourStopsControl,
  'flow-strokes': FlowStrokesControl,
  'lamp-place': LampPlace,
  'lamp-aim': LampAim,
}

export function ParameterControl(c: Control) {
  const Special = BY_MEANING[c.schema['x-meaning'] ?? '']
  if (Special) return <Special {...c} />
  if (typeof c.value === 'boolean') return <SwitchControl {...c} />
  if (c.options.length > 0) return <ChoiceControl {...c} />
  return <NumberControl {...c} />
}
