import type { Draft, EditAt, Shot, ShotState } from './types'

type Json = unknown
type Fields = Record<string, Json>

const isFields = (v: Json): v is Fields => typeof v === 'object' && v !== null && !Array.isArray(v)

const under = (at: string, name: string | number) => (at === '' ? String(name) : `${at}/${name}`)

/** Numbers of the things of a list, if all have one. */
function ids(list: Json[]): number[] | null {
  const all = list.map((v) => (isFields(v) && typeof v.id === 'number' ? v.id : null))
  return all.every((id) => id !== null) ? all : null
}

/** Whether two values say the same; documents that share parts are told apart at once. */
function same(a: Json, b: Json): boolean {
  if (Object.is(a, b)) return true
  if (Array.isArray(a) && Array.isArray(b)) return a.length === b.length && a.every((v, i) => same(v, b[i]))
  if (!isFields(a) || !isFields(b)) return false
  const [x, y] = [a, b].map((o) => Object.keys(o).filter((k) => o[k] !== undefined))
  return x !== undefined && x.length === y?.length && x.every((k) => same(a[k], b[k]))
}

function differ(edits: EditAt[], at: string, from: Json, to: Json): void {
  if (same(from, to)) return
  if (isFields(from) && isFields(to) && from.kind === to.kind) {
    for (const [name, value] of Object.entries(to)) {
      if (value === undefined) continue
      if (from[name] === undefined) edits.push({ at: under(at, name), put: value })
      else differ(edits, under(at, name), from[name], value)
    }
    for (const name of Object.keys(from)) if (from[name] !== undefined && to[name] === undefined) edits.push({ at: under(at, name) })
    return
  }
  if (Array.isArray(from) && Array.isArray(to)) {
    const [was, is] = [ids(from), ids(to)]
    // What is new has no number yet: the server gives it one.
    if (was && is && !is.includes(0)) {
      lists(edits, at, [from, was], [to, is])
      return
    }
  }
  edits.push({ at, put: to })
}

function lists(edits: EditAt[], at: string, [from, was]: [Json[], number[]], [to, is]: [Json[], number[]]): void {
  for (const id of was) if (!is.includes(id)) edits.push({ at: under(at, id) })
  // The list as it stands after the edits so far.
  let now = was.filter((id) => is.includes(id))
  is.forEach((id, i) => {
    const after = i === 0 ? 0 : (is[i - 1] ?? 0)
    const old = was.indexOf(id)
    if (old < 0) {
      now = now.toSpliced(i, 0, id)
      edits.push({ at: under(at, id), put: to[i], after })
      return
    }
    differ(edits, under(at, id), from[old], to[i])
    if (now[i] !== id) {
      now = now.filter((other) => other !== id).toSpliced(i, 0, id)
      edits.push({ at: under(at, id), after })
    }
  })
}

/** The edits that make one document out of another, by address. */
export function between(from: Shot, to: Shot): EditAt[] {
  const edits: EditAt[] = []
  differ(edits, '', from, to)
  return edits
}

/** The frame for which edits are meant, where something moves. */
export const meantAt = (kept: Shot, frame: number): { frame?: number } => (kept.drives?.length ? { frame } : {})

/** The document on the bench as it is sent, changed or not. */
export const draftNow = ({ id, state, doc }: { id: string; state: ShotState; doc: Shot }, frame: number): Draft =>
  draftOf(id, state.revision, state.shot, doc, frame) ?? { id, base: state.revision, edits: [], ...meantAt(state.shot, frame) }

/** A document that is not kept, as it is sent: the revision that is known, and what changes on it while a frame is seen; null if nothing does. */
export function draftOf(id: string, base: number, kept: Shot, doc: Shot, frame: number): Draft | null {
  const edits = between(kept, doc)
  return edits.length > 0 ? { id, base, edits, ...meantAt(kept, frame) } : null
}
