import { useState } from 'react'
import { documentPath, handoffPath } from '../../api/client'
import type { Format, Target } from '../../api/types'
import { Choice } from '../../ui/Choice'
import { Modal } from '../../ui/Modal'
import { Select } from '../../ui/Select'
import { usePassesOf, servingOf } from '../bench/passes'
import { useBench, useFrame } from '../bench/store'
import type { ShotOnBench } from '../bench/useShot'
import { JobCard } from './JobCard'
import { RangeForm } from './RangeForm'
import { useJobs } from './useJobs'

const FORMATS: { value: Format; label: string; about: string }[] = [
  { value: 'exr_float', label: 'EXR float', about: 'OpenEXR, RGBA, 32-bit float, scene-linear, premultiplied, ZIP. Nothing is lost.' },
  { value: 'exr_half', label: 'EXR half', about: 'OpenEXR, RGBA, 16-bit float, scene-linear, premultiplied, ZIP.' },
  { value: 'png16', label: 'PNG 16', about: 'PNG, 16 bits, sRGB, straight alpha. Values above 1 are clipped.' },
]

const DEPTH: Record<Format, string> = {
  exr_float: 'OpenEXR, Z, 32-bit float, scene units; nothing is infinity.',
  exr_half: 'OpenEXR, Z, 16-bit float, scene units; nothing is infinity.',
  png16: 'PNG, 16 bits, grey: the nearest is white. Of the size of the picture, with _depth on its name: the pair that viewers of 3D photos take.',
}

const PASS: Record<Format, string> = {
  exr_float: 'OpenEXR, 32-bit float, canonical values, channels named by the role.',
  exr_half: 'OpenEXR, 16-bit float: data is rounded.',
  png16: 'PNG, 16 bits: normals as colours (½, ½, 1 faces you), other data only where it is 0..1.',
}

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
  const [format, setFormat] = useState<Format>('exr_float')
  const [what, setWhat] = useState('shot')
  const frame = useFrame(shot.doc)
  const [which, setWhich] = useState('one')
  const [chosen, setChosen] = useState<number | null>(null)
  const current = useBench((b) => b.element)
  const element = shot.doc.elements.find((e) => e.id === current) ?? shot.doc.elements[0]
  const passes = usePassesOf(element ?? null)
  const pass = passes.find((p) => p.id === chosen) ?? servingOf(passes, 'depth') ?? passes[0]
  const targets = [
    { value: 'shot', label: 'The result', target: { kind: 'shot' } as Target },
    ...(element ? [{ value: 'untouched', label: 'Before all changes', target: { kind: 'untouched', element: element.id } as Target }] : []),
    ...(element && pass ? [{ value: 'pass', label: 'A pass', target: { kind: 'pass', element: element.id, pass: pass.id } as Target }] : []),
  ]
  const about = what !== 'pass' ? FORMATS.find((f) => f.value === format)?.about : pass?.role === 'depth' ? DEPTH[format] : PASS[format]
  const target = targets.find((t) => t.value === what)?.target ?? { kind: 'shot' }
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
        <dt className="text-dim">As</dt>
        <dd>
          <Choice label="Format" value={format} options={FORMATS} onChange={setFormat} />
        </dd>
        <dt />
        <dd className="text-dim">{about}</dd>
        <dt className="text-dim">Size</dt>
        <dd className="figures">
          {width} × {height} px, revision {shot.state.revision}
        </dd>
      </dl>
      {range && <RangeForm key={shot.id} shot={shot} target={target} format={format} frames={range} />}
      <div className="mt-5 flex items-center gap-3">
        {!range && (
          <a className={`${link} bg-accent text-on-accent hover:brightness-110`} href={handoffPath(shot.id, shot.state.revision, target, format, frame)} download data-handoff>
            Write the picture
          </a>
        )}
        <a className={`${link} border border-line bg-raised hover:border-dim`} href={documentPath(shot.id, shot.state.revision)} download>
          Shot file
        </a>
      </div>
      <p className="mt-3 text-dim">
        The shot file renders to the same pixels without a screen: <span className="figures">{range ? `jugata render shot.json --frames ${range.first}-${range.last} --out shot.####.exr` : 'jugata render shot.json --out picture.exr'}</span>, with the render beside it.
      </p>
    </div>
  )
}
