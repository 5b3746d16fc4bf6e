import { useEffect, useRef } from 'react'
import type { Shot } from '../../../api/types'
import { useEdited } from '../../bench/edited'
import { shownOf, useBench, useBenchOf, useShownFrame } from '../../bench/store'
import type { ShotOnBench } from '../../bench/useShot'
import { filler } from './filler'
import { isKeptAt, room, sizeOf, useKept, wayOf } from './memory'
import { after, played, type Way } from './range'

/** Until what is seen at rest is worked out ahead, ms: a change is seldom the last one. */
const REST = 400

/** Frames in a row that came too late, until a coarser picture is played. */
const LATE = 4

/** Times a picture is halved once more at most. */
const COARSEST = 2

/** Plays one way, or stops; what is seen then stays. */
export function toggle(shot: Shot, way: Way) {
  const b = useBench.getState()
  if (!shot.frames) return
  const at = shownOf(shot, b)
  if (b.playing === way) b.set({ playing: 0, playhead: null, frame: at })
  else b.set({ playing: way, playhead: at, pointing: null, ...(b.seeing === 'rock' ? { seeing: 'pair' } : {}) })
}

/** Goes to a frame. */
export function goTo(frame: number) {
  const b = useBench.getState()
  b.set(b.playing ? { frame, playhead: frame } : { frame })
}

/** Lets what is played begin or end here; the other end gives way where it has to, and once more at the same frame lets it go. */
export function mark(shot: Shot, end: 'first' | 'last', at = shownOf(shot, useBench.getState())) {
  const { between, set } = useBench.getState()
  const own = shot.frames
  if (!own) return
  const now = played(shot, between)
  const next = between?.[end] === at && own[end] !== at ? { ...now, [end]: own[end] } : end === 'first' ? { first: at, last: Math.max(at, now.last) } : { first: Math.min(at, now.first), last: at }
  set({ between: next.first === own.first && next.last === own.last ? null : next })
}

/** How often the picture has to be halved once more for all frames to have room. */
function fitting(looks: ReturnType<typeof useBench.getState>['looks'], frames: number): number {
  const all = Object.values(looks)
  const fits = (coarser: number) => frames <= room(all.reduce((sum, ways) => sum + (ways?.[coarser] ? sizeOf(ways[coarser].look) : 0), 0))
  return [0, 1].find(fits) ?? COARSEST
}

/** Plays the frames, and works out what is not seen yet. Has nothing to show for itself. */
export function Player({ shot }: { shot: ShotOnBench }) {
  useScale(shot)
  usePlaying(shot)
  useFilling(shot)
  return null
}

/**
 * Goes to the next frame when it is due and this one was seen: none is left out, and what is late moves what comes after it
 * instead of being hurried after.
 */
function usePlaying({ doc }: ShotOnBench) {
  const { playing, set } = useBenchOf('playing', 'set')
  const shot = useRef(doc)
  useEffect(() => {
    shot.current = doc
  }, [doc])
  useEffect(() => {
    if (!playing) return
    let due = performance.now()
    let since = due
    let late = 0
    let shown: number[] = []
    let next = 0
    const tick = (now: number) => {
      next = requestAnimationFrame(tick)
      const { rate } = shot.current
      const b = useBench.getState()
      const at = shownOf(shot.current, b)
      // Half a frame of the screen early is nearer than one late.
      if (b.seen !== at || now < due - 8) return
      late = now - since > 1500 / rate ? late + 1 : 0
      const auto = b.playScale === 'auto' && late >= LATE && b.coarser < COARSEST
      if (auto) late = 0
      const to = after(at, playing, played(shot.current, b.between), b.atEnd)
      if (!to) {
        set({ playing: 0, playhead: null, frame: at })
        return
      }
      shown = [...shown.filter((t) => t > now - 1000), now]
      const reached = shown.length > 2 ? ((shown.length - 1) * 1000) / (now - (shown[0] ?? now)) : null
      due = Math.max(due + 1000 / rate, now)
      since = now
      set({ playhead: to.frame, playing: to.way, reached, ...(auto ? { coarser: b.coarser + 1 } : {}) })
    }
    next = requestAnimationFrame(tick)
    return () => {
      cancelAnimationFrame(next)
      set({ reached: null })
    }
  }, [playing, set])
}

/** Plays as fine as it can: coarser where all frames have no room or come too late, finer once they are there. */
function useScale({ doc }: ShotOnBench) {
  const { looks, between, playScale, coarser, playing, set } = useBenchOf('looks', 'between', 'playScale', 'coarser', 'playing', 'set')
  const changes = useKept((k) => k.changes)
  const range = played(doc, between)
  const least = playScale === 'auto' ? fitting(looks, range.last - range.first + 1) : playScale
  useEffect(() => {
    if (!playing || playScale !== 'auto' || coarser < least) {
      if (coarser !== least) set({ coarser: least })
      return
    }
    const finer = looks.picture?.[coarser - 1]
    if (coarser === least || !finer) return
    const way = wayOf(finer)
    for (let frame = range.first; frame <= range.last; frame++) if (!isKeptAt(way, frame)) return
    set({ coarser: coarser - 1 })
  }, [changes, playing, playScale, coarser, least, looks, range.first, range.last, set])
}

function useFilling({ doc, saving }: ShotOnBench) {
  const { looks, between, coarser, playing } = useBenchOf('looks', 'between', 'coarser', 'playing')
  const draft = useEdited((e) => e.draft)
  const frame = useShownFrame(doc)
  const { first, last } = played(doc, between)
  const quiet = draft === null && !saving && doc.frames !== undefined
  useEffect(() => {
    if (!quiet) {
      filler.follow(null)
      return
    }
    const at = (coarser: number) => [looks.picture?.[coarser], looks.pass?.[coarser]].filter((w) => w !== undefined)
    const groups = [at(coarser), ...(playing && coarser > 0 ? [at(coarser - 1)] : [])]
    const follow = () => filler.follow({ groups, range: { first, last }, frame, way: playing || 1, playing: playing !== 0 })
    if (playing) {
      follow()
      return
    }
    const soon = setTimeout(follow, REST)
    return () => clearTimeout(soon)
  }, [looks, first, last, frame, coarser, playing, quiet])
  // Nobody is there to see it any more.
  useEffect(() => () => filler.follow(null), [])
}
