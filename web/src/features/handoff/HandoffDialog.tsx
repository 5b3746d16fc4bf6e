import { useState } from 'react'
import { documentPath, handoffPath, pairPath, sheetPath } from '../../api/client'
import type { FileForm, Target } from '../../api/types'
import { Choice } from '../../ui/Choice'
import { Hint } from '../../ui/Hint'
import { Modal } from '../../ui/Modal'
import { Select } from '../../ui/Select'
import { usePassesOf, servingOf } from '../bench/passes'
import { useBench, useFrame } from '../bench/store'
import type { ShotOnBench } from '../bench/useShot'
import { FormFields } from './FormFields'
import { JobCard } from './JobCard'
import { RangeForm } from './RangeForm'
import { useJobs } from './useJobs'

interface Props {
  shot: ShotOnBench
  open: boolean
  onClose: () => void
}

/** What to write, the files, and ranges that are being written. */
export function HandoffDialog({ shot, open, onClose }: Props) {
  const jobs = useJobs(shot.id, open)
  return (
    <Modal title="Hand off" open={open} onClose={onClose} wide={jobs.length > 0}>
      <div className={jobs.length > 0 ? 'grid grid-cols-2 gap-6' : ''}>
        <Wishes shot={shot} />
        {jobs.length > 0 && (
          <section>
            <h3 className="mb-3 font-semibold">Ranges of this shot</h3>
            <ul className="flex flex-col gap-2">
              {jobs.map((job) => (
                <JobCard key={job.id} job={job} />
              ))}
            </ul>
          </section>
        )}
      </div>
    </Modal>
  )
}

function Wishes({ shot }: { shot: ShotOnBench }) {
  const [form, setForm] = useState<FileForm>({ format: 'exr_float', packing: 'zip', with: [] })
  const [what, setWhat] = useState('shot')
  const frame = useFrame(shot.doc)
  const [which, setWhich] = useState('one')
  const [chosen, setChosen] = useState<number | null>(null)
  const current = useBench((b) => b.element)
  const element = shot.doc.elements.find((e) => e.id === current) ?? shot.doc.elements[0]
  const picked = useBench((b) => b.step) ?? 0
  const step = element?.steps.findIndex((s) => s.id === picked) ?? -1
  const passes = usePassesOf(element ?? null)
  const pass = passes.find((p) => p.id === chosen) ?? servingOf(passes, 'depth') ?? passes[0]
  const targets = [
    { value: 'shot', label: 'The result', target: { kind: 'shot' } as Target },
    ...(element ? [{ value: 'untouched', label: 'Before all changes', target: { kind: 'untouched', element: element.id } as Target }] : []),
    ...(element && step >= 0 ? [{ value: 'gives', label: `What step ${step + 1} gives`, target: { kind: 'gives', element: element.id, step: picked } as Target }] : []),
    ...(element && pass ? [{ value: 'pass', label: 'A pass', target: { kind: 'pass', element: element.id, pass: pass.id } as Target }] : []),
  ]
  const of = what === 'shot' ? 'result' : what !== 'pass' ? 'picture' : pass?.role === 'depth' ? 'depth' : 'data'
  const written: FileForm = of === 'result' ? form : { ...form, with: [] }
  const target = targets.find((t) => t.value === what)?.target ?? { kind: 'shot' }
  const depth = servingOf(passes, 'depth')
  const { width, height } = shot.doc.display
  const range = which === 'range' ? shot.doc.frames : null
  const link = 'inline-flex h-8 items-center rounded-tile px-3 font-medium'
  return (
    <div>
      <dl className="grid grid-cols-[6rem_1fr] items-center gap-y-3">
        <dt className="text-dim">What</dt>
        <dd>
          <Choice label="What" value={what} options={targets} onChange={setWhat} />
          {what === 'pass' && pass && (
            <Select className="ml-2" label="Pass" name="pass" value={String(pass.id)} options={passes.map((p) => ({ value: String(p.id), label: p.name }))} onChange={(v) => setChosen(Number(v))} />
          )}
        </dd>
        {shot.doc.frames && (
          <>
            <dt className="text-dim">Of</dt>
            <dd>
              <Choice
                label="Of"
                value={which}
                options={[
                  { value: 'one', label: <span className="figures">Frame {frame}</span>, hint: 'The frame on the Bench' },
                  { value: 'range', label: 'A range of frames' },
                ]}
                onChange={setWhich}
              />
            </dd>
          </>
        )}
        <FormFields form={form} of={of} onChange={setForm} />
        <dt className="text-dim">Size</dt>
        <dd className="figures">
          {width} × {height} px, revision {shot.state.revision}
        </dd>
      </dl>
      {range && <RangeForm key={shot.id} shot={shot} target={target} form={written} frames={range} />}
      <div className="mt-5 flex items-center gap-3">
        {!range && (
          <a className={`${link} bg-accent text-on-accent hover:brightness-110`} href={handoffPath(shot.id, shot.state.revision, target, written, frame)} download data-handoff>
            Write the picture
          </a>
        )}
        <a className={`${link} border border-line bg-raised hover:border-dim`} href={documentPath(shot.id, shot.state.revision)} download>
          Shot file
        </a>
        <Hint text="One HTML file for somebody who has no Jugata: before and after with an edge to drag, frames, the steps as sentences">
          <a className={`${link} border border-line bg-raised hover:border-dim`} href={sheetPath(shot.id, shot.state.revision, frame)} download data-sheet>
            Review sheet
          </a>
        </Hint>
        {depth && element && !range && (
          <Hint text="A zip of two PNGs of 16 bits and one size: the result, and its depth with the nearest white and _depth on its name; what viewers of 3D photos take">
            <a className={`${link} border border-line bg-raised hover:border-dim`} href={pairPath(shot.id, shot.state.revision, element.id, depth.id, frame)} download data-pair>
              Colour and depth
            </a>
          </Hint>
        )}
      </div>
      <p className="mt-3 text-dim">
        The shot file renders to the same pixels without a screen: <span className="figures">{range ? `jugata render shot.json --frames ${range.first}-${range.last} --out shot.####.exr` : 'jugata render shot.json --out picture.exr'}</span>, with the render beside it.
      </p>
    </div>
  )
}
