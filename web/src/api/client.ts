import type { DriveValue, AskFollow, Following, Histogram, TrackSeen, Arrange, AskJob, ChangeJob, FrameOfJob, Job, Draft, MediaUsage, RevisionSummary, Sentence, Applied, ApplyPreset, AskLight, AskShape, AskCourse, AskLaid, AskNames, AskPixels, AskTold, AtFrame, LaidOut, LaidPlace, Flat, LensLine, Told, LightFound, PresetSummary, SavePreset, Delivery, Outbox, Memory, Arrived, MediaFile, BroughtIn, Compare, Figures, Field, FindingSaid, Finishing, FrameRange, MoreFiles, MovePasses, PassFacts, Edit, FileForm, ExtractInfo, MadeInfo, MatteInfo, KindInfo, Look, Other, PlaceLamp, Placed, Preview, Probe, Refusal, ShotState, ShotSummary, SceneCamera, TakeRemedies, Target } from './types'

/** This tab, so that only its own older requests are cancelled. */
export const TAB = Math.random().toString(36).slice(2)

/** Status of what was given up for something that somebody waits for. */
export const GAVE_WAY = 499

/** A failure that the server said in one sentence. */
export class Failure extends Error {
  constructor(
    readonly status: number,
    sentence: string,
  ) {
    super(sentence)
  }
}

const UNREACHABLE = 'The server does not answer; check that it runs, then try again.'

async function answer(path: string, init?: RequestInit): Promise<Response> {
  let response: Response
  try {
    response = await fetch(path, init)
  } catch (e) {
    if (e instanceof DOMException && e.name === 'AbortError') throw e
    throw new Failure(0, UNREACHABLE)
  }
  if (!response.ok) {
    const said = (await response.json().catch(() => null)) as Refusal | null
    throw new Failure(response.status, said?.error ?? `The server answered with ${response.status}.`)
  }
  return response
}

async function json<T>(path: string, init?: RequestInit): Promise<T> {
  return (await (await answer(path, init)).json()) as T
}

function posted(body: unknown, signal?: AbortSignal): RequestInit {
  return { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(body), signal: signal ?? null }
}

const at = (id: string, rest = '') => `/api/shots/${encodeURIComponent(id)}${rest}`

export const picturePath = (id: string, revision: number, look: Look) =>
  at(id, `/revisions/${revision}/picture?look=${encodeURIComponent(JSON.stringify(look))}`)

export const handoffPath = (id: string, revision: number, target: Target, form: FileForm, frame: number) =>
  at(id, `/revisions/${revision}/handoff?target=${encodeURIComponent(JSON.stringify(target))}&form=${encodeURIComponent(JSON.stringify(form))}&frame=${frame}`)

export const pairPath = (id: string, revision: number, element: number, pass: number, frame: number) => at(id, `/revisions/${revision}/pair?element=${element}&pass=${pass}&frame=${frame}`)

export const proofPath = (id: string, revision: number, target: Target, { first, last }: FrameRange) =>
  at(id, `/revisions/${revision}/proof?target=${encodeURIComponent(JSON.stringify(target))}&from=${first}&to=${last}`)

export const sheetPath = (id: string, revision: number, frame: number, reference?: Other) =>
  at(id, `/revisions/${revision}/sheet?frame=${frame}${reference ? `&reference=${encodeURIComponent(JSON.stringify(reference))}` : ''}`)

export const presetPicture = (id: string) => `/api/presets/${id}/picture`

export const presetDocument = (id: string) => `/api/presets/${id}/document`

export const jobFile = (id: string, frame: number) => `/api/jobs/${id}/frames/${frame}`

export const jobPicture = (id: string, frame: number) => `${jobFile(id, frame)}/picture`

export const jobZip = (id: string) => `/api/jobs/${id}/zip`

export const documentPath = (id: string, revision: number) => at(id, `/revisions/${revision}/document`)

export const api = {
  shots: () => json<ShotSummary[]>('/api/shots'),
  kinds: () => json<KindInfo[]>('/api/kinds'),
  extracts: () => json<ExtractInfo[]>('/api/extracts'),
  made: () => json<MadeInfo[]>('/api/made'),
  mattes: () => json<MatteInfo>('/api/mattes'),
  conventions: () => json<Field[]>('/api/conventions'),
  fromFiles: (files: MediaFile[]) => json<BroughtIn>('/api/shots/from', posted({ files })),
  addFiles: (id: string, more: MoreFiles) => json<ShotState>(at(id, '/files'), posted(more)),
  findings: (id: string, revision: number, element: number, frame: number) =>
    json<FindingSaid[]>(at(id, `/revisions/${revision}/findings?element=${element}&frame=${frame}`)),
  facts: (id: string, revision: number, element: number, frame: number) =>
    json<PassFacts[]>(at(id, `/revisions/${revision}/passes?element=${element}&frame=${frame}`)),
  takeRemedies: (id: string, take: TakeRemedies) => json<ShotState>(at(id, '/remedies'), posted(take)),
  movePasses: (id: string, ask: MovePasses) => json<ShotState>(at(id, '/passes/move'), posted(ask)),
  cameras: (id: string, file: File) =>
    json<SceneCamera[]>(at(id, `/cameras?name=${encodeURIComponent(file.name)}`), { method: 'POST', headers: { 'Content-Type': 'application/octet-stream' }, body: file }),
  delivery: () => json<Delivery>('/api/delivery'),
  outbox: () => json<Outbox>('/api/outbox'),
  memory: () => json<Memory>('/api/memory'),
  shot: (id: string) => json<ShotState>(at(id)),
  edit: (id: string, edit: Edit) => json<ShotState>(at(id, '/revisions'), posted(edit)),
  undo: (id: string, base: number) => json<ShotState>(at(id, '/undo'), posted({ base })),
  redo: (id: string, base: number) => json<ShotState>(at(id, '/redo'), posted({ base })),
  probe: (id: string, revision: number, element: number, frame: number, x: number, y: number, signal?: AbortSignal) =>
    json<Probe>(at(id, `/revisions/${revision}/probe?element=${element}&frame=${frame}&x=${x}&y=${y}`), { signal: signal ?? null }),
  histogram: (id: string, revision: number, element: number, step: number, frame: number, display: boolean) =>
    json<Histogram>(at(id, `/revisions/${revision}/histogram?element=${element}&step=${step}&frame=${frame}&display=${display}`)),
  compare: (id: string, revision: number, ask: Compare) => json<Figures>(at(id, `/revisions/${revision}/compare`), posted(ask)),
  presets: () => json<PresetSummary[]>('/api/presets'),
  savePreset: (ask: SavePreset) => json<string>('/api/presets', posted(ask)),
  bringPreset: (preset: unknown) => json<string>('/api/presets/from', posted(preset)),
  renamePreset: (id: string, name: string) => answer(`/api/presets/${id}/name`, { ...posted(name), method: 'PUT' }),
  removePreset: (id: string) => answer(`/api/presets/${id}`, { method: 'DELETE' }),
  applyPreset: (id: string, ask: ApplyPreset) => json<Applied>(`/api/presets/${id}/apply`, posted(ask)),
  light: (ask: AskLight) => json<LightFound>('/api/light', posted(ask)),
  finishes: (ask: AskLight) => json<Finishing>('/api/finishes', posted(ask)),
  lightBall: async (ask: AskLight, signal: AbortSignal) => (await answer('/api/light/ball', posted(ask, signal))).blob(),
  shape: async (ask: AskShape) => (await answer('/api/shape', posted(ask))).blob(),
  laid: (ask: AskLaid) => json<LaidOut>('/api/laid', posted(ask)),
  laidAt: (ask: AskLaid) => json<LaidPlace>('/api/laid/at', posted(ask)),
  flat: (ask: AskLaid) => json<Flat | null>('/api/laid/flat', posted(ask)),
  atFrame: (draft: Draft) => json<AtFrame>('/api/at-frame', posted(draft)),
  tracks: (draft: Draft) => json<TrackSeen[]>('/api/tracks', posted(draft)),
  stopFollowing: (id: string, which: AskFollow) => answer(at(id, '/follow/stop'), posted(which)),
  course: (ask: AskCourse) => json<DriveValue[]>('/api/course', posted(ask)),
  told: (ask: AskTold) => json<Told>('/api/told', posted(ask)),
  checker: (ask: AskTold) => json<LensLine[]>('/api/checker', posted(ask)),
  place: (ask: PlaceLamp) => json<Placed>('/api/place', posted(ask)),
  saved: (id: string, revision: number, look: Look, signal: AbortSignal) => answer(picturePath(id, revision, look), { signal }),
  names: (id: string, revision: number, ask: AskNames, signal: AbortSignal) => json<(string | null)[]>(at(id, `/revisions/${revision}/names`), posted(ask, signal)),
  pixels: (id: string, revision: number, ask: AskPixels, signal: AbortSignal) => json<number[][]>(at(id, `/revisions/${revision}/pixels`), posted(ask, signal)),
  arrange: (id: string, change: Arrange) => answer(at(id), { ...posted(change), method: 'PATCH' }),
  copyShot: (id: string) => json<BroughtIn>(at(id, '/copy'), { method: 'POST' }),
  history: (id: string) => json<RevisionSummary[]>(at(id, '/history')),
  nameRevision: (id: string, number: number, name: string) => answer(at(id, `/revisions/${number}/name`), { ...posted(name), method: 'PUT' }),
  bringBack: (id: string, number: number, base: number) => json<ShotState>(at(id, `/revisions/${number}/back`), posted({ base })),
  mediaUsage: () => json<MediaUsage>('/api/media/usage'),
  startJob: (id: string, revision: number, ask: AskJob) => json<Job>(at(id, `/revisions/${revision}/jobs`), posted(ask)),
  changeJob: (id: string, change: ChangeJob) => json<Job>(`/api/jobs/${id}`, posted(change)),
  removeJob: (id: string) => answer(`/api/jobs/${id}`, { method: 'DELETE' }),
  jobFrames: (id: string) => json<FrameOfJob[]>(`/api/jobs/${id}/frames`),
  leave: (viewers: string[]) => answer('/api/viewers/leave', posted(viewers)).catch(() => undefined),
  sentences: (draft: Draft, signal: AbortSignal) => json<Sentence[]>('/api/sentences', posted(draft, signal)),
  preview: (preview: Preview, signal: AbortSignal) => answer('/api/preview', posted(preview, signal)),
}

/** Follows a track; each piece of news is told as it comes. */
export async function follow(id: string, revision: number, which: AskFollow, told: (news: Following) => void): Promise<void> {
  const response = await answer(at(id, `/revisions/${revision}/follow`), posted(which))
  const reader = response.body?.pipeThrough(new TextDecoderStream()).getReader()
  let rest = ''
  for (;;) {
    const piece = await reader?.read()
    if (!piece || piece.done) return
    const lines = (rest + piece.value).split('\n')
    rest = lines.pop() ?? ''
    for (const line of lines) told(JSON.parse(line) as Following)
  }
}

/** Sends a file into the media store, telling how much has gone (0..1). */
export function send(file: File, progress: (share: number) => void): Promise<Arrived> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest()
    request.open('POST', `/api/media?name=${encodeURIComponent(file.name)}`)
    request.setRequestHeader('Content-Type', 'application/octet-stream')
    request.responseType = 'json'
    request.upload.onprogress = (e) => progress(e.total > 0 ? e.loaded / e.total : 0)
    request.onerror = () => reject(new Failure(0, UNREACHABLE))
    request.onload = () => {
      if (request.status === 200) resolve(request.response as Arrived)
      else reject(new Failure(request.status, (request.response as Refusal | null)?.error ?? 'The file was not taken.'))
    }
    request.send(file)
  })
}

/** Sends a file of one sort into the media store, to be kept as it is. */
const bring = (sort: string) => (file: File) =>
  json<MediaFile>(`/api/${sort}?name=${encodeURIComponent(file.name)}`, { method: 'POST', headers: { 'Content-Type': 'application/octet-stream' }, body: file })

export const bringTable = bring('luts')

export const bringFont = bring('fonts')

export const bringDrawing = bring('drawings')

/** How far a set of files has come. */
export interface Sending {
  name: string
  done: number
  of: number
  share: number
}

/** Sends files one after the other; those that cannot be read are told and leave the others alone. */
export async function sendAll(files: File[], progress: (s: Sending) => void): Promise<{ files: MediaFile[]; refused: string[] }> {
  const arrived: MediaFile[] = []
  const refused: string[] = []
  for (const [done, file] of files.entries()) {
    const tell = (share: number) => progress({ name: file.name, done, of: files.length, share })
    tell(0)
    try {
      arrived.push((await send(file, tell)).file)
    } catch (e) {
      refused.push(`${file.name}: ${e instanceof Error ? e.message : 'it was not taken.'}`)
      if (e instanceof Failure && e.status === 0) break
    }
  }
  return { files: arrived, refused }
}
