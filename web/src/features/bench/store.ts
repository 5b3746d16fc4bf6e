import { create } from 'zustand'
import { useShallow } from 'zustand/react/shallow'
import type { DisplayTable, FrameRange, HeldTo, Shot, View } from '../../api/types'
import { PLAIN } from '../../api/view'
import type { AtEnd, Way } from '../time/playing/range'
import { AS_KEPT, setEdited } from './edited'
import type { Wanted } from './usePicture'

export type Seeing = 'pair' | 'single' | 'wipe' | 'spot' | 'difference' | 'rock'

/** What a click in the picture does, if not nothing. */
export type Pointing = 'highlight' | 'finish' | 'lamp-surface' | 'lamp-aim' | 'object' | 'travel' | 'depth' | 'depth-range' | 'place' | 'corner' | 'paint' | 'paint-depth' | 'lens-line' | 'push' | 'smear' | 'paint-flow' | null

/** How a matte is seen: over the picture, or in the place of the pass. */
export type MatteShown = 'tint' | 'grey' | null

/** The brush, as it was used last. */
export interface Brush {
  size: number
  softness: number
  flow: number
  erases: boolean
  /** Depth that it gives, scene units. */
  depth: number
}

/** What is chosen and seen on the screen. */
interface Bench {
  /** The chosen element and step. */
  element: number | null
  step: number | null
  /** The chosen extracted pass; it takes the deck while it is chosen. */
  extract: number | null
  /** The chosen track of the element; it takes the deck while it is chosen. */
  track: number | null
  /** The plane that stands still in the panes. */
  steady: HeldTo | null
  /** The chosen part of the step's matte. */
  part: number
  brush: Brush
  /** The chosen lamp of a relight. */
  lamp: number
  /** The chosen one of a list that is drawn in the picture, by its number. */
  item: number | null
  /** How far off a clicked surface a lamp is hung, scene units. */
  lift: number
  matteShown: MatteShown
  /** The pass that the second pane keeps showing, whatever step is chosen. */
  pinned: number | null
  /** Whether a texture is seen flat beside the picture, in the place of the pass that it is laid by. */
  flat: boolean
  seeing: Seeing
  /** Place of the divider, share of the width. */
  divider: number
  /** CSS px per full-resolution px; null fits the frame into the pane. */
  zoom: number | null
  /** Full-resolution px in the middle of the pane; null is the middle of the frame. */
  centre: [number, number] | null
  /** Full-resolution px under the pointer. */
  crosshair: [number, number] | null
  pointing: Pointing
  /** The parameter that a clicked depth or place is for. */
  depthFor: string
  /** The nearer end of a range of depth, once it was clicked. */
  firstDepth: number | null
  /** The picture as it was, while the key is held. */
  before: boolean
  /** The result is shown up to this step. */
  upTo: number | null
  /** Only what that step gives is shown. */
  alone: boolean
  /** The frame that is seen; null is the first. */
  frame: number | null
  /** Whether the frames play, and which way: backwards is -1. */
  playing: Way | 0
  /** The frame that the panes show while frames play; fields and handles stay with `frame`. */
  playhead: number | null
  /** The frames that are played, if not all. */
  between: FrameRange | null
  atEnd: AtEnd
  /** How often the picture is halved once more while it plays: as often as it has to be, or a number. */
  playScale: 'auto' | 0 | 1 | 2
  /** How often it is halved once more now. */
  coarser: number
  /** What each pane shows of any frame, halved once more 0, 1 and 2 times. */
  looks: Partial<Record<string, Wanted[]>>
  /** The frame whose picture the picture pane shows. */
  seen: number | null
  /** Frames a second that are played now, once it is known. */
  reached: number | null
  /** Whether what moves has the deck. */
  time: boolean
  /** Address of the parameter whose course is seen. */
  driven: string | null
  /** How pictures and passes are shown on this screen; it changes no pixel of the result. */
  view: View
  /** A colour table in the place of the view transform. */
  grade: DisplayTable | null
  /** Factor on the shown difference. */
  gain: number
  /** Largest parallax while the picture is rocked, full-resolution px. */
  rockBy: number
  /** Whether a first picture is there: the tray waits for it. */
  shown: boolean
  /** A sentence about what went wrong, until it is dismissed. */
  trouble: string | null
  set: (change: Partial<Omit<Bench, 'set'>>) => void
}

const START = {
  element: null,
  step: null,
  extract: null,
  track: null as number | null,
  steady: null,
  part: 0,
  brush: { size: 60, softness: 0.5, flow: 1, erases: false, depth: 4 },
  lamp: 0,
  item: null,
  lift: 0.5,
  matteShown: null as MatteShown,
  pinned: null,
  flat: true,
  seeing: 'pair' as Seeing,
  divider: 0.5,
  zoom: null,
  centre: null,
  crosshair: null,
  pointing: null,
  depthFor: 'focus',
  firstDepth: null,
  before: false,
  upTo: null,
  alone: false,
  frame: null,
  playing: 0 as Way | 0,
  playhead: null as number | null,
  between: null as FrameRange | null,
  atEnd: 'again' as AtEnd,
  playScale: 'auto' as const,
  coarser: 0,
  looks: {},
  seen: null as number | null,
  reached: null as number | null,
  time: false,
  driven: null as string | null,
  view: PLAIN,
  grade: null,
  gain: 4,
  rockBy: 24,
  shown: false,
  trouble: null,
}

export const useBench = create<Bench>((set) => ({
  ...START,
  // What is chosen is one thing: another choice lets a track go.
  set: (change) => set(('element' in change || 'step' in change || 'extract' in change) && !('track' in change) ? { ...change, track: null } : change),
}))

/** Some of the bench by name: who asks is drawn anew when one of them changes, and not when the pointer moves. */
export function useBenchOf<K extends keyof Bench>(...names: K[]): Pick<Bench, K> {
  return useBench(useShallow((b) => Object.fromEntries(names.map((n) => [n, b[n]])) as Pick<Bench, K>))
}

/** The frame that is seen of a shot. */
export const useFrame = (shot: Shot): number => {
  const frame = useBench((b) => b.frame)
  return within(shot, frame)
}

/** The frame that the panes show. */
export const useShownFrame = (shot: Shot): number => useBench((b) => shownOf(shot, b))

/** The frame that the panes show, asked once. */
export const shownOf = (shot: Shot, b: Pick<Bench, 'playing' | 'playhead' | 'frame'>): number => within(shot, b.playing ? (b.playhead ?? b.frame) : b.frame)

/** A frame of the shot's own, the first if none is said. */
export function within(shot: Shot, frame: number | null): number {
  const { first, last } = shot.frames ?? { first: 0, last: 0 }
  return Math.min(last, Math.max(first, frame ?? first))
}

/** The frame that is seen of a shot, asked once. */
export const frameOf = (shot: Shot): number => within(shot, useBench.getState().frame)

/** Back to how a newly opened shot is seen. */
export const resetBench = () => {
  useBench.setState(START)
  setEdited(AS_KEPT)
}
