import { queryOptions } from '@tanstack/react-query'
import { api, Failure, GAVE_WAY, TAB } from './client'
import { draftNow } from './edits'
import type { AskLight, Job, Shot, ShotState } from './types'

/** What a step found out at a revision. */
export const toldQuery = (id: string, revision: number, element: number, step: number, frame: number) =>
  queryOptions({ queryKey: ['told', id, revision, element, step, frame], queryFn: () => api.told({ shot: { id, base: revision, edits: [] }, element, step, frame }), staleTime: Infinity, retry: false, placeholderData: (old) => old })

/** Where a caret stands in the text of an element, as it is on the bench. */
export function caretsQuery(shot: { id: string; state: ShotState; doc: Shot }, element: number, frame: number) {
  const draft = draftNow(shot, frame)
  return queryOptions({ queryKey: ['carets', draft, element, frame], queryFn: async () => (await api.told({ shot: draft, element, frame })).carets, staleTime: Infinity, gcTime: 10_000, retry: false, placeholderData: (old) => old })
}

/** The frame in which places of an element are told that is made of a file: as long as it is that file, asked for once. */
export const elementFrameQuery = (id: string, revision: number, element: number, file: string) =>
  queryOptions({ queryKey: ['element-frame', id, element, file], queryFn: async () => (await api.told({ shot: { id, base: revision, edits: [] }, element })).frame, staleTime: Infinity, retry: false })

/** What moves over time, at a frame of a revision. */
export const atFrameQuery = (id: string, revision: number, frame: number) =>
  queryOptions({ queryKey: ['at-frame', id, revision, frame], queryFn: () => api.atFrame({ id, base: revision, edits: [], frame }), staleTime: Infinity, placeholderData: (old) => old })

/** Where tracks are at a frame of a revision. */
export const tracksQuery = (id: string, revision: number, frame: number) =>
  queryOptions({ queryKey: ['tracks', id, revision, frame], queryFn: () => api.tracks({ id, base: revision, edits: [], frame }), staleTime: Infinity, placeholderData: (old) => old })

/** The numbers of a driven parameter, frame by frame. */
export const courseQuery = (id: string, revision: number, at: string, from: number, to: number) =>
  queryOptions({ queryKey: ['course', id, revision, at, from, to], queryFn: () => api.course({ shot: { id, base: revision, edits: [] }, at, from, to }), staleTime: Infinity, placeholderData: (old) => old })

/** One pixel of the result over some frames; one that is asked for later takes its place on the server. It gives way to what somebody waits for, and is asked for again. */
export const pixelsQuery = (id: string, revision: number, [x, y]: [number, number], from: number, to: number) =>
  queryOptions({
    queryKey: ['pixels', id, revision, x, y, from, to],
    queryFn: ({ signal }) => api.pixels(id, revision, { target: { kind: 'shot' }, x, y, from, to, viewer: `${TAB}-pixel` }, signal),
    retry: (count, e) => e instanceof Failure && e.status === GAVE_WAY && count < 100,
    retryDelay: 300,
    staleTime: Infinity,
    gcTime: 10_000,
    placeholderData: (old) => old,
  })

/** Some of a job's frames that are written, and what went wrong with others. */
export const jobFramesQuery = (job: Job) =>
  queryOptions({ queryKey: ['job-frames', job.id, job.done, job.failed, job.state], queryFn: () => api.jobFrames(job.id), staleTime: Infinity, placeholderData: (old) => old })

export const shotsQuery = queryOptions({ queryKey: ['shots'], queryFn: api.shots })

export const conventionsQuery = queryOptions({ queryKey: ['conventions'], queryFn: api.conventions, staleTime: Infinity })

export const findingsQuery = (id: string, revision: number, element: number, frame: number) =>
  queryOptions({ queryKey: ['findings', id, revision, element, frame], queryFn: () => api.findings(id, revision, element, frame), staleTime: Infinity, placeholderData: (old) => old })

export const factsQuery = (id: string, revision: number, element: number, frame: number) =>
  queryOptions({ queryKey: ['facts', id, revision, element, frame], queryFn: () => api.facts(id, revision, element, frame), staleTime: Infinity, placeholderData: (old) => old })

/** How often each tone is met before a step. */
export const histogramQuery = (id: string, revision: number, element: number, step: number, frame: number, display: boolean) =>
  queryOptions({ queryKey: ['histogram', id, revision, element, step, frame, display], queryFn: () => api.histogram(id, revision, element, step, frame, display), staleTime: Infinity, placeholderData: (old) => old })

export const kindsQuery = queryOptions({ queryKey: ['kinds'], queryFn: api.kinds, staleTime: Infinity })

export const extractsQuery = queryOptions({ queryKey: ['extracts'], queryFn: api.extracts, staleTime: Infinity })

export const outboxQuery = queryOptions({ queryKey: ['outbox'], queryFn: api.outbox, staleTime: 60_000 })

export const mattesQuery = queryOptions({ queryKey: ['mattes'], queryFn: api.mattes, staleTime: Infinity })

export const madeQuery = queryOptions({ queryKey: ['made'], queryFn: api.made, staleTime: Infinity })

export const presetsQuery = queryOptions({ queryKey: ['presets'], queryFn: api.presets })

export const lightQuery = (key: string, ask: AskLight) => queryOptions({ queryKey: ['light', key], queryFn: () => api.light(ask), staleTime: Infinity })

export const lightBallQuery = (key: string, ask: AskLight) =>
  queryOptions({ queryKey: ['light-ball', key], queryFn: async ({ signal }) => URL.createObjectURL(await api.lightBall(ask, signal)), staleTime: Infinity })

export const shotQuery = (id: string) =>
  queryOptions({ queryKey: ['shot', id], queryFn: () => api.shot(id), staleTime: Infinity, refetchOnWindowFocus: 'always' })

export const deliveryQuery = queryOptions({ queryKey: ['delivery'], queryFn: api.delivery, refetchInterval: 5000 })

export const memoryQuery = queryOptions({ queryKey: ['memory'], queryFn: api.memory, refetchInterval: 5000 })

export const usageQuery = queryOptions({ queryKey: ['usage'], queryFn: api.mediaUsage, staleTime: 30_000 })

export const historyQuery = (id: string, revision: number) => queryOptions({ queryKey: ['history', id, revision], queryFn: () => api.history(id) })
