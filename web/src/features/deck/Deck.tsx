import { useQuery } from '@tanstack/react-query'
import { memo, useMemo, type ReactNode } from 'react'
import type { ObjectSchema } from '../../api/schema'
import { api } from '../../api/client'
import { draftNow } from '../../api/edits'
import { kindsQuery } from '../../api/queries'
import type { BlendMode, BlendSpace, Element, Finish, Joins, KindInfo, Step } from '../../api/types'
import { Button, Key } from '../../ui/Button'
import { Choice } from '../../ui/Choice'
import { RoleGlyph } from '../../ui/glyphs'
import { NumberField } from '../../ui/NumberField'
import { Select } from '../../ui/Select'
import { FrameOf, StepNames, type StepName } from '../bench/elements'
import { useBenchOf, useFrame } from '../bench/store'
import { useLiveStep, withStep, type ShotOnBench } from '../bench/useShot'
import { usePassesOf } from '../bench/passes'
import { useElementFrame, useTold } from '../bench/useTold'
import { OF_THE_REST, ProposeFinishes, useChosenFinish } from './lamps/FinishesControl'
import { LightReport } from './LightReport'
import { OnlyWhere } from './matte/OnlyWhere'
import { Keyed, KeyedField } from '../time/KeyMark'
import { Parameters } from './Parameters'
import { ReadsList } from './ReadsList'
import { SameAs } from './SameAs'
import { HeldToOwn } from '../tracks/HeldField'

interface Props {
  shot: ShotOnBench
  element: Element
  step: Step
}

/** The chosen step, read from left to right like its sentence. */
export function Deck({ shot, element, step }: Props) {
  const info = useQuery(kindsQuery).data?.find((k) => k.kind === step.does.kind)
  const passes = usePassesOf(element)
  const frame = useElementFrame(shot, element)
  const others = namesOf(shot, element).filter((s) => s.id !== step.id)
  const reads = shot.state.sentences.find((s) => s.element === element.id && s.step === step.id)?.reads ?? info?.reads ?? []
  return (
    <div className="flex h-full bg-panel" aria-label="Deck" role="region">
      <Column title="Reads" className="w-[144px] shrink-0">
        <ul className="flex flex-col gap-1">
          <li className="flex items-center gap-1.5">
            <RoleGlyph role="beauty" /> the picture so far
          </li>
          <ReadsList element={element} passes={passes} reads={reads} chosen={step.reads ?? []} onChoose={(chosen) => shot.commit('Choose what is read', withStep(shot.doc, element.id, step.id, (s) => ({ ...s, reads: chosen })))} />
        </ul>
        {info?.tells && <ToldOf shot={shot} element={element} step={step} />}
      </Column>
      <Column title="Does" className="min-w-0 flex-1">
        <FrameOf value={frame}>
          <StepNames value={others}>{info && <Does shot={shot} element={element} step={step} info={info} />}</StepNames>
        </FrameOf>
      </Column>
      <Column title="Only where" className={`shrink-0 ${step.only_where ? 'w-[304px]' : 'w-[150px]'}`}>
        <Where shot={shot} element={element} step={step} />
      </Column>
      <Column title="Joins" className="w-[184px] shrink-0 [&_label>span:first-child]:w-14 [&_label:first-child]:w-14">
        <JoinsControls shot={shot} element={element} step={step} />
        {info?.moves && <HeldToOwn element={element} held={step.held} onHold={(held) => shot.commit(held === undefined ? 'Let it go' : 'Hold it to a plane', withStep(shot.doc, element.id, step.id, (s) => ({ ...s, held }) as Step))} />}
      </Column>
    </div>
  )
}

/** The steps of an element by what they say. */
export function namesOf(shot: ShotOnBench, element: Element): StepName[] {
  return element.steps.map((s, i) => {
    const says = shot.state.sentences.find((t) => t.element === element.id && t.step === s.id)?.text ?? s.does.kind
    return { id: s.id, name: `${i + 1} ${says}`, kind: s.does.kind }
  })
}

/** What a step found out; of a move also how often the picture is sampled. */
function ToldOf({ shot, element, step }: Props) {
  const told = useTold(shot, element, step)
  if (!told) return null
  return (
    <div className="mt-1.5 flex flex-col gap-1 text-[11px] leading-snug text-dim" data-told>
      {told.found.map((text) => (
        <p key={text} className="text-text">
          {text}
        </p>
      ))}
      {told.sampled && <p>{told.sampled}</p>}
    </div>
  )
}

/** A column of the deck. */
export function Column({ title, className, children }: { title: string; className: string; children: ReactNode }) {
  return (
    <section className={`flex flex-col border-r border-line px-3 pt-1.5 pb-1 last:border-r-0 ${className}`} data-column={title}>
      <h3 className="mb-1 shrink-0 text-[11px] font-semibold text-dim">{title}</h3>
      {/* Marks of keys lie in the margin. */}
      <div className="-ml-3 min-h-0 grow overflow-auto pl-3">{children}</div>
    </section>
  )
}

/** The matte, drawn anew while something of it moves and not with what the step does. */
const Where = memo(function Where(kept: Props) {
  const { shot, element, step } = useLiveStep(kept.shot, kept.element, kept.step, (s, e) => [s.only_where, e.mattes])
  return <OnlyWhere shot={shot} element={element} step={step} />
})

const NONE: Finish[] = []

/** The parameters without those that a chosen finish has of its own. */
const withoutRest = (schema: ObjectSchema): ObjectSchema => ({ ...schema, properties: Object.fromEntries(Object.entries(schema.properties ?? {}).filter(([name]) => !OF_THE_REST.has(name))) })

const Does = memo(function Does({ shot, element, step: kept, info }: Props & { info: KindInfo }) {
  const { step } = useLiveStep(shot, element, kept, (s) => [s.does])
  const { pointing, set } = useBenchOf('pointing', 'set')
  const changed = (name: string, value: unknown) => withStep(shot.doc, element.id, step.id, (s) => ({ ...s, does: { ...s.does, [name]: value } }))
  const finished = 'finishes' in step.does ? step.does.finishes : NONE
  const chosen = useChosenFinish(finished)
  const ofRest = chosen === null
  const schema = useMemo(() => (ofRest ? info.schema : withoutRest(info.schema)), [info.schema, ofRest])
  const highlight = (group: string) =>
    group === 'Surface' &&
    'lamps' in step.does && (
      <Button className="self-start" aria-pressed={pointing === 'highlight'} onClick={() => set({ pointing: pointing === 'highlight' ? null : 'highlight' })} hint="Then click where the highlight should appear">
        {pointing === 'highlight' ? 'Click the picture…' : 'Place the highlight…'}
      </Button>
    )
  const frame = useFrame(shot.doc)
  const propose = () => api.finishes({ shot: draftNow(shot, frame), element: element.id, frame })
  return (
    <Keyed value={{ shot, at: `elements/${element.id}/steps/${step.id}/does` }}>
    <ProposeFinishes value={propose}>
    <Parameters
      schema={schema}
      values={step.does}
      defaults={info.defaults}
      after={highlight}
      onPreview={(name, v) => shot.preview(changed(name, v))}
      onCommit={(name, v, label) => shot.commit(label, changed(name, v))}
    >
      <SameAs shot={shot} element={element} step={step} />
      {'like' in step.does && <LightReport shot={shot} element={element} like={step.does.like} />}
    </Parameters>
    </ProposeFinishes>
    </Keyed>
  )
})

const MODES: { value: BlendMode; label: string }[] = [
  { value: 'normal', label: 'Normal' },
  { value: 'add', label: 'Add' },
  { value: 'subtract', label: 'Subtract' },
  { value: 'multiply', label: 'Multiply' },
  { value: 'screen', label: 'Screen' },
  { value: 'overlay', label: 'Overlay' },
  { value: 'darken', label: 'Darken' },
  { value: 'lighten', label: 'Lighten' },
  { value: 'color_dodge', label: 'Color dodge' },
  { value: 'color_burn', label: 'Color burn' },
  { value: 'hard_light', label: 'Hard light' },
  { value: 'soft_light', label: 'Soft light' },
  { value: 'difference', label: 'Difference' },
  { value: 'exclusion', label: 'Exclusion' },
  { value: 'hue', label: 'Hue' },
  { value: 'saturation', label: 'Saturation' },
  { value: 'color', label: 'Color' },
  { value: 'luminosity', label: 'Luminosity' },
]
const SPACES: { value: BlendSpace; label: string; hint: string }[] = [
  { value: 'display', label: 'Display', hint: 'Blends values as they look on a screen' },
  { value: 'linear', label: 'Linear', hint: 'Blends light' },
]

const JoinsControls = memo(function JoinsControls({ shot, element, step: kept }: Props) {
  const { step } = useLiveStep(shot, element, kept, (s) => [s.joins])
  const joined = (joins: Joins) => withStep(shot.doc, element.id, step.id, (s) => ({ ...s, joins }))
  return (
    <Keyed value={{ shot, at: `elements/${element.id}/steps/${step.id}/joins` }}>
      <JoinsFields joins={step.joins} most={1000} onPreview={(j) => shot.preview(joined(j))} onCommit={(label, j) => shot.commit(label, joined(j))}>
        <p className="mt-1 text-dim">
          Hold <Key>B</Key> to see the picture before all changes.
        </p>
      </JoinsFields>
    </Keyed>
  )
})

interface JoinsProps {
  joins: Joins
  /** Largest strength, percent. */
  most: number
  children?: ReactNode
  onPreview: (joins: Joins) => void
  onCommit: (label: string, joins: Joins) => void
}

/** How a step meets the picture, or an element what lies below it. */
export function JoinsFields({ joins, most, children, onPreview, onCommit }: JoinsProps) {
  const bounded = !['normal', 'add', 'subtract'].includes(joins.blend)
  return (
    <div className="flex flex-col gap-1.5">
      <KeyedField name="blend" label="Blend" value={joins.blend}>
        <div className="flex items-center gap-2">
          <label className="w-14 shrink-0 text-dim" htmlFor="blend">
            Blend
          </label>
          <Select id="blend" label="Blend" name="blend" className="w-24" value={joins.blend} options={MODES} onChange={(blend) => onCommit('Set blend', { ...joins, blend })} />
        </div>
      </KeyedField>
      {bounded && (
        <KeyedField name="space" label="Encoding of the blend" value={joins.space}>
          <div className="flex items-center gap-2">
            <span className="w-8 shrink-0 text-dim">In</span>
            <Choice label="Encoding of the blend" value={joins.space} options={SPACES} onChange={(space) => onCommit('Set blend encoding', { ...joins, space })} />
          </div>
        </KeyedField>
      )}
      <KeyedField name="strength" label="Strength" value={joins.strength}>
        <NumberField
          label="Strength"
          value={joins.strength * 100}
          unit="%"
          step={1}
          reset={100}
          slider={[0, 100]}
          min={0}
          max={most}
          onPreview={(v) => onPreview({ ...joins, strength: v / 100 })}
          onCommit={(v) => onCommit('Set strength', { ...joins, strength: v / 100 })}
        />
      </KeyedField>
      {children}
    </div>
  )
}
