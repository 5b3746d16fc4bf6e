import type { Drive, DrivenValue, DriveValue, Key, Shot } from '../../api/types'
import { freeId } from '../bench/numbered'

/** The numbers of a value that keys can hold: one, some, a switch as 0 or 1, or those of a path one place after the other. */
export function numbersOf(value: unknown): number[] | null {
  if (typeof value === 'number') return [value]
  if (typeof value === 'boolean') return [value ? 1 : 0]
  if (!Array.isArray(value) || value.length === 0) return null
  const all = value.map(numbersOf)
  return all.every((v) => v !== null) ? all.flat() : null
}

/** What keys can hold of a value: its numbers, or the words of a choice or a text. */
export const heldOf = (value: unknown): DriveValue | null => (typeof value === 'string' ? value : numbersOf(value))

/** The numbers of what a key holds; none of words. */
export const numbersIn = (value: DriveValue): number[] => (typeof value === 'string' ? [] : value)

/** Whether one can stand in the place of the other: words for words, and as many numbers. */
export const fits = (a: DriveValue | null, b: DriveValue | null): boolean => a !== null && b !== null && typeof a === typeof b && (typeof a === 'string' || a.length === b.length)

export const driveAt = (doc: Shot, at: string): Drive | undefined => doc.drives?.find((d) => d.at === at)

export const keysOf = (drive: Drive | undefined): Key[] => (drive?.by?.kind === 'keys' ? drive.by.keys : [])

/** The document with another drive of a parameter, or with none. */
export function withDrive(doc: Shot, at: string, change: (drive: Drive) => Drive | null): Shot {
  const drives = doc.drives ?? []
  const old = driveAt(doc, at) ?? { id: freeId(drives), at }
  const next = change(old)
  const others = drives.filter((d) => d.at !== at)
  if (next === null) return { ...doc, drives: others }
  return { ...doc, drives: drives.some((d) => d.at === at) ? drives.map((d) => (d.at === at ? next : d)) : [...others, next] }
}

/** A drive with other things that move it; nothing if none does. */
export const movedBy = ({ id, at }: Drive, by: Drive['by'], drift: Drive['drift']): Drive | null => (by || drift ? { id, at, ...(by ? { by } : {}), ...(drift ? { drift } : {}) } : null)

/** The document with other keys or another link of a parameter, or with neither; its drift stays. */
export const withBy = (doc: Shot, at: string, by: Drive['by']): Shot => withDrive(doc, at, (d) => movedBy(d, by, d.drift))

/** The document with other keys of a parameter; without any the parameter stands still. */
export const withKeys = (doc: Shot, at: string, keys: Key[]): Shot =>
  withBy(doc, at, keys.length === 0 ? undefined : { kind: 'keys', keys: keys.toSorted((a, b) => a.frame - b.frame) })

/** The document with a key of a parameter at a frame, or without the one that is there. */
export function toggled(doc: Shot, at: string, frame: number, value: DriveValue): Shot {
  const keys = keysOf(driveAt(doc, at))
  if (keys.some((k) => k.frame === frame)) return withKeys(doc, at, keys.filter((k) => k.frame !== frame))
  const before = keys.findLast((k) => k.frame < frame)
  return withKeys(doc, at, [...keys, { frame, value, goes: before?.goes ?? (typeof value === 'string' ? 'hold' : 'smooth') }])
}

/** The document with a key of a parameter put in the place of another, and of any that is at its frame. */
export const withMoved = (doc: Shot, at: string, from: Key, to: Key): Shot => withChanged(doc, at, [from], () => to)

/** The document with some keys of a parameter changed or, where `change` gives nothing, taken away; others give way to those that come to their frames. */
export function withChanged(doc: Shot, at: string, some: Key[], change: (key: Key) => Key | null): Shot {
  const moved = some.flatMap((k) => change(k) ?? [])
  const frames = new Set(moved.map((k) => k.frame))
  return withKeys(doc, at, [...keysOf(driveAt(doc, at)).filter((k) => !some.includes(k) && !frames.has(k.frame)), ...moved])
}

/** Frames are told to a hundredth. */
const tidy = (frame: number) => Number(frame.toFixed(2))

/** A key some frames later, one of its numbers higher by so much. */
export const shifted = (key: Key, frames: number, component: number, by: number): Key => ({
  ...key,
  frame: tidy(key.frame + frames),
  value: typeof key.value === 'string' ? key.value : key.value.map((v, c) => (c === component ? Number((v + by).toPrecision(7)) : v)),
})

/** Some keys a factor farther apart, the first of them where it is. */
export function stretched(some: Key[], times: number): (key: Key) => Key {
  const from = Math.min(...some.map((k) => k.frame))
  return (key) => ({ ...key, frame: tidy(from + (key.frame - from) * times) })
}

/** Some keys so that the first is at a frame. */
export function startingAt(some: Key[], frame: number): Key[] {
  const from = Math.min(...some.map((k) => k.frame))
  return some.map((k) => ({ ...k, frame: tidy(frame + k.frame - from) }))
}

/** A value with one thing put at an address, as the server does: things in lists by their numbers. */
function put(here: unknown, names: string[], value: unknown): unknown {
  const [name, ...rest] = names
  if (name === undefined) return value
  if (Array.isArray(here)) return here.map((one: { id?: number }) => (String(one.id) === name ? put(one, rest, value) : one))
  const fields = here as Record<string, unknown>
  return { ...fields, [name]: put(fields[name], rest, value) }
}

/** The document as it is seen at a frame. */
export const seenAt = (doc: Shot, driven: DrivenValue[]): Shot => driven.reduce((d, v) => put(d, v.at.split('/'), v.value) as Shot, doc)

/** What stands at an address. */
export const valueAt = (doc: Shot, at: string): unknown =>
  at.split('/').reduce<unknown>((here, name) => {
    if (Array.isArray(here)) return here.find((one: { id?: number }) => String(one.id) === name)
    return (here as Record<string, unknown> | undefined)?.[name]
  }, doc)
