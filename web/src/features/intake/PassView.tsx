import { useQuery } from '@tanstack/react-query'
import { useRef, useState, type ReactNode } from 'react'
import { api, picturePath, sendAll } from '../../api/client'
import { conventionsQuery, factsQuery, findingsQuery } from '../../api/queries'
import type { Convention, Element, Field, FindingKind, FindingSaid, Look, Pass, PassFacts } from '../../api/types'
import { PLAIN } from '../../api/view'
import { Button } from '../../ui/Button'
import { NumberField } from '../../ui/NumberField'
import { Hint } from '../../ui/Hint'
import { Select } from '../../ui/Select'
import { useBench } from '../bench/store'
import type { ShotOnBench } from '../bench/useShot'
import { ACCEPTED, tidy } from '../shots/files'
import { matters } from './PassRow'
import { REPAIRED, takeRemedies, withPass } from './remedies'

interface Props {
  shot: ShotOnBench
  element: Element
  pass: Pass
}

/** The chosen pass: its picture, where a finding is, what puts it right, how it is read. */
export function PassView({ shot, element, pass }: Props) {
  const frame = shot.doc.frames?.first ?? 0
  const findings = (useQuery(findingsQuery(shot.id, shot.state.revision, element.id, frame)).data ?? []).filter((f) => f.pass === pass.id)
  const facts = useQuery(factsQuery(shot.id, shot.state.revision, element.id, frame)).data?.find((f) => f.pass === pass.id)
  const fields = (useQuery(conventionsQuery).data ?? []).filter((f) => matters(f, pass.role, pass.convention))
  const [marked, setMarked] = useState<FindingKind | null>(null)
  const [clicks, setClicks] = useState<[number, number][] | null>(null)
  const mark = findings.some((f) => f.kind === marked && f.has_place) ? marked : null
  const put = (label: string, change: (p: Pass) => Pass) => shot.commit(label, withPass(shot.doc, element.id, pass.id, change))

  const click = async (at: [number, number]) => {
    if (!clicks) return
    const [near] = clicks
    if (!near) {
      setClicks([at])
      return
    }
    setClicks(null)
    try {
      const read = async ([x, y]: [number, number]) => (await api.probe(shot.id, shot.state.revision, element.id, frame, x, y)).passes.find((p) => p.pass === pass.id)?.stored[0]
      const [a, b] = [await read(near), await read(at)]
      if (a === null || a === undefined || b === null || b === undefined || a === b) {
        useBench.getState().set({ trouble: 'The two places have the same depth, or none; click something near and something far.' })
        return
      }
      const coding = a > b ? 'near_white' : 'near_black'
      put('Set the depth direction', (p) => ({ ...p, convention: { ...p.convention, depth_coding: coding, near: 1, far: 2 } }))
    } catch (e) {
      useBench.getState().set({ trouble: e instanceof Error ? e.message : 'Something went wrong; try again.' })
    }
  }

  return (
    <aside className="flex w-[430px] shrink-0 flex-col overflow-y-auto border-l border-line bg-panel" aria-label={`Pass ${pass.name}`}>
      <BigPicture shot={shot} element={element} pass={pass} mark={mark} onClick={clicks ? (at) => void click(at) : undefined} />
      {clicks && (
        <p className="bg-accent-ground px-4 py-1.5" role="status">
          {clicks.length === 0 ? 'Click something near in the picture.' : 'Now click something far.'}
        </p>
      )}
      {facts && <Facts facts={facts} pass={pass} replace={<Replace shot={shot} element={element} pass={pass} />} />}
      {shot.doc.elements.length > 1 && <BelongsTo shot={shot} element={element} pass={pass} />}
      <section className="border-t border-line px-4 py-2" aria-label="Findings">
        <h3 className="mb-1 text-[11px] font-semibold text-dim">Findings</h3>
        {findings.length === 0 && <p className="text-dim">No problems found in this pass.</p>}
        {findings.map((f) => (
          <FindingCard
            key={f.kind}
            finding={f}
            marked={mark === f.kind}
            onMark={() => setMarked(mark === f.kind ? null : f.kind)}
            onRemedy={() => {
              if (f.remedy?.kind === 'point_near_and_far') setClicks([])
              else takeRemedies(shot, element.id, f.button ?? 'Fix', [f])
            }}
            onLeave={() => put(f.accepted ? `Look again at ${f.title}` : `Leave ${f.title} as it is`, (p) => ({ ...p, accepted: f.accepted ? (p.accepted ?? []).filter((k) => k !== f.kind) : [...(p.accepted ?? []), f.kind] }))}
          />
        ))}
      </section>
      <section className="border-t border-line px-4 py-2" aria-label="Conventions">
        <h3 className="mb-1.5 text-[11px] font-semibold text-dim">Conventions</h3>
        <div className="flex flex-col gap-1.5">
          {fields.length === 0 && <p className="text-dim">Nothing to convert: this pass is used as it is stored.</p>}
          {fields.map((f) => (
            <FieldControl key={f.key} field={f} convention={pass.convention} onChange={(c) => put(`Set ${f.label.toLowerCase()} of ${pass.name}`, (p) => ({ ...p, convention: c }))} />
          ))}
          <Repairs pass={pass} onRemove={(i) => put('Undo a repair', (p) => ({ ...p, repairs: (p.repairs ?? []).filter((_, k) => k !== i) }))} />
        </div>
      </section>
    </aside>
  )
}

interface BigProps extends Props {
  mark: FindingKind | null
  onClick: ((at: [number, number]) => void) | undefined
}

function BigPicture({ shot, element, pass, mark, onClick }: BigProps) {
  const { display } = shot.doc
  const scale = Math.max(0, Math.floor(Math.log2(display.width / 640)))
  const look: Look = {
    target: { kind: 'pass', element: element.id, pass: pass.id },
    scale,
    window: null,
    view: { ...PLAIN, backdrop: 'checker' as const },
    viewer: null,
    ...(mark ? { mark: { element: element.id, pass: pass.id, finding: mark } } : {}),
  }
  return (
    <img
      src={picturePath(shot.id, shot.state.revision, look)}
      alt={mark ? `${pass.name} with the finding marked` : pass.name}
      data-big={mark ?? ''}
      className={`block w-full shrink-0 bg-pane object-contain ${onClick ? 'cursor-crosshair' : ''}`}
      style={{ aspectRatio: `${display.width} / ${display.height}`, maxHeight: 300 }}
      onClick={(e) => {
        const box = e.currentTarget.getBoundingClientRect()
        // The picture is fitted into its box.
        const k = Math.min(box.width / display.width, box.height / display.height)
        const x = (e.clientX - box.left - (box.width - display.width * k) / 2) / k
        const y = (e.clientY - box.top - (box.height - display.height * k) / 2) / k
        if (x >= 0 && y >= 0 && x < display.width && y < display.height) onClick?.([Math.floor(display.x + x), Math.floor(display.y + y)])
      }}
    />
  )
}

/** The element that the pass belongs to; another one takes it over, with its sequence. */
function BelongsTo({ shot, element, pass }: Props) {
  return (
    <label className="flex items-center gap-2 border-t border-line px-4 py-2">
      <span className="w-20 shrink-0 text-dim">Belongs to</span>
      <Select
        className="min-w-0 grow"
        label="Belongs to"
        name="belongs"
        value={String(element.id)}
        options={shot.doc.elements.map((e) => ({ value: String(e.id), label: e.name }))}
        onChange={(to) => shot.change((base) => api.movePasses(shot.id, { base, from: element.id, passes: [pass.id], to: Number(to) }))}
      />
    </label>
  )
}

/** Another file, or other frames, in the place of those that the pass is read from. */
function Replace({ shot, element, pass }: Props) {
  const pick = useRef<HTMLInputElement>(null)
  const take = async (chosen: File[]) => {
    const { files, refused } = await sendAll(chosen, () => undefined)
    if (refused.length > 0) useBench.getState().set({ trouble: refused.join(' ') })
    else if (files.length > 0) shot.change((base) => api.addFiles(shot.id, { base, element: element.id, files, instead: pass.id }))
  }
  return (
    <>
      <Button look="quiet" onClick={() => pick.current?.click()} hint="Reads every pass of this file from the new one; roles, conventions and steps stay">
        Replace…
      </Button>
      <input
        ref={pick}
        type="file"
        multiple
        accept={ACCEPTED}
        className="hidden"
        data-replace
        onChange={(e) => {
          void take(tidy(e.target.files ?? []))
          e.target.value = ''
        }}
      />
    </>
  )
}

const figure = (v: number | null) => (v === null ? '–' : Number(v.toPrecision(5)).toString())

function Facts({ facts, pass, replace }: { facts: PassFacts; pass: Pass; replace: ReactNode }) {
  const w = facts.window
  const top = Math.max(...facts.histogram, 1e-6)
  return (
    <div className="px-4 py-2">
      <dl className="figures grid grid-cols-[5.5rem_1fr] gap-x-2 gap-y-0.5 [&>dt]:font-sans [&>dt]:text-dim">
        <dt>File</dt>
        <dd className="flex items-center gap-2">
          <Hint text={pass.source.file}>
            <span className="min-w-0 truncate">
              {pass.source.file}
            </span>
          </Hint>
          {replace}
        </dd>
        <dt>Channels</dt>
        <dd className="truncate">{pass.source.channels.join(' ')}</dd>
        <dt>Stored</dt>
        <dd>
          {facts.stored}, {w.width}×{w.height} at {w.x}, {w.y}
        </dd>
        <dt>Values</dt>
        <dd>
          {figure(facts.low)} to {figure(facts.high)}
        </dd>
        <dt>Proposed</dt>
        <dd className="font-sans text-dim">{facts.why || '–'}</dd>
      </dl>
      {facts.range && (
        <figure className="mt-2">
          <svg viewBox={`0 0 ${facts.histogram.length} 24`} preserveAspectRatio="none" className="h-9 w-full bg-pane" role="img" aria-label="Histogram of depth, near on the left, without the background">
            {facts.histogram.map((v, i) => (
              <rect key={i} x={i} y={24 - 23 * Math.sqrt(v / top)} width={1} height={24} fill="currentColor" opacity={0.7} />
            ))}
          </svg>
          <figcaption className="figures flex justify-between text-[11px] text-dim">
            <span>{figure(facts.range[0])} units</span>
            <span className="font-sans">near to far, without the background</span>
            <span>{figure(facts.range[1])} units</span>
          </figcaption>
        </figure>
      )}
    </div>
  )
}

interface CardProps {
  finding: FindingSaid
  marked: boolean
  onMark: () => void
  onRemedy: () => void
  onLeave: () => void
}

function FindingCard({ finding: f, marked, onMark, onRemedy, onLeave }: CardProps) {
  return (
    <article className={`mb-2 rounded-tile border p-2 ${f.accepted ? 'border-line opacity-70' : 'border-warn'}`} data-finding={f.kind}>
      <h4 className="flex items-baseline justify-between gap-2 font-medium">
        {f.title}
        <span className="figures text-[11px] font-normal text-dim">{Math.round(f.confidence * 100)} % sure</span>
      </h4>
      <p className="mt-0.5">{f.what}</p>
      {f.cost && <p className="mt-0.5 text-dim">Costs: {f.cost}.</p>}
      <div className="mt-1.5 flex flex-wrap gap-1.5">
        {f.button && !f.accepted && (
          <Button look="main" onClick={onRemedy} data-remedy>
            {f.button}
          </Button>
        )}
        {f.has_place && (
          <Button aria-pressed={marked} onClick={onMark}>
            {marked ? 'Hide where' : 'Show where'}
          </Button>
        )}
        <Button look="quiet" onClick={onLeave}>
          {f.accepted ? 'Stop ignoring' : 'Ignore'}
        </Button>
      </div>
    </article>
  )
}

interface FieldProps {
  field: Field
  convention: Convention
  onChange: (c: Convention) => void
}

function FieldControl({ field, convention, onChange }: FieldProps) {
  const key = field.key as keyof Convention
  const value = convention[key]
  if (field.choices.length === 0 && value === null)
    return (
      <span className="flex items-center gap-2">
        <span className="w-20 shrink-0 text-dim">{field.label}</span>
        <Button look="quiet" onClick={() => onChange({ ...convention, [key]: 0 })} hint="The stored value that marks empty pixels">
          no value; set one…
        </Button>
      </span>
    )
  if (field.choices.length === 0 && typeof value === 'number')
    return <NumberField label={field.label} value={value} unit={field.unit} step={0.01} reset={field.key === 'near' ? 0 : 1} onPreview={() => undefined} onCommit={(v) => onChange({ ...convention, [key]: v })} />
  const now = JSON.stringify(value)
  const choices = field.choices.map((c) => ({ value: JSON.stringify(c.value), label: c.label }))
  const listed = choices.some((c) => c.value === now)
  return (
    <label className="flex items-center gap-2">
      <span className="w-20 shrink-0 text-dim">{field.label}</span>
      <Select
        className="min-w-0 grow"
        label={field.label}
        name={field.key}
        value={now}
        options={listed ? choices : [{ value: now, label: Array.isArray(value) ? value.join(' ') : String(value) }, ...choices]}
        onChange={(v) => onChange({ ...convention, [key]: JSON.parse(v) as never })}
      />
    </label>
  )
}

function Repairs({ pass, onRemove }: { pass: Pass; onRemove: (at: number) => void }) {
  return (pass.repairs ?? []).map((r, i) => (
    <p key={i} className="flex items-center justify-between gap-2">
      <span>
        {REPAIRED[r.kind]}
        {r.kind === 'shift' && ` by ${r.x}, ${r.y} px`}
      </span>
      <Button look="quiet" onClick={() => onRemove(i)}>
        Take back
      </Button>
    </p>
  ))
}
