import { create } from 'zustand'
import { api, follow } from '../../api/client'
import type { AskFollow, TrackedFit } from '../../api/types'
import { useBench } from '../bench/store'
import type { ShotOnBench } from '../bench/useShot'

/** How far a track has come that is being followed. */
interface Running {
  done: number
  of: number
  fits: TrackedFit[]
}

interface Following {
  of: Record<string, Running>
}

export const useFollowing = create<Following>(() => ({ of: {} }))

export const keyOf = (shot: string, which: AskFollow) => `${shot} ${which.element} ${which.track}`

const put = (key: string, running: Running | null) =>
  useFollowing.setState((now) => {
    const others = Object.entries(now.of).filter(([name]) => name !== key)
    return { of: Object.fromEntries(running ? [...others, [key, running]] : others) }
  })

/** Follows a track until it is done or stopped. It goes on whatever is looked at meanwhile. */
export async function startFollowing(shot: ShotOnBench, which: AskFollow) {
  const key = keyOf(shot.id, which)
  let now: Running = { done: 0, of: 1, fits: [] }
  put(key, now)
  try {
    await follow(shot.id, shot.state.revision, which, (news) => {
      if (news.kind === 'frame') {
        now = { done: news.done, of: news.of, fits: [...now.fits, news.fit] }
        put(key, now)
      } else if (news.kind === 'failed') useBench.getState().set({ trouble: news.sentence })
    })
  } catch (e) {
    useBench.getState().set({ trouble: e instanceof Error ? e.message : 'The plane could not be followed; try again.' })
  }
  put(key, null)
  shot.reload()
}

export const stopFollowing = (shot: string, which: AskFollow) => void api.stopFollowing(shot, which).catch(() => undefined)
