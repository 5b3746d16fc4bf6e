import { useState } from 'react'
import { api, picturePath, send, sheetPath } from '../../api/client'
import type { MediaFile, Figures, Look, Other } from '../../api/types'
import { PLAIN } from '../../api/view'
import { Button } from '../../ui/Button'
import { FileButton } from '../../ui/FileButton'
import { Modal } from '../../ui/Modal'
import { NumberField } from '../../ui/NumberField'
import { Select } from '../../ui/Select'
import { ACCEPTED } from '../shots/files'
import { useFrame } from './store'
import type { ShotOnBench } from './useShot'

/** The shot against a reference file or an earlier state: the difference and its figures. */
export function CompareDialog({ shot }: { shot: ShotOnBench }) {
  const [open, setOpen] = useState(false)
  return (
    <>
      <button type="button" className="h-6 rounded-tile border border-line bg-raised px-2 hover:border-dim" onClick={() => setOpen(true)} data-compare>
        Compare…
      </button>
      {open && (
        <Modal title="Compare" open onClose={() => setOpen(false)}>
          <Compare shot={shot} />
        </Modal>
      )}
    </>
  )
}

function Compare({ shot }: { shot: ShotOnBench }) {
  const frame = useFrame(shot.doc)
  const [against, setAgainst] = useState<Other | null>(null)
  const [figures, setFigures] = useState<Figures | null>(null)
  const [said, setSaid] = useState<string | null>(null)
  const [gain, setGain] = useState(4)
  const [state, setState] = useState<string | null>(null)
  const [reference, setReference] = useState<string | null>(null)
  const states = shot.doc.elements.flatMap((e) => [
    { label: `${e.name}, untouched`, target: { kind: 'untouched' as const, element: e.id } },
    ...e.steps.map((s, i) => ({ label: `${e.name} after step ${i + 1}`, target: { kind: 'after' as const, element: e.id, step: s.id } })),
  ])
  const run = async (other: Other) => {
    setSaid('Comparing…')
    setFigures(null)
    try {
      setFigures(await api.compare(shot.id, shot.state.revision, { target: { kind: 'shot' }, frame, other }))
      setAgainst(other)
      setSaid(null)
    } catch (e) {
      setAgainst(null)
      setSaid(e instanceof Error ? e.message : 'Something went wrong; try again.')
    }
  }
  const pick = async (at: string) => {
    setState(at)
    setReference(null)
    await run({ kind: 'target', target: states[Number(at)]?.target ?? { kind: 'shot' } })
  }
  const file = async (picked: File) => {
    setState(null)
    setReference(picked.name)
    try {
      setSaid(`Bringing in ${picked.name}…`)
      const brought: MediaFile = (await send(picked, () => undefined)).file
      await run({ kind: 'file', file: brought })
    } catch (e) {
      setSaid(`${picked.name}: ${e instanceof Error ? e.message : 'it was not taken.'}`)
    }
  }
  const scale = Math.max(0, Math.ceil(Math.log2(shot.doc.display.width / 960)))
  const look: Look | null = against && { target: { kind: 'shot' }, scale, frame, window: null, view: PLAIN, viewer: null, against: { other: against, gain } }
  return (
    <div className="flex w-[560px] max-w-full flex-col gap-3">
      <div className="flex flex-wrap items-center gap-3">
        <label className="flex items-center gap-2">
          The shot against
          <Select label="The shot against" name="other" className="w-56" placeholder="choose a state…" value={state} options={states.map((s, i) => ({ value: String(i), label: s.label }))} onChange={(v) => void pick(v)} />
        </label>
        <span className="flex items-center gap-2">
          or
          <FileButton name="reference" accept={ACCEPTED} label="Choose a file…" onPick={(picked) => void file(picked)} />
          {reference && <span className="max-w-40 truncate">{reference}</span>}
        </span>
      </div>
      {said && <p role="status">{said}</p>}
      {figures && (
        <dl className="figures grid grid-cols-3 gap-2" data-figures>
          <Figure label="PSNR" value={figures.psnr === null ? 'equal' : `${figures.psnr.toFixed(2)} dB`} />
          <Figure label="SSIM" value={figures.ssim === null ? '–' : figures.ssim.toFixed(4)} />
          <Figure label="Largest difference" value={`${figures.largest.toFixed(1)} of 255`} />
        </dl>
      )}
      {look && against && (
        <>
          <img src={picturePath(shot.id, shot.state.revision, look)} alt="The difference" className="w-full bg-pane object-contain" />
          <div className="flex items-center justify-between">
            <NumberField label="Gain" value={gain} step={0.5} reset={4} slider={[1, 32]} min={0} max={100000} onPreview={setGain} onCommit={setGain} />
            <Button look="quiet" onClick={() => setGain(1)}>
              As it is
            </Button>
          </div>
          <a className="self-start rounded-tile border border-line bg-raised px-2.5 py-1 hover:border-dim" href={sheetPath(shot.id, shot.state.revision, frame, against)} download>
            Review sheet with these figures
          </a>
          <p className="text-dim">Both pictures are clipped to 0..1 and encoded as sRGB before they are compared.</p>
        </>
      )}
    </div>
  )
}

function Figure({ label, value }: { label: string; value: string }) {
  return (
    <div className="rounded-tile border border-line px-2 py-1">
      <dt className="font-sans text-[11px] text-dim">{label}</dt>
      <dd>{value}</dd>
    </div>
  )
}
