import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { api, presetDocument, presetPicture } from '../../api/client'
import { draftNow } from '../../api/edits'
import { presetsQuery } from '../../api/queries'
import type { Element, Lengths, PresetSummary } from '../../api/types'
import { Button } from '../../ui/Button'
import { Choice } from '../../ui/Choice'
import { FileButton } from '../../ui/FileButton'
import { Line } from '../../ui/glyphs'
import { Modal } from '../../ui/Modal'
import { useBench, useFrame } from './store'
import type { ShotOnBench } from './useShot'

interface Of {
  shot: ShotOnBench
  element: Element
}

const told = (e: unknown) => (e instanceof Error ? e.message : 'Something went wrong; try again.')

/** Saves steps under a name. */
export function SavePreset({ shot, element, steps }: Of & { steps: number[] }) {
  const [open, setOpen] = useState(false)
  return (
    <>
      <Button look="quiet" aria-label="Save as preset" data-save-preset onClick={() => setOpen(true)} hint="Save as a preset, to use it on other elements and in other shots">
        <Line kind="keep" />
      </Button>
      {open && (
        <Modal title="Save as a preset" open onClose={() => setOpen(false)}>
          <Naming shot={shot} element={element} steps={steps} onDone={() => setOpen(false)} />
        </Modal>
      )}
    </>
  )
}

function Naming({ shot, element, steps, onDone }: Of & { steps: number[]; onDone: () => void }) {
  const [name, setName] = useState('')
  const [all, setAll] = useState(false)
  const [said, setSaid] = useState<string | null>(null)
  const queries = useQueryClient()
  const frame = useFrame(shot.doc)
  const save = async () => {
    try {
      const chosen = all ? element.steps.map((s) => s.id) : steps
      await api.savePreset({ shot: draftNow(shot, frame), element: element.id, steps: chosen, frame, name })
      await queries.invalidateQueries({ queryKey: presetsQuery.queryKey })
      onDone()
    } catch (e) {
      setSaid(told(e))
    }
  }
  return (
    <form
      className="flex flex-col gap-3"
      onSubmit={(e) => {
        e.preventDefault()
        void save()
      }}
    >
      <label className="flex items-center gap-2">
        Name
        <input autoFocus className="h-7 grow rounded-tile border border-line bg-ground px-2" data-preset-name maxLength={100} value={name} onChange={(e) => setName(e.target.value)} />
      </label>
      {element.steps.length > 1 && (
        <label className="flex items-center gap-2">
          <input type="checkbox" checked={all} onChange={(e) => setAll(e.target.checked)} /> All {element.steps.length} steps of {element.name}
        </label>
      )}
      <p className="text-dim">Mattes that it uses come along; passes are found again by what they mean.</p>
      {said && <p role="alert" className="text-warn">{said}</p>}
      <Button look="main" type="submit" className="self-end" disabled={!name.trim()}>
        Save
      </Button>
    </form>
  )
}

/** The saved presets, to put on an element. */
export function Presets({ shot, element }: Of) {
  const [open, setOpen] = useState(false)
  return (
    <div className="px-3 pt-1">
      <Button look="quiet" data-presets onClick={() => setOpen(true)}>
        From a preset…
      </Button>
      {open && (
        <Modal title={`Presets for ${element.name}`} open onClose={() => setOpen(false)}>
          <List shot={shot} element={element} onDone={() => setOpen(false)} />
        </Modal>
      )}
    </div>
  )
}

/** A preset's name, which can be written over. */
function Title({ name, onRename }: { name: string; onRename: (name: string) => void }) {
  const [text, setText] = useState(name)
  const leave = () => {
    const next = text.trim()
    if (!next) setText(name)
    else if (next !== name) onRename(next)
  }
  return (
    <input
      aria-label="Name of the preset"
      data-preset-title
      className="-mx-1 w-full truncate rounded-[4px] border border-transparent bg-transparent px-1 font-semibold hover:border-line focus:border-line"
      maxLength={100}
      value={text}
      onChange={(e) => setText(e.target.value)}
      onBlur={leave}
      onKeyDown={(e) => {
        if (e.key === 'Enter') e.currentTarget.blur()
      }}
    />
  )
}

function List({ shot, element, onDone }: Of & { onDone: () => void }) {
  const presets = useQuery(presetsQuery)
  const queries = useQueryClient()
  const set = useBench((b) => b.set)
  const [said, setSaid] = useState<string[]>([])
  const [lengths, setLengths] = useState<Lengths>('fitted')
  const frame = useFrame(shot.doc)
  // Only letters and drawings have a height that lengths can be fitted to.
  const fits = ['lettering', 'drawing'].includes(element.made?.kind ?? '') && presets.data?.some((p) => p.height != null)
  const attempt = async (what: () => Promise<unknown>) => {
    try {
      setSaid([])
      await what()
    } catch (e) {
      setSaid([told(e)])
    }
  }
  const refresh = () => queries.invalidateQueries({ queryKey: presetsQuery.queryKey })
  const apply = (p: PresetSummary) =>
    attempt(async () => {
      const applied = await api.applyPreset(p.id, { shot: draftNow(shot, frame), element: element.id, lengths })
      set({ element: element.id, step: applied.steps[0] ?? null, extract: null, part: 0, upTo: null })
      shot.commit(`Apply ${p.name}`, applied.shot)
      if (applied.missing.length > 0) setSaid(applied.missing)
      else onDone()
    })
  const rename = (p: PresetSummary, name: string) =>
    attempt(async () => {
      await api.renamePreset(p.id, name)
      await refresh()
    })
  const remove = (p: PresetSummary) =>
    attempt(async () => {
      await api.removePreset(p.id)
      await refresh()
    })
  const bring = (chosen: File) =>
    attempt(async () => {
      await api.bringPreset(JSON.parse(await chosen.text()))
      await refresh()
    })
  return (
    <div className="flex flex-col gap-3">
      {said.length > 0 && (
        <ul role="alert" className="rounded-tile border border-warn px-3 py-2" data-missing>
          {said.map((s) => (
            <li key={s}>{s}</li>
          ))}
        </ul>
      )}
      {fits && (
        <div className="flex items-center gap-2">
          <span className="text-dim">Lengths</span>
          <Choice
            label="Lengths"
            value={lengths}
            options={[
              { value: 'fitted', label: 'Fitted', hint: 'They grow and shrink with the height of the letters' },
              { value: 'kept', label: 'As many px', hint: 'They stay what they are' },
            ]}
            onChange={setLengths}
          />
        </div>
      )}
      {presets.data?.length === 0 && <p className="text-dim">Nothing is saved yet. Choose a step and save it with the sign beside its sentence.</p>}
      <ul className="flex flex-col gap-2">
        {presets.data?.map((p) => (
          <li key={p.id} className="flex gap-3 rounded-tile border border-line p-2" data-preset={p.name}>
            {p.pictured ? <img src={presetPicture(p.id)} alt="" className="h-20 w-36 shrink-0 bg-pane object-cover" /> : <span className="h-20 w-36 shrink-0 bg-pane" />}
            <div className="min-w-0 grow">
              <Title name={p.name} onRename={(name) => void rename(p, name)} />
              <ol className="max-h-14 overflow-y-auto text-dim">
                {p.sentences.map((s, i) => (
                  <li key={i}>{s}</li>
                ))}
              </ol>
            </div>
            <div className="flex flex-col items-end gap-1">
              <Button look="main" data-apply-preset onClick={() => void apply(p)}>
                Apply
              </Button>
              <span className="flex">
                <a className="inline-flex h-7 items-center px-1.5 text-dim hover:text-text" href={presetDocument(p.id)} download={`${p.name}.json`}>
                  File
                </a>
                <Button look="quiet" aria-label={`Remove ${p.name}`} onClick={() => void remove(p)} hint="Removes the preset; steps made with it stay">
                  <Line kind="remove" />
                </Button>
              </span>
            </div>
          </li>
        ))}
      </ul>
      <div>
        <FileButton name="preset" accept=".json" label="Bring in a preset file…" look="quiet" onPick={(chosen) => void bring(chosen)} />
      </div>
    </div>
  )
}
