import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { courseQuery, extractsQuery, kindsQuery, madeQuery } from '../../api/queries'
import type { ObjectSchema } from '../../api/schema'
import type { Drive, DrivenBy, Goes, Key, Shot } from '../../api/types'
import { Button } from '../../ui/Button'
import { Choice } from '../../ui/Choice'
import { NumberField } from '../../ui/NumberField'
import { Select } from '../../ui/Select'
import { Toggle } from '../../ui/Toggle'
import { useBenchOf, useFrame } from '../bench/store'
import { useLive, type ShotOnBench } from '../bench/useShot'
import { Column } from '../deck/Deck'
import { words } from '../deck/controls'
import { CourseGraph } from './CourseGraph'
import { CourseWords } from './CourseWords'
import { PixelCourse } from './PixelCourse'
import { goTo } from './playing/player'
import { Together } from './Together'
import { driveAt, fits, heldOf, keysOf, movedBy, numbersIn, numbersOf, shifted, valueAt, withBy, withChanged, withDrive, withMoved } from './keys'

/** What moves in the shot: a list, the course of the chosen one, and what moves it. */
export function TimeDeck({ shot: kept }: { shot: ShotOnBench }) {
  const shot = useLive(kept)
  const { driven, set } = useBenchOf('driven', 'set')
  const nameOf = useNames(shot.doc)
  const drives = shot.doc.drives ?? []
  const [pixel, setPixel] = useState(false)
  const [picked, setPicked] = useState<number[]>([])
  const chosen = pixel ? undefined : (driveAt(shot.doc, driven ?? '') ?? drives[0])
  const choose = (at: string) => {
    setPixel(false)
    setPicked([])
    set({ driven: at })
  }
  return (
    <div className="flex h-full bg-panel" aria-label="Time" role="region">
      <Column title="Moves" className="w-[268px] shrink-0">
        {drives.length === 0 && <p className="text-dim">Nothing yet. Click the small ring beside a field to set a key there.</p>}
        <ul className="flex flex-col gap-0.5">
          {drives.map((d) => (
            <li key={d.id}>
              <button type="button" data-driven={d.at} aria-pressed={d === chosen} onClick={() => choose(d.at)} className={`w-full truncate rounded-tile border px-1.5 py-0.5 text-left ${d === chosen ? 'border-accent bg-accent-ground' : 'border-transparent hover:bg-raised'}`}>
                {nameOf(d.at)}
              </button>
            </li>
          ))}
          <li>
            <button type="button" data-pixel-course aria-pressed={pixel} onClick={() => setPixel(true)} className={`w-full truncate rounded-tile border px-1.5 py-0.5 text-left text-dim ${pixel ? 'border-accent bg-accent-ground' : 'border-transparent hover:bg-raised'}`}>
              The pixel under the pointer
            </button>
          </li>
        </ul>
      </Column>
      <Column title="Course" className="min-w-0 flex-1">
        {chosen && <Course shot={shot} drive={chosen} picked={picked} onPick={setPicked} />}
        {pixel && <PixelCourse shot={shot} />}
      </Column>
      <Column title="Moved by" className="w-[300px] shrink-0">
        {chosen && <MovedBy shot={shot} drive={chosen} nameOf={nameOf} picked={picked} onPick={setPicked} />}
      </Column>
    </div>
  )
}

/** Words for what an element has beside steps and extracted passes. */
const GROUPS: Record<string, string> = { placement: 'Placed', joins: 'Joins', by_depth: 'By depth', only_where: 'Only where', finish: 'Edge' }

/** Names that an address goes through and nobody needs to hear. */
const UNSAID = new Set(['does', 'by', 'parts', 'matte', 'made'])

/** Names of parameters by their addresses: the element, what of it, and the field in its own words. */
function useNames(doc: Shot): (at: string) => string {
  const kinds = [useQuery(kindsQuery).data, useQuery(extractsQuery).data, useQuery(madeQuery).data].flatMap((list) => (list ?? []) as { kind: string; title: string; schema: ObjectSchema }[])
  const infoAt = (at: string[]) => {
    const kind = (valueAt(doc, at.join('/')) as { kind?: string } | undefined)?.kind
    return kinds.find((k) => k.kind === kind)
  }
  return (at) => {
    const names = at.split('/')
    const [, own, group = '', id = ''] = names
    const element = doc.elements.find((e) => names[0] === 'elements' && String(e.id) === own)
    const listed = group === 'steps' || group === 'extracts' || group === 'mattes'
    const does = group === 'made' ? names.slice(0, 3) : [...names.slice(0, 4), 'does']
    const info = infoAt(does)
    // Where an element has several steps, they are told by their places.
    const place = group === 'steps' ? (element?.steps.findIndex((s) => String(s.id) === id) ?? -1) + 1 : 0
    const matte = group === 'mattes' ? element?.mattes?.find((m) => String(m.id) === id)?.name : undefined
    const title = matte ?? (place > 0 && info ? `${place} ${info.title}` : info?.title)
    const schema = group === 'placement' ? kinds.find((k) => k.kind === 'place')?.schema : names.includes('does') || group === 'made' ? info?.schema : undefined
    const label = (name: string) => GROUPS[name] ?? schema?.properties?.[name]?.['x-label'] ?? (/^\d+$/.test(name) ? name : words(name))
    const field = names.slice(listed ? 4 : 2).filter((n) => !UNSAID.has(n))
    // One alone needs no name.
    const name = doc.elements.length > 1 ? (element?.name ?? 'Shot') : undefined
    return [name, title, ...field.map(label)].filter(Boolean).join(' · ')
  }
}

/** The values of the shot's frames, and the keys on them. */
function Course({ shot, drive, picked, onPick }: Picking & { shot: ShotOnBench; drive: Drive }) {
  const frame = useFrame(shot.doc)
  const range = shot.doc.frames ?? { first: 0, last: 0 }
  const course = useQuery(courseQuery(shot.id, shot.state.revision, drive.at, range.first, range.last)).data ?? []
  const keys = keysOf(drive)
  const move = (some: Key[], frames: number, component: number, by: number) => {
    shot.commit(some.length > 1 ? `Move ${some.length} keys` : 'Move a key', withChanged(shot.doc, drive.at, some, (k) => shifted(k, frames, component, by)))
    if (some.length > 1) onPick(some.map((k) => k.frame + frames))
  }
  const all = { ...range, frame, keys, onGo: goTo, picked, onPick }
  if (course.some((v) => typeof v === 'string')) {
    return <CourseWords {...all} course={course.map((v) => (typeof v === 'string' ? v : ''))} onMove={(some, frames) => move(some, frames, 0, 0)} />
  }
  return <CourseGraph {...all} course={course.map(numbersIn)} onMove={move} />
}

const GOES: { value: Goes; label: string; hint: string }[] = [
  { value: 'hold', label: 'Hold', hint: 'It stays until the next key' },
  { value: 'linear', label: 'Linear', hint: 'Straight to the next key' },
  { value: 'smooth', label: 'Smooth', hint: 'Smoothly through the keys, never past them' },
]

/** Keys that are changed together, by their frames. */
interface Picking {
  picked: number[]
  onPick: (frames: number[]) => void
}

interface Moved {
  shot: ShotOnBench
  drive: Drive
  nameOf: (at: string) => string
}

function MovedBy({ shot, drive, nameOf, picked, onPick }: Moved & Picking) {
  const { set } = useBenchOf('set')
  const put = (label: string, change: (d: Drive) => Drive | null) => shot.commit(label, withDrive(shot.doc, drive.at, change))
  return (
    <div className="flex flex-col gap-1.5">
      <p className="truncate" title={nameOf(drive.at)}>
        {nameOf(drive.at)}
      </p>
      {drive.by?.kind === 'keys' && <KeyFields shot={shot} drive={drive} keys={drive.by.keys} />}
      <div className="flex flex-wrap items-center gap-1">
        <Together shot={shot} drive={drive} picked={picked} onPick={onPick} />
        <Button
          look="quiet"
          onClick={() => {
            set({ driven: null })
            put('Let it stand still', () => null)
          }}
          hint="Takes away its keys, its link and its drift; the value that is seen stays"
        >
          Let it stand still
        </Button>
      </div>
      <Follows shot={shot} drive={drive} nameOf={nameOf} />
      <DriftFields shot={shot} drive={drive} />
    </div>
  )
}

/** The key at the frame that is seen: its value, and how it goes on. */
function KeyFields({ shot, drive, keys }: { shot: ShotOnBench; drive: Drive; keys: Key[] }) {
  const frame = useFrame(shot.doc)
  const key = keys.find((k) => k.frame === frame)
  const before = keys.findLast((k) => k.frame < frame)
  const after = keys.find((k) => k.frame > frame)
  const changed = (from: Key, to: Key) => withMoved(shot.doc, drive.at, from, to)
  return (
    <>
      <div className="flex items-center gap-1">
        <Button look="quiet" aria-label="Key before" disabled={!before} onClick={() => before && goTo(before.frame)}>
          ‹
        </Button>
        <span className="w-28 text-center text-dim">{key ? `key at ${key.frame}` : `no key at ${frame}`}</span>
        <Button look="quiet" aria-label="Next key" disabled={!after} onClick={() => after && goTo(after.frame)}>
          ›
        </Button>
        <span className="text-dim">of {keys.length}</span>
      </div>
      {key && (
        <>
          <NumberField label="Frame" value={key.frame} step={1} reset={key.frame} onPreview={() => undefined} onCommit={(to) => {
            shot.commit('Move a key', changed(key, { ...key, frame: to }))
            goTo(Math.round(to))
          }} />
          {typeof key.value !== 'string' && (
            <div className="flex items-center gap-2">
              <span className="w-20 shrink-0 text-dim">Goes on</span>
              <Choice label="How it goes on" value={key.goes} options={GOES} onChange={(goes) => shot.commit('Set how it goes on', changed(key, { ...key, goes }))} />
            </div>
          )}
        </>
      )}
    </>
  )
}

/** Parameters of the same name and size in other steps and elements of the same kind, and what moves already. */
function alike(doc: Shot, at: string): string[] {
  const own = heldOf(valueAt(doc, at))
  const names = at.split('/')
  const kindOf = (place: string) => (valueAt(doc, place) as { kind?: string } | undefined)?.kind
  const does = names.indexOf('does')
  const [group, field] = [names[2], names.slice(does + 1).join('/')]
  const kind = kindOf(names.slice(0, does + 1).join('/'))
  const same = doc.elements.flatMap((e) => {
    const list = group === 'steps' ? e.steps : group === 'extracts' ? (e.extracts ?? []) : []
    return list.filter((s) => s.does.kind === kind).map((s) => `elements/${e.id}/${group}/${s.id}/does/${field}`)
  })
  const all = [...same, ...(doc.drives ?? []).map((d) => d.at)]
  return [...new Set(all)].filter((to) => to !== at && fits(heldOf(valueAt(doc, to)), own))
}

function Follows({ shot, drive, nameOf }: Moved) {
  const link = drive.by?.kind === 'link' ? drive.by : null
  const others = alike(shot.doc, drive.at)
  const put = (label: string, by: DrivenBy | undefined) => shot.commit(label, withBy(shot.doc, drive.at, by))
  if (!link && others.length === 0) return null
  const options = [{ value: '', label: 'nothing' }, ...(link && !others.includes(link.to) ? [link.to, ...others] : others).map((to) => ({ value: to, label: nameOf(to) }))]
  return (
    <>
      <label className="flex items-center gap-2">
        <span className="w-20 shrink-0 text-dim">Follows</span>
        <Select className="w-44" label="Follows" name="follows" value={link?.to ?? ''} options={options} onChange={(to) => put('Let it follow', to === '' ? undefined : { kind: 'link', to, times: link?.times ?? 1, plus: link?.plus ?? 0 })} />
      </label>
      {link && typeof valueAt(shot.doc, drive.at) !== 'string' && (
        <div className="flex items-center gap-2">
          <span className="w-20 shrink-0 text-dim">Times, plus</span>
          <NumberField bare label="Times" value={link.times} step={0.01} reset={1} onPreview={() => undefined} onCommit={(times) => put('Set the factor', { ...link, times })} />
          <NumberField bare label="Plus" value={link.plus} step={0.01} reset={0} onPreview={() => undefined} onCommit={(plus) => put('Set the offset', { ...link, plus })} />
        </div>
      )}
    </>
  )
}

function DriftFields({ shot, drive }: { shot: ShotOnBench; drive: Drive }) {
  const { drift } = drive
  const put = (next: Drive['drift']) =>
    shot.commit(
      'Set the drift',
      withDrive(shot.doc, drive.at, (d) => movedBy(d, d.by, next)),
    )
  const numbers = numbersOf(valueAt(shot.doc, drive.at))
  const value = Math.abs(numbers?.[0] ?? 1)
  // Words do not drift.
  if (!numbers) return null
  return (
    <>
      <label className="flex items-center gap-2">
        <span className="w-20 shrink-0 text-dim">Drifts</span>
        <Toggle label="Drifts" on={drift !== undefined} onChange={(on) => put(on ? { amount: Number((0.1 * (value || 1)).toPrecision(2)), period: 24, seed: 1 } : undefined)} />
        {drift && (
          <>
            <NumberField bare label="Amount of drift" value={drift.amount} step={0.01} min={0} reset={drift.amount} onPreview={() => undefined} onCommit={(amount) => put({ ...drift, amount })} />
            <NumberField bare label="Frames of a turn" value={drift.period} unit="frames" step={1} min={1} reset={24} onPreview={() => undefined} onCommit={(period) => put({ ...drift, period })} />
            <NumberField bare label="Number of the drift" value={drift.seed} step={1} min={0} reset={1} onPreview={() => undefined} onCommit={(seed) => put({ ...drift, seed: Math.round(seed) })} />
          </>
        )}
      </label>
    </>
  )
}
