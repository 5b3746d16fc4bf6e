import type { Element, FollowedBy, HeldTo, Role, Track, TrackedFit } from '../../api/types'
import { Button } from '../../ui/Button'
import { Hint } from '../../ui/Hint'
import { NameField } from '../../ui/NameField'
import { Select } from '../../ui/Select'
import { Toggle } from '../../ui/Toggle'
import { useBench, useBenchOf, useFrame } from '../bench/store'
import type { ShotOnBench } from '../bench/useShot'
import { Column } from '../deck/Deck'
import { keyOf, startFollowing, stopFollowing, useFollowing } from './following'
import { PatchMenu } from './PatchMenu'
import { cornersAt, useTracks, withTrack } from './tracks'

interface Props {
  shot: ShotOnBench
  element: Element
  track: Track
}

/** A plane that is followed: where it was drawn, how well it is found on each frame, what was put right. */
export function TrackDeck({ shot, element, track }: Props) {
  return (
    <div className="flex h-full bg-panel" aria-label="Deck" role="region" data-track-deck={track.id}>
      <Column title="Plane" className="w-[216px] shrink-0">
        <Region shot={shot} element={element} track={track} />
      </Column>
      <Column title="Follow" className="w-[200px] shrink-0">
        <Follow shot={shot} element={element} track={track} />
      </Column>
      <Column title="Found" className="min-w-0 flex-1">
        <Found shot={shot} element={element} track={track} />
      </Column>
      <Column title="Put right by hand" className="w-[180px] shrink-0">
        <PutRight shot={shot} element={element} track={track} />
      </Column>
    </div>
  )
}

function Region({ shot, element, track }: Props) {
  const frame = useFrame(shot.doc)
  const set = useBench((b) => b.set)
  const seen = useTracks(shot).find((t) => t.element === element.id && t.track === track.id)
  const changed = (change: (t: Track) => Track) => withTrack(shot.doc, element.id, track.id, change)
  const mattes = element.mattes ?? []
  const leave = (left_out: number | undefined) => shot.commit(left_out === undefined ? 'Leave nothing out' : 'Leave a matte out', changed((t) => ({ ...t, left_out }) as Track))
  return (
    <div className="flex flex-col gap-2">
      <NameField label="Name of the plane" name={track.name} onRename={(name) => shot.commit('Rename a plane', changed((t) => ({ ...t, name })))} />
      {frame === track.at ? (
        <p className="text-dim">Drag the corners in the picture: a flat part with something to see on it, from edge to edge.</p>
      ) : (
        <div className="flex flex-wrap items-center gap-1">
          <span className="text-dim">Drawn on frame {track.at}.</span>
          <Button look="quiet" className="px-1!" onClick={() => set({ frame: track.at })} hint="Goes to the frame on which the region is drawn">
            Go there
          </Button>
          {!track.found && (
            <Button look="quiet" className="px-1!" onClick={() => shot.commit('Draw the plane here', changed((t) => ({ ...t, at: frame, corners: cornersAt(t, seen) })))} hint="Takes this frame to draw it on">
              Draw it here
            </Button>
          )}
        </div>
      )}
      {mattes.length > 0 && (
        <div className="flex items-center gap-2 text-dim">
          <span className="shrink-0">Leave out</span>
          <Select label="What is no part of the plane" name="left-out" className="min-w-0 flex-1" value={`${track.left_out ?? ''}`} options={[{ value: '', label: 'nothing' }, ...mattes.map((m) => ({ value: `${m.id}`, label: m.name }))]} onChange={(v) => leave(v === '' ? undefined : Number(v))} />
        </div>
      )}
    </div>
  )
}

function Follow({ shot, element, track }: Props) {
  const which = { element: element.id, track: track.id }
  const running = useFollowing((f) => f.of[keyOf(shot.id, which)])
  // It is followed as it was kept; an edit on its way comes first.
  const kept = !shot.saving
  if (running)
    return (
      <div className="flex flex-col gap-2" data-following>
        <progress className="h-1.5 w-full accent-accent" aria-label="Frames that were looked at" max={running.of} value={running.done} />
        <p className="figures text-dim">
          {running.done} of {running.of} frames
        </p>
        <Button className="self-start" onClick={() => stopFollowing(shot.id, which)} hint="What was found so far is kept">
          Stop
        </Button>
      </div>
    )
  return (
    <div className="flex flex-col gap-2">
      <Button look={track.found ? 'plain' : 'main'} className="self-start" data-follow disabled={!kept} onClick={() => void startFollowing(shot, which)} hint="Finds the region on every frame, forwards and backwards from the one on which it is drawn">
        {track.found ? 'Follow it again' : 'Follow it'}
      </Button>
      <By shot={shot} element={element} track={track} />
      {track.found && <PatchMenu shot={shot} element={element} track={track} />}
      {track.found && <Steady which={which} />}
      <p className="text-dim">{track.found ? 'Moves, drawn mattes and other elements can be held to it.' : SOURCES[track.by ?? 'picture'].about}</p>
    </div>
  )
}

/** What a plane is followed by, and what to know of it. */
const SOURCES: Record<FollowedBy, { label: string; about: string }> = {
  picture: { label: 'what is seen', about: 'Something that passes before it does no harm while half of it is seen.' },
  motion: { label: 'motion vectors', about: 'Exact for a render, also of things that move by themselves.' },
  positions: { label: 'positions', about: 'Exact for a render of what stands still in the world while the camera goes.' },
}

/** What it is followed by; a picture alone leaves no choice. */
function By({ shot, element, track }: Props) {
  const has = (role: Role) => element.passes.some((p) => p.role === role)
  const offered = (['picture', 'motion', 'positions'] as const).filter((by) => by === 'picture' || has(by === 'motion' ? 'motion' : 'position'))
  if (offered.length === 1) return null
  const choose = (by: FollowedBy) => shot.commit(`Follow ${track.name} by ${SOURCES[by].label}`, withTrack(shot.doc, element.id, track.id, (t) => ({ ...t, by })))
  return (
    <div className="flex items-center gap-2 text-dim">
      <span className="shrink-0">By</span>
      <Select label="What it is followed by" name="followed-by" className="min-w-0 flex-1" value={track.by ?? 'picture'} options={offered.map((by) => ({ value: by, label: SOURCES[by].label }))} onChange={choose} />
    </div>
  )
}

/** Whether the plane stands still in the panes while the frames pass. */
function Steady({ which }: { which: HeldTo }) {
  const { steady, set } = useBenchOf('steady', 'set')
  const on = steady?.element === which.element && steady.track === which.track
  return (
    <label className="flex items-center gap-2 text-dim">
      <Toggle label="Steady the panes" on={on} onChange={(to) => set({ steady: to ? which : null })} />
      Steady the panes
    </label>
  )
}

/** Whether a frame wants a look: little of it was found, or what was leaves open where its corners are. */
const doubtful = (f: TrackedFit) => f.fits < 0.5 || f.unsure > 0.1

function Found({ shot, element, track }: Props) {
  const frame = useFrame(shot.doc)
  const set = useBench((b) => b.set)
  const running = useFollowing((f) => f.of[keyOf(shot.id, { element: element.id, track: track.id })])
  const seen = useTracks(shot).find((t) => t.element === element.id && t.track === track.id)
  const fits: TrackedFit[] = running?.fits ?? seen?.frames ?? []
  const { first, last } = shot.doc.frames ?? { first: 0, last: 0 }
  if (fits.length === 0) return <p className="text-dim">Nothing yet: follow it, and see here how much of it was found on each frame.</p>
  const span = Math.max(1, last - first + 1)
  const here = fits.find((f) => f.frame === frame)
  return (
    <div className="flex h-full flex-col gap-1">
      <div className="relative min-h-8 grow rounded-tile bg-ground" role="group" aria-label="How much of it was found on each frame">
        {fits.map((f) => (
          <Hint key={f.frame} text={f.fits > 0 ? `Frame ${f.frame}: ${(f.fits * 100).toFixed(0)} % of it fits, corners within ${f.unsure.toFixed(2)} px` : `Frame ${f.frame}: not found`}>
            <button
              type="button"
              data-fit={f.frame}
              aria-label={`Frame ${f.frame}, ${(f.fits * 100).toFixed(0)} %`}
              className="absolute bottom-0 top-0 flex items-end justify-center"
              style={{ left: `${((f.frame - first) / span) * 100}%`, width: `${100 / span}%` }}
              onClick={() => set({ frame: f.frame })}
            >
              <span className={`mx-px w-full max-w-6 rounded-t-[2px] ${doubtful(f) ? 'border border-b-0 border-dashed border-dim' : f.frame === frame ? 'bg-accent' : 'bg-dim'}`} style={{ height: `${Math.max(f.fits, 0.04) * 100}%` }} />
            </button>
          </Hint>
        ))}
      </div>
      <p className="figures shrink-0 text-dim" data-fit-here>
        {here === undefined
          ? `Frame ${frame} was not looked at; it stays as on the nearest one that was.`
          : here.fits === 0
            ? `Not found on frame ${frame}: it is on its way between the frames before and after.`
            : `Frame ${frame}: ${(here.fits * 100).toFixed(0)} % of it fits, corners within ${here.unsure.toFixed(2)} px.${doubtful(here) ? ' It wants a look.' : ''}`}
      </p>
    </div>
  )
}

function PutRight({ shot, element, track }: Props) {
  const set = useBench((b) => b.set)
  const all = (track.put_right ?? []).toSorted((a, b) => a.frame - b.frame)
  const remove = (id: number) => shot.commit('Take a correction away', withTrack(shot.doc, element.id, track.id, (t) => ({ ...t, put_right: (t.put_right ?? []).filter((r) => r.id !== id) })))
  if (all.length === 0) return <p className="text-dim">Where it slips, drag its corners on that frame; frames between follow.</p>
  return (
    <div className="flex flex-wrap gap-1">
      {all.map((r) => (
        <span key={r.id} className="flex items-center rounded-full border border-line bg-ground" data-put-right={r.frame}>
          <button type="button" className="figures h-6 pl-2" onClick={() => set({ frame: r.frame })}>
            {r.frame}
          </button>
          <button type="button" className="h-6 px-1.5 text-dim hover:text-text" aria-label={`Take the correction of frame ${r.frame} away`} onClick={() => remove(r.id)}>
            ×
          </button>
        </span>
      ))}
      <p className="text-dim">Following it again goes on from these frames.</p>
    </div>
  )
}
