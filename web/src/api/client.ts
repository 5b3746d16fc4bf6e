import type { BroughtIn, Edit, Format, KindInfo, Look, PlaceLamp, Placed, Preview, Probe, Said, ShotState, ShotSummary, Target } from './types'

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
    const said = (await response.json().catch(() => null)) as Said | null
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

export const handoffPath = (id: string, revision: number, target: Target, format: Format) =>
  at(id, `/revisions/${revision}/handoff?target=${encodeURIComponent(JSON.stringify(target))}&format=${format}`)

export const documentPath = (id: string, revision: number) => at(id, `/revisions/${revision}/document`)

export const api = {
  shots: () => json<ShotSummary[]>('/api/shots'),
  kinds: () => json<KindInfo[]>('/api/kinds'),
  shot: (id: string) => json<ShotState>(at(id)),
  edit: (id: string, edit: Edit) => json<ShotState>(at(id, '/revisions'), posted(edit)),
  undo: (id: string, base: number) => json<ShotState>(at(id, '/undo'), posted({ base })),
  redo: (id: string, base: number) => json<ShotState>(at(id, '/redo'), posted({ base })),
  probe: (id: string, revision: number, element: number, x: number, y: number, signal: AbortSignal) =>
    json<Probe>(at(id, `/revisions/${revision}/probe?element=${element}&x=${x}&y=${y}`), { signal }),
  place: (ask: PlaceLamp) => json<Placed>('/api/place', posted(ask)),
  saved: async (id: string, revision: number, look: Look, signal: AbortSignal) =>
    (await answer(picturePath(id, revision, look), { signal })).blob(),
  preview: async (preview: Preview, signal: AbortSignal) => (await answer('/api/preview', posted(preview, signal))).blob(),
}

/** Sends a file, telling how much has gone (0..1). */
export function bringIn(file: File, progress: (share: number) => void): Promise<BroughtIn> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest()
    request.open('POST', `/api/shots?name=${encodeURIComponent(file.name)}`)
    request.setRequestHeader('Content-Type', 'application/octet-stream')
    request.responseType = 'json'
    request.upload.onprogress = (e) => progress(e.total > 0 ? e.loaded / e.total : 0)
    request.onerror = () => reject(new Failure(0, UNREACHABLE))
    request.onload = () => {
      if (request.status === 200) resolve(request.response as BroughtIn)
      else reject(new Failure(request.status, (request.response as Said | null)?.error ?? 'The file was not taken.'))
    }
    request.send(file)
  })
}
