import { useQuery } from '@tanstack/react-query'
import { extractsQuery } from '../../api/queries'
import type { Element, Extract } from '../../api/types'
import { Button } from '../../ui/Button'
import { RoleGlyph } from '../../ui/glyphs'
import { NameField } from '../../ui/NameField'
import { Toggle } from '../../ui/Toggle'
import { Hint } from '../../ui/Hint'
import { Passes, StepNames } from '../bench/elements'
import { before, usePassesOf } from '../bench/passes'
import { useBench } from '../bench/store'
import { useLive, withElement, withExtract, type ShotOnBench } from '../bench/useShot'
import { Column, namesOf } from './Deck'
import { Keyed } from '../time/KeyMark'
import { Parameters } from './Parameters'
import { ReadsList } from './ReadsList'

interface Props {
  shot: ShotOnBench
  element: Element
  extract: Extract
}

/** The chosen extracted pass: what it reads, how it is made, what it gives. */
export function ExtractDeck({ shot: kept, element, extract: chosen }: Props) {
  const shot = useLive(kept)
  const extract = shot.doc.elements.find((e) => e.id === element.id)?.extracts?.find((e) => e.id === chosen.id) ?? chosen
  const set = useBench((b) => b.set)
  const kinds = useQuery(extractsQuery).data ?? []
  const info = kinds.find((k) => k.kind === extract.does.kind)
  const passes = usePassesOf(element)
  const changed = (change: (e: Extract) => Extract) => withExtract(shot.doc, element.id, extract.id, change)
  const put = (name: string, value: unknown) => changed((e) => ({ ...e, does: { ...e.does, [name]: value } }))
  const remove = () => {
    set({ extract: null, pinned: null, pointing: null })
    shot.commit(`Remove ${extract.name}`, withElement(shot.doc, element.id, (e) => ({ ...e, extracts: (e.extracts ?? []).filter((x) => x.id !== extract.id) })))
  }
  if (!info) return null
  return (
    <div className="flex h-full bg-panel" aria-label="Deck" role="region" data-extract={extract.id}>
      <Column title="Reads" className="w-[190px] shrink-0">
        <ul className="flex flex-col gap-1">
          <ReadsList element={element} passes={before(passes, extract.id)} reads={info.reads} chosen={extract.reads ?? []} onChoose={(reads) => shot.commit('Choose what is read', changed((e) => ({ ...e, reads })))} />
          {info.reads.length === 0 && <li className="text-dim">no pass of this element</li>}
        </ul>
      </Column>
      <Column title="Makes" className="min-w-0 flex-1">
        <StepNames value={namesOf(shot, element)}>
        <Passes value={before(passes, extract.id)}>
        <Keyed value={{ shot, at: `elements/${element.id}/extracts/${extract.id}/does` }}>
        <Parameters
          lead={<p className="max-w-60 text-dim">{info.about}</p>}
          schema={info.schema}
          values={extract.does}
          defaults={info.defaults}
          onPreview={(name, v) => shot.preview(put(name, v))}
          onCommit={(name, v, label) => shot.commit(label, put(name, v))}
        />
        </Keyed>
        </Passes>
        </StepNames>
      </Column>
      <Column title="Gives" className="w-[290px] shrink-0">
        <div className="flex flex-col gap-2">
          <label className="flex items-center gap-2">
            <RoleGlyph role={info.gives} />
            <NameField label="Name of the pass" name={extract.name} className="min-w-0 grow" onRename={(name) => shot.commit('Rename a pass', changed((e) => ({ ...e, name })))} />
          </label>
          {info.gives !== 'other' && (
          <Hint text="Steps that read this role use it, unless they choose another pass under Reads">
            <label className="flex items-center gap-2 text-dim">
              <Toggle label="Use as the default" on={extract.serves} onChange={(serves) => shot.commit(serves ? `Use ${extract.name} as the default` : `Stop using ${extract.name} as the default`, changed((e) => ({ ...e, serves })))} />
              Use as the default {info.gives.replace('_', ' ')}
            </label>
          </Hint>
          )}
          <div className="flex gap-1.5">
            <Button onClick={() => set({ extract: null, pointing: null })} hint="Back to the chosen step">
              To the step
            </Button>
            <Button onClick={remove} hint="Undo brings it back">
              Remove
            </Button>
          </div>
        </div>
      </Column>
    </div>
  )
}
