import { useQuery } from '@tanstack/react-query'
import { DropdownMenu } from 'radix-ui'
import { useRef } from 'react'
import { send } from '../../api/client'
import { kindsQuery } from '../../api/queries'
import type { Element, Place, Track } from '../../api/types'
import { Button } from '../../ui/Button'
import { useBench } from '../bench/store'
import type { ShotOnBench } from '../bench/useShot'
import { ACCEPTED } from '../shots/files'
import { changedThere, laidThere } from './patches'

interface Props {
  shot: ShotOnBench
  element: Element
  track: Track
}

/** Changes that are offered for a part of the picture, by kind, as one says them. */
const CHANGES = [
  { kind: 'place', label: 'Cover it', hint: 'With what lies beside it: drag it to clean ground' },
  { kind: 'warp', label: 'Warp it', hint: 'Pushes and smears, as they lie on the frame on which the plane was drawn' },
  { kind: 'blur', label: 'Blur it', hint: 'Softens it, and nothing beside it' },
  { kind: 'colour', label: 'Change its colour', hint: 'Contrast, saturation, warmth, one hue' },
]

/** A patch: the region of the plane changed on one frame, and held to the plane on all; nothing else changes. */
export function PatchMenu({ shot, element, track }: Props) {
  const kinds = useQuery(kindsQuery).data ?? []
  const set = useBench((b) => b.set)
  const pick = useRef<HTMLInputElement>(null)
  const change = (name: string) => {
    const kind = kinds.find((k) => k.kind === name)
    if (!kind) return
    const { id, doc } = changedThere(shot.doc, element, track, kind)
    set({ element: element.id, step: id, extract: null, track: null, part: 0, pinned: null, pointing: null, upTo: null, frame: track.at })
    shot.commit(`${kind.title} on ${track.name}`, doc)
  }
  const lay = async (file: File) => {
    const place = kinds.find((k) => k.kind === 'place')?.defaults
    if (!place) return
    try {
      const arrived = await send(file, () => undefined)
      const usual = Object.fromEntries(Object.entries(place).filter(([name]) => name !== 'kind')) as unknown as Place
      shot.commit(`Lay ${arrived.file.name} on ${track.name}`, laidThere(shot.doc, element, track, arrived, usual))
    } catch (e) {
      set({ trouble: e instanceof Error ? e.message : 'The picture did not arrive; try again.' })
    }
  }
  return (
    <>
      <input
        ref={pick}
        type="file"
        accept={ACCEPTED}
        className="hidden"
        data-patch-picture
        onChange={(e) => {
          const file = e.target.files?.[0]
          e.target.value = ''
          if (file) void lay(file)
        }}
      />
      <DropdownMenu.Root modal={false}>
        <DropdownMenu.Trigger asChild>
          <Button className="self-start" data-patch hint="Changes only this region, on every frame">
            Patch…
          </Button>
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content align="start" side="top" sideOffset={4} className="z-40 w-72 rounded-tile border border-line bg-raised p-1 shadow-xl">
            <Item name="picture" label="Lay a picture over it…" hint="Painted elsewhere, or another label: its corners come to lie on those of the plane" onSelect={() => pick.current?.click()} />
            {CHANGES.map((c) => (
              <Item key={c.kind} name={c.kind} label={c.label} hint={c.hint} onSelect={() => change(c.kind)} />
            ))}
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
    </>
  )
}

function Item({ name, label, hint, onSelect }: { name: string; label: string; hint: string; onSelect: () => void }) {
  return (
    <DropdownMenu.Item onSelect={onSelect} data-patch-by={name} className="cursor-pointer rounded-[4px] px-2 py-1 outline-none data-[highlighted]:bg-accent-ground">
      <span className="block font-medium">{label}</span>
      <span className="block text-dim">{hint}</span>
    </DropdownMenu.Item>
  )
}
