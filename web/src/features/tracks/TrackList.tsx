import type { Element, Track } from '../../api/types'
import { Button } from '../../ui/Button'
import { Line } from '../../ui/glyphs'
import { freeId } from '../bench/numbered'
import { useBenchOf, useFrame } from '../bench/store'
import { withElement, type ShotOnBench } from '../bench/useShot'
import { middleOf } from './tracks'

interface Props {
  shot: ShotOnBench
  element: Element
}

/** Planes of an element that are followed through the shot; nothing for a still. */
export function TrackList({ shot, element }: Props) {
  const { element: of, track: chosen, set } = useBenchOf('element', 'track', 'set')
  const frame = useFrame(shot.doc)
  const tracks = element.tracks ?? []
  if (!shot.doc.frames || (element.made && (element.sequences ?? []).length === 0)) return null
  const add = () => {
    const id = freeId(tracks)
    const track: Track = { id, name: `Plane ${id}`, at: frame, corners: middleOf(shot.doc.display) }
    set({ element: element.id, step: null, extract: null, track: id, pointing: null, upTo: null })
    shot.commit('Draw a plane', withElement(shot.doc, element.id, (e) => ({ ...e, tracks: [...tracks, track] })))
  }
  const remove = (t: Track) => {
    set({ track: null })
    shot.commit(`Remove ${t.name}`, withElement(shot.doc, element.id, (e) => ({ ...e, tracks: tracks.filter((o) => o.id !== t.id) })))
  }
  return (
    <div className="flex flex-col px-3 pt-1" data-tracks={element.id}>
      {tracks.map((t) => {
        const here = of === element.id && chosen === t.id
        return (
          <div key={t.id} className={`-mx-3 flex items-center border-l-2 px-2 ${here ? 'border-accent bg-accent-ground' : 'border-transparent hover:bg-raised'}`}>
            <button type="button" aria-current={here} data-track={t.id} className="flex min-w-0 grow items-center gap-1.5 py-1 text-left" onClick={() => set({ element: element.id, step: null, extract: null, track: t.id, pinned: null, pointing: null, upTo: null })}>
              <PlaneGlyph />
              <span className="truncate">{t.name}</span>
              <span className="truncate text-dim">{t.found ? 'followed' : 'drawn'}</span>
            </button>
            {here && (
              <Button look="quiet" aria-label={`Remove ${t.name}`} onClick={() => remove(t)} hint="Remove it; what is held to it is let go. Undo brings both back">
                <Line kind="remove" />
              </Button>
            )}
          </div>
        )
      })}
      <Button look="quiet" className="self-start" data-add-track onClick={add} hint="Draw a region of a plane, follow it through the shot, and hold things to it">
        Follow a plane…
      </Button>
    </div>
  )
}

/** A plane seen from the side, with a pin in it. */
export function PlaneGlyph() {
  return (
    <svg viewBox="0 0 16 16" className="size-3.5 shrink-0" fill="none" stroke="currentColor" strokeWidth="1.3" strokeLinejoin="round" strokeLinecap="round" aria-hidden>
      <path d="M1.5 12l3-5h10l-3 5zM8.5 9.5V3M8.5 3a1.4 1.4 0 1 0 .01 0" />
    </svg>
  )
}
