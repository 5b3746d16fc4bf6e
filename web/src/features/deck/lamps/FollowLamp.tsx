import { useQuery } from '@tanstack/react-query'
import { useContext } from 'react'
import { kindsQuery } from '../../../api/queries'
import type { ObjectSchema } from '../../../api/schema'
import type { Lamp, Shot } from '../../../api/types'
import { Hint } from '../../../ui/Hint'
import { Select } from '../../../ui/Select'
import { Keyed } from '../../time/KeyMark'
import { driveAt, withBy } from '../../time/keys'

/** Whether a lamp could be seen in the picture: not one that shines from behind the camera. */
const ahead = (lamp: Lamp) => lamp.kind !== 'directional' || lamp.toward[2] < 0

/** Where each lamp of a shot is: the address of its direction or its place, and what it is called. */
function lampsOf(doc: Shot, schemas: Map<string, ObjectSchema>, seen: boolean): { value: string; label: string }[] {
  return doc.elements.flatMap((e) =>
    e.steps.flatMap((s, i) => {
      const lists = Object.entries(schemas.get(s.does.kind)?.properties ?? {}).filter(([, p]) => p['x-meaning'] === 'lamps')
      return lists.flatMap(([name]) =>
        ((s.does as unknown as Record<string, Lamp[]>)[name] ?? []).flatMap((lamp, place) => {
          if (seen && !ahead(lamp)) return []
          const value = `elements/${e.id}/steps/${s.id}/does/${name}/${lamp.id}/${lamp.kind === 'directional' ? 'toward' : 'position'}`
          return [{ value, label: `${doc.elements.length > 1 ? `${e.name} · ` : ''}step ${i + 1}, lamp ${place + 1}` }]
        }),
      )
    }),
  )
}

interface Props {
  name: string
  hint: string
  /** Only lamps that could be seen in the picture. */
  seen?: boolean
}

/** Lets a parameter follow a lamp of the shot; nothing where there is none. */
export function FollowLamp({ name, hint, seen = false }: Props) {
  const keyed = useContext(Keyed)
  const kinds = useQuery(kindsQuery).data ?? []
  if (!keyed) return null
  const { shot } = keyed
  const at = `${keyed.at}/${name}`
  const lamps = lampsOf(shot.doc, new Map(kinds.map((k) => [k.kind, k.schema])), seen)
  const by = driveAt(shot.doc, at)?.by
  const now = by?.kind === 'link' ? by.to : ''
  if (lamps.length === 0) return null
  const choose = (to: string) => shot.commit(to ? 'Follow a lamp' : 'Follow no lamp', withBy(shot.doc, at, to ? { kind: 'link', to, times: 1, plus: 0 } : undefined))
  return (
    <Hint text={hint}>
      <label className="flex items-center gap-2">
        <span className="field w-20 shrink-0 truncate text-dim">Follows</span>
        <Select className="w-36" label="Follows a lamp" name={`${name}-lamp`} value={lamps.some((l) => l.value === now) ? now : ''} options={[{ value: '', label: 'no lamp' }, ...lamps]} onChange={choose} />
      </label>
    </Hint>
  )
}
