import { api, Failure, GAVE_WAY, TAB } from '../../../api/client'
import type { FrameRange } from '../../../api/types'
import { load, type Wanted } from '../../bench/usePicture'
import { ahead, type Way } from './range'
import { cannot, isKeptAt, keep, learn, nameAt, room, sizeOf, wayOf } from './memory'

/** What is to be worked out before it is seen. */
export interface Plan {
  /** What the panes show: each group over all frames before the next one, and in it the most wanted first. */
  groups: Wanted[][]
  range: FrameRange
  frame: number
  way: Way
  /** Whether the frames play: then they are wanted now. */
  playing: boolean
}

/** Until it is tried again after giving way, ms. */
const PAUSE = 150

/** How often it is looked whether somebody looks at the page again, ms. */
const AWAY = 1000

/** Pictures under way at once while frames play. */
const AT_ONCE = 2

const viewer = (lane: number) => `${TAB}-ahead-${lane}`

/** What a plan looks at, on whatever frame. */
const told = (plan: Plan) => JSON.stringify(plan.groups.map((looks) => looks.map(wayOf)))

const pause = (ms: number) => new Promise((done) => setTimeout(done, ms))

/**
 * Works out pictures of frames that are not seen yet, one after the other, in the order in which they would be played. While
 * nothing plays the server makes them only while it has nothing else to do.
 */
class Filler {
  private plan: Plan | null = null
  private stop = new AbortController()
  private lanes = new Set<number>()
  private under = new Set<string>()

  /** Follows another plan; null rests. What is under way is finished, unless the panes show something else. */
  follow(plan: Plan | null) {
    const before = this.plan
    this.plan = plan
    if (before && plan?.playing === before.playing && told(plan) === told(before)) {
      if (this.lanes.size > 0) return
    } else if (this.lanes.size > 0) {
      this.stop.abort()
      this.stop = new AbortController()
      void api.leave([...this.lanes].map(viewer))
    }
    if (plan) for (let lane = 0; lane < (plan.playing ? AT_ONCE : 1); lane++) if (!this.lanes.has(lane)) void this.run(lane)
  }

  private async run(lane: number) {
    this.lanes.add(lane)
    for (;;) {
      const plan = this.plan
      if (!plan || (lane > 0 && !plan.playing)) break
      const signal = this.stop.signal
      if (document.hidden) {
        await pause(AWAY)
        continue
      }
      try {
        if (!(await this.next(plan, lane, signal))) break
      } catch (e) {
        if (signal.aborted) continue
        // Gave way, or the server is away for a moment.
        if (e instanceof Failure && (e.status === GAVE_WAY || e.status === 0 || e.status >= 500)) await pause(e.status === GAVE_WAY ? PAUSE : 20 * PAUSE)
        else break
      }
    }
    this.lanes.delete(lane)
  }

  /** Works one picture out; false if all that there is room for is there. */
  private async next(plan: Plan, lane: number, signal: AbortSignal): Promise<boolean> {
    for (const looks of plan.groups) {
      const most = room(looks.reduce((sum, { look }) => sum + sizeOf(look), 0))
      for (const frame of ahead(plan.frame, plan.way, plan.range, most)) {
        for (const look of looks) {
          const way = wayOf(look)
          await learn(look, plan.range, frame, signal)
          const name = nameAt(way, frame)
          if (!name || isKeptAt(way, frame) || this.under.has(name)) continue
          // What plays is wanted now; the same at a finer scale is not.
          await this.make(look, frame, name, { lane, ahead: !plan.playing || looks !== plan.groups[0], signal })
          return true
        }
      }
    }
    return false
  }

  private async make(look: Wanted, frame: number, name: string, { lane, ahead, signal }: { lane: number; ahead: boolean; signal: AbortSignal }) {
    const wanted = { ...look, look: { ...look.look, frame, ...(ahead ? { ahead } : {}) } }
    this.under.add(name)
    try {
      const { name: came, ...picture } = await load(wanted, viewer(lane), signal)
      keep(wayOf(look), frame, came ?? name, picture)
    } catch (e) {
      // A frame that cannot be made is told when it is looked at.
      if (e instanceof Failure && e.status >= 400 && e.status < GAVE_WAY) cannot(wayOf(look), frame)
      else throw e
    } finally {
      this.under.delete(name)
    }
  }
}

export const filler = new Filler()
