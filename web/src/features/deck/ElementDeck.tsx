import { useQuery } from '@tanstack/react-query'
import { kindsQuery, madeQuery } from '../../api/queries'
import type { Element, Joins, Place } from '../../api/types'
import { Button } from '../../ui/Button'
import { NameField } from '../../ui/NameField'
import { Toggle } from '../../ui/Toggle'
import { useLive, withElement, type ShotOnBench } from '../bench/useShot'
import { ByDepthFields } from './ByDepthFields'
import { Column, JoinsFields } from './Deck'
import { HeldField } from '../tracks/HeldField'
import { tracksOfOthers } from '../tracks/tracks'
import { Keyed } from '../time/KeyMark'
import { Parameters } from './Parameters'

const OVER: Joins = { blend: 'normal', space: 'display', strength: 1 }

/** The chosen element itself: what it is made of, where it is put, how it meets what lies below it. */
export function ElementDeck({ shot: kept, element: chosen }: { shot: ShotOnBench; element: Element }) {
  const shot = useLive(kept)
  const element = shot.doc.elements.find((e) => e.id === chosen.id) ?? chosen
  const lowest = shot.doc.elements[0]?.id === element.id
  const changed = (change: (e: Element) => Element) => withElement(shot.doc, element.id, change)
  const joined = (joins: Joins) => changed((e) => ({ ...e, joins }))
  return (
    <div className="flex h-full bg-panel" aria-label="Deck" role="region" data-element-deck={element.id}>
      <Column title="Element" className="w-[190px] shrink-0">
        <div className="flex flex-col gap-2">
          <NameField label="Name of the element" name={element.name} onRename={(name) => shot.commit('Rename an element', changed((e) => ({ ...e, name })))} />
          <label className="flex items-center gap-2 text-dim">
            <Toggle label="Seen in the shot" on={!element.only_used} onChange={(on) => shot.commit(on ? `Show ${element.name}` : `Hide ${element.name}`, changed((e) => ({ ...e, only_used: !on })))} />
            Seen in the shot
          </label>
          {element.only_used && <p className="text-dim">Other elements may still use it.</p>}
          <Held shot={shot} element={element} />
        </div>
      </Column>
      {element.made && (
        <Column title="Makes" className="min-w-0 flex-[3]">
          <Makes shot={shot} element={element} />
        </Column>
      )}
      <Column title="Placed" className={element.made && !element.placement ? 'w-[200px] shrink-0' : 'min-w-0 flex-[2]'}>
        <Placed shot={shot} element={element} />
      </Column>
      <Column title="Joins" className="w-[188px] shrink-0 [&_label>span:first-child]:w-14 [&_label:first-child]:w-14">
        <Keyed value={{ shot, at: `elements/${element.id}/joins`, whole: (doc) => withElement(doc, element.id, (e) => ({ ...e, joins: e.joins ?? OVER })) }}>
          <JoinsFields joins={element.joins ?? OVER} most={100} onPreview={(j) => shot.preview(joined(j))} onCommit={(label, j) => shot.commit(label, joined(j))}>
            {lowest ? <p className="text-dim">Nothing lies below this element.</p> : <ByDepthFields shot={shot} element={element} />}
          </JoinsFields>
        </Keyed>
      </Column>
    </div>
  )
}

interface Props {
  shot: ShotOnBench
  element: Element
}

function Makes({ shot, element }: Props) {
  const info = useQuery(madeQuery).data?.find((k) => k.kind === element.made?.kind)
  const put = (name: string, value: unknown) => withElement(shot.doc, element.id, (e) => (e.made ? { ...e, made: { ...e.made, [name]: value } } : e))
  if (!info || !element.made) return null
  return (
    <Keyed value={{ shot, at: `elements/${element.id}/made` }}>
      <Parameters
        schema={info.schema}
        values={{ ...element.made }}
        defaults={{ ...info.defaults }}
        onPreview={(name, v) => shot.preview(put(name, v))}
        onCommit={(name, v, label) => shot.commit(label, put(name, v))}
      />
    </Keyed>
  )
}

/** The plane of another element that all of it goes along with. */
function Held({ shot, element }: Props) {
  return (
    <HeldField
      planes={tracksOfOthers(shot.doc, element).map((t) => ({ value: t.held, name: t.name }))}
      held={element.held ?? null}
      same={(a, b) => a.element === b.element && a.track === b.track}
      onHold={(to) => shot.commit(to ? `Hold ${element.name} to a plane` : `Let ${element.name} go`, withElement(shot.doc, element.id, (e) => ({ ...e, held: to ?? undefined }) as Element))}
    />
  )
}

function Placed({ shot, element }: Props) {
  const info = useQuery(kindsQuery).data?.find((k) => k.kind === 'place')
  const place = element.placement
  const usual = Object.fromEntries(Object.entries(info?.defaults ?? {}).filter(([name]) => name !== 'kind')) as unknown as Place
  const put = (placement: Place | undefined) => withElement(shot.doc, element.id, (e) => ({ ...e, placement }) as Element)
  if (!info) return null
  if (!place) {
    return (
      <div className="flex max-w-72 flex-col items-start gap-2">
        <p className="text-dim">It lies where it was made. Placing it comes after its steps, and its picture is read only once.</p>
        <Button data-place-element onClick={() => shot.commit(`Place ${element.name}`, put(usual))}>
          Place it…
        </Button>
      </div>
    )
  }
  return (
    <Keyed value={{ shot, at: `elements/${element.id}/placement` }}>
      <Parameters
        schema={info.schema}
        values={{ ...place }}
        defaults={usual}
        onPreview={(name, v) => shot.preview(put({ ...place, [name]: v }))}
        onCommit={(name, v, label) => shot.commit(label, put({ ...place, [name]: v }))}
      >
        <Button className="self-start" onClick={() => shot.commit(`Put ${element.name} back`, put(undefined))} hint="Takes the placement away; undo brings it back">
          Put it back
        </Button>
      </Parameters>
    </Keyed>
  )
}
