import { useQuery } from '@tanstack/react-query'
import type { ReactNode } from 'react'
import { kindsQuery } from '../../api/queries'
import type { BlendMode, BlendSpace, Element, KindInfo, Step } from '../../api/types'
import { Button, Key } from '../../ui/Button'
import { Choice } from '../../ui/Choice'
import { RoleGlyph } from '../../ui/glyphs'
import { NumberField } from '../../ui/NumberField'
import { useBench } from '../bench/store'
import { withStep, type ShotOnBench } from '../bench/useShot'
import { OnlyWhere } from './OnlyWhere'
import { optionsOf, ParameterControl, plays } from './controls'

interface Props {
  shot: ShotOnBench
  element: Element
  step: Step
}

/** The chosen step, read from left to right like its sentence. */
export function Deck({ shot, element, step }: Props) {
  const info = useQuery(kindsQuery).data?.find((k) => k.kind === step.does.kind)
  return (
    <div className="flex h-[224px] shrink-0 border-t border-line bg-panel" aria-label="Deck" role="region">
      <Column title="Reads" className="w-[150px] shrink-0">
        <ReadsList element={element} step={step} info={info} />
      </Column>
      <Column title="Does" className="min-w-0 flex-1">
        {info && <Does shot={shot} element={element} step={step} info={info} />}
      </Column>
      <Column title="Only where" className="w-[298px] shrink-0">
        <OnlyWhere shot={shot} element={element} step={step} />
      </Column>
      <Column title="Joins" className="w-[252px] shrink-0">
        <JoinsControls shot={shot} element={element} step={step} />
      </Column>
    </div>
  )
}

function Column({ title, className, children }: { title: string; className: string; children: ReactNode }) {
  return (
    <section className={`flex flex-col overflow-y-auto border-r border-line px-3 py-2 last:border-r-0 ${className}`}>
      <h3 className="mb-1.5 text-[11px] font-semibold text-dim">{title}</h3>
      {children}
    </section>
  )
}

function ReadsList({ element, step, info }: { element: Element; step: Step; info: KindInfo | undefined }) {
  const reads = info?.reads ?? []
  const point = step.does.kind === 'relight' && step.does.lamp === 'point'
  return (
    <ul className="flex flex-col gap-1">
      <li className="flex items-center gap-1.5">
        <RoleGlyph role="beauty" /> the picture so far
      </li>
      {reads.map((r) => {
        const pass = element.passes.find((p) => p.role === r.role)
        const made = r.role === 'position' && element.camera !== null && element.passes.some((p) => p.role === 'depth')
        const needed = r.required || (point && r.role === 'position')
        return (
          <li key={r.role} className={`flex items-center gap-1.5 ${pass || made ? '' : needed ? 'text-warn' : 'text-dim'}`}>
            <RoleGlyph role={r.role} />
            <span>{pass?.name ?? (made ? 'position, from depth' : needed ? `no ${r.role}: needed` : `no ${r.role}`)}</span>
          </li>
        )
      })}
    </ul>
  )
}

function Does({ shot, element, step, info }: Props & { info: KindInfo }) {
  const { pointing, set } = useBench()
  const values = step.does as unknown as Record<string, unknown>
  const defaults = info.defaults as unknown as Record<string, unknown>
  const properties = Object.entries(info.schema.properties ?? {}).filter(([, s]) => plays(s, values))
  const groups = [...new Set(properties.map(([, s]) => s['x-group'] ?? ''))]
  const changed = (name: string, value: unknown) =>
    withStep(shot.doc, element.id, step.id, (s) => ({ ...s, does: { ...s.does, [name]: value } }))
  return (
    <div className="flex flex-wrap gap-x-7 gap-y-1">
      {groups.map((group) => (
        <div key={group} className="flex flex-col gap-1">
          {properties
            .filter(([, s]) => (s['x-group'] ?? '') === group)
            .map(([name, schema]) => (
              <ParameterControl
                key={name}
                name={name}
                schema={schema}
                value={values[name]}
                reset={defaults[name]}
                options={optionsOf(schema, info.schema)}
                onPreview={(v) => shot.preview(changed(name, v))}
                onCommit={(v) => shot.commit(`Set ${(schema['x-label'] ?? name).toLowerCase()}`, changed(name, v))}
              />
            ))}
          {group === 'Surface' && step.does.kind === 'relight' && (
            <Button
              className="mt-1 self-start"
              aria-pressed={pointing === 'highlight'}
              onClick={() => set({ pointing: pointing === 'highlight' ? null : 'highlight' })}
              hint="Then click the picture where the highlight should appear"
            >
              {pointing === 'highlight' ? 'Click the picture…' : 'Put the highlight here…'}
            </Button>
          )}
        </div>
      ))}
    </div>
  )
}

const MODES: { value: BlendMode; label: string }[] = [
  { value: 'normal', label: 'Normal' },
  { value: 'add', label: 'Add' },
  { value: 'screen', label: 'Screen' },
  { value: 'multiply', label: 'Multiply' },
  { value: 'overlay', label: 'Overlay' },
]
const SPACES: { value: BlendSpace; label: string; hint: string }[] = [
  { value: 'display', label: 'Display', hint: 'Blends values as they look on a screen' },
  { value: 'linear', label: 'Linear', hint: 'Blends light' },
]

function JoinsControls({ shot, element, step }: Props) {
  const joined = (change: Partial<Step['joins']>) =>
    withStep(shot.doc, element.id, step.id, (s) => ({ ...s, joins: { ...s.joins, ...change } }))
  const bounded = !['normal', 'add'].includes(step.joins.blend)
  return (
    <div className="flex flex-col gap-1.5">
      <div className="flex items-center gap-2">
        <label className="w-20 shrink-0 text-dim" htmlFor="blend">
          Blend
        </label>
        <select
          id="blend"
          className="h-6 w-24 rounded-tile border border-line bg-ground px-1"
          value={step.joins.blend}
          onChange={(e) => shot.commit('Set blend', joined({ blend: e.target.value as BlendMode }))}
        >
          {MODES.map((m) => (
            <option key={m.value} value={m.value}>
              {m.label}
            </option>
          ))}
        </select>
      </div>
      {bounded && (
        <div className="flex items-center gap-2">
          <span className="w-20 shrink-0 text-dim">In</span>
          <Choice label="Encoding of the blend" value={step.joins.space} options={SPACES} onChange={(space) => shot.commit('Set blend encoding', joined({ space }))} />
        </div>
      )}
      <NumberField
        label="Strength"
        value={step.joins.strength * 100}
        unit="%"
        step={1}
        reset={100}
        slider={[0, 100]}
        min={0}
        max={1000}
        onPreview={(v) => shot.preview(joined({ strength: v / 100 }))}
        onCommit={(v) => shot.commit('Set strength', joined({ strength: v / 100 }))}
      />
      <p className="mt-1 text-dim">
        Hold <Key>B</Key> to see the picture before all changes.
      </p>
    </div>
  )
}
