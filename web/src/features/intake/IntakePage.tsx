import { useQuery } from '@tanstack/react-query'
import { useRef, useState } from 'react'
import { Link } from 'wouter'
import { api, sendAll, type Sending } from '../../api/client'
import { factsQuery, findingsQuery } from '../../api/queries'
import type { Element, FindingSaid, Pass, PassFacts } from '../../api/types'
import { Button } from '../../ui/Button'
import { Notice } from '../../ui/Notice'
import { NumberField } from '../../ui/NumberField'
import { ThemeButton } from '../../ui/theme'
import { ShotGate } from '../bench/ShotGate'
import { ShotHead } from '../bench/ShotHead'
import { useBenchOf } from '../bench/store'
import type { ShotOnBench } from '../bench/useShot'
import { ACCEPTED, tidy } from '../shots/files'
import { useDropping } from '../shots/useDropping'
import { useTaking } from './dragging'
import { CameraLine } from './CameraLine'
import { PassRow } from './PassRow'
import { PassView } from './PassView'
import { open, SURE, takeRemedies } from './remedies'

/** Files → elements → passes: what each is, how it is read, what is wrong with it. */
export function IntakePage({ id }: { id: string }) {
  return <ShotGate id={id}>{(shot) => <Intake shot={shot} />}</ShotGate>
}

function Intake({ shot }: { shot: ShotOnBench }) {
  const [chosen, choose] = useState<{ element: number; pass: number } | null>(null)
  const [sending, setSending] = useState<Sending | null>(null)
  const { trouble, set } = useBenchOf('trouble', 'set')
  const element = shot.doc.elements.find((e) => e.id === chosen?.element) ?? shot.doc.elements[0]
  const pass = element?.passes.find((p) => p.id === chosen?.pass) ?? element?.passes[0]

  const add = async (files: File[], own = false) => {
    if (!element || sending || files.length === 0) return
    set({ trouble: null })
    const got = await sendAll(files, setSending)
    setSending(null)
    if (got.refused.length > 0) set({ trouble: got.refused.join(' ') })
    if (got.files.length > 0) shot.change((base) => api.addFiles(shot.id, { base, ...(own ? {} : { element: element.id }), files: got.files }))
  }

  const { over, handlers } = useDropping((files) => add(files))

  return (
    <main
      className={`flex h-full flex-col ${over ? 'outline-2 -outline-offset-4 outline-accent outline-dashed' : ''}`}
      {...handlers}
    >
      <IntakeHead shot={shot} busy={sending !== null} onAdd={(files) => void add(files)} onElement={(files) => void add(files, true)} />
      {trouble && <Notice text={trouble} onDismiss={() => set({ trouble: null })} />}
      {sending && (
        <div className="border-b border-line bg-panel px-4 py-1.5" role="status">
          Bringing in {sending.name} ({sending.done + 1} of {sending.of})…
        </div>
      )}
      <div className="flex min-h-0 grow">
        <div className="min-w-0 grow overflow-y-auto">
          {shot.doc.elements.map((e) => (
            <ElementTable key={e.id} shot={shot} element={e} chosen={e.id === element?.id ? (pass?.id ?? null) : null} choose={(p) => choose({ element: e.id, pass: p })} />
          ))}
          {shot.doc.elements.length === 0 && <p className="p-6 text-dim">This shot has no files yet; drop a render with its passes here.</p>}
        </div>
        {element && pass && <PassView key={`${element.id}-${pass.id}`} shot={shot} element={element} pass={pass} />}
      </div>
    </main>
  )
}

interface HeadProps {
  shot: ShotOnBench
  busy: boolean
  onAdd: (files: File[]) => void
  onElement: (files: File[]) => void
}

function IntakeHead({ shot, busy, onAdd, onElement }: HeadProps) {
  const pick = useRef<HTMLInputElement>(null)
  const own = useRef<HTMLInputElement>(null)
  return (
    <ShotHead shot={shot} words="Intake">
      <ThemeButton />
      <Button disabled={busy} onClick={() => pick.current?.click()} hint="Adds frames, passes, or newer versions of files; roles and steps stay">
        Add files…
      </Button>
      <input ref={pick} type="file" multiple accept={ACCEPTED} className="hidden" data-add onChange={(e) => onAdd(tidy(e.target.files ?? []))} />
      <Button disabled={busy} onClick={() => own.current?.click()} hint="Adds files as a new element above the others">
        Add an element…
      </Button>
      <input ref={own} type="file" multiple accept={ACCEPTED} className="hidden" data-add-element onChange={(e) => onElement(tidy(e.target.files ?? []))} />
      <Link href={`/shots/${shot.id}`} className="inline-flex h-7 items-center rounded-tile bg-accent px-3 font-medium text-on-accent hover:brightness-110" data-to-bench>
        To the Bench
      </Link>
    </ShotHead>
  )
}

interface TableProps {
  shot: ShotOnBench
  element: Element
  chosen: number | null
  choose: (pass: number) => void
}

const NO_FINDINGS: FindingSaid[] = []
const NO_FACTS: PassFacts[] = []

function ElementTable({ shot, element, chosen, choose }: TableProps) {
  const frame = shot.doc.frames?.first ?? 0
  const checked = useQuery(findingsQuery(shot.id, shot.state.revision, element.id, frame))
  const known = useQuery(factsQuery(shot.id, shot.state.revision, element.id, frame))
  const findings = checked.data ?? NO_FINDINGS
  const facts = known.data ?? NO_FACTS
  const waiting = open(findings)
  const sure = waiting.filter((f) => f.remedy && f.remedy.kind !== 'point_near_and_far' && f.confidence >= SURE)
  const { over, taking } = useTaking(shot, element.id)
  const settled = checked.isPlaceholderData || checked.isPending ? 'no' : 'yes'
  return (
    <section className={`border-b border-line ${over ? 'shadow-[inset_0_0_0_2px_var(--accent)]' : ''}`} aria-label={element.name} data-checked={settled} {...taking}>
      <div className="flex min-h-11 flex-wrap items-center gap-x-4 gap-y-1 bg-panel px-4 py-1.5">
        <h2 className="font-semibold">{element.name}</h2>
        <span className="text-dim" role="status">
          {settled === 'no' ? 'checking…' : waiting.length === 0 ? 'nothing wrong was found' : `${waiting.length} ${waiting.length === 1 ? 'finding' : 'findings'}`}
        </span>
        {sure.length > 0 && (
          <Button onClick={() => takeRemedies(shot, element.id, `Fix ${sure.length} findings`, sure)} hint="Applies every fix that is at least 90 % certain; undo takes them back">
            Fix {sure.length === 1 ? 'the certain one' : `all ${sure.length} certain ones`}
          </Button>
        )}
        <span className="grow" />
        <CameraLine shot={shot} element={element} />
        <FrameWords shot={shot} element={element} />
      </div>
      {element.notes?.map((n) => (
        <p key={n} className="border-t border-line px-4 py-1 text-warn">
          {n}
        </p>
      ))}
      <table className="w-full border-collapse">
        <thead>
          <tr className="text-left text-[11px] text-dim [&>th]:px-2 [&>th]:py-1 [&>th]:font-normal">
            <th className="w-[100px] !pl-4">Picture</th>
            <th className="w-[180px]">Pass</th>
            <th className="w-[150px]">Role</th>
            <th>Conventions</th>
            <th className="w-[190px]">Findings</th>
          </tr>
        </thead>
        <tbody>
          {element.passes.map((pass: Pass) => (
            <PassRow
              key={pass.id}
              shot={shot}
              element={element}
              pass={pass}
              facts={facts.find((f) => f.pass === pass.id)}
              findings={findings.filter((f) => f.pass === pass.id)}
              chosen={pass.id === chosen}
              choose={() => choose(pass.id)}
            />
          ))}
        </tbody>
      </table>
    </section>
  )
}

function FrameWords({ shot, element }: { shot: ShotOnBench; element: Element }) {
  const frames = shot.doc.frames
  const put = (label: string, first: number, last: number) => shot.commit(label, { ...shot.doc, frames: { first: Math.round(first), last: Math.max(Math.round(first), Math.round(last)) } })
  if (!frames) {
    return (
      <span className="flex items-center gap-2 text-dim">
        still
        <Button look="quiet" data-give-frames onClick={() => put('Give the shot frames', 1, 48)} hint="Frames 1 to 48, so that what is done to it can move">
          Give it frames
        </Button>
      </span>
    )
  }
  const still = shot.doc.elements.every((e) => (e.sequences ?? []).length === 0)
  return (
    <span className="flex items-center gap-3 [&_label>span:first-child]:w-auto">
      <span className="figures text-dim">
        frames {frames.first}–{frames.last}
        {element.sequences && element.sequences.length > 0 && `, ${element.sequences.length} ${element.sequences.length === 1 ? 'sequence' : 'sequences'}`}
      </span>
      {still && (
        <>
          <NumberField label="First" value={frames.first} step={1} reset={1} min={-100000} max={100000} onPreview={() => undefined} onCommit={(first) => put('Set the first frame', first, frames.last)} />
          <NumberField label="Last" value={frames.last} step={1} reset={48} min={-100000} max={100000} onPreview={() => undefined} onCommit={(last) => put('Set the last frame', frames.first, last)} />
        </>
      )}
      <NumberField label="Rate" value={shot.doc.rate} unit="fps" step={1} reset={24} min={0.01} max={10000} onPreview={() => undefined} onCommit={(rate) => shot.commit('Set the frame rate', { ...shot.doc, rate })} />
    </span>
  )
}
