import type { Drive, DrivenValue, Key, Shot } from '../../api/types'
import { freeId } from '../bench/numbered'

/** The numbers of a value that keys can hold: one, some, or a switch as 0 or 1. */
export function numbersOf(value: unknown): number[] | null {
  if (typeof value === 'number') return [value]
  if (typeof value === 'boolean') return [value ? 1 : 0]
  return Array.isArray(value) && value.length > 0 && value.every((v) => typeof v === 'number') ? value : null
}

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

/** The document with other keys of a parameter; without any the parameter stands still. */
export const withKeys = (doc: Shot, at: string, keys: Key[]): Shot =>
  withDrive(doc, at, (d) => {
    if (keys.length === 0) return movedBy(d, undefined, d.drift)
    return { ...d, by: { kind: 'keys', keys: keys.toSorted((a, b) => a.frame - b.frame) } }
  })

/** The document with a key of a parameter at a frame, or without the one that is there. */
export function toggled(doc: Shot, at: string, frame: number, value: number[]): Shot {
  const keys = keysOf(driveAt(doc, at))
  if (keys.some((k) => k.frame === frame)) return withKeys(doc, at, keys.filter((k) => k.frame !== frame))
  const before = keys.findLast((k) => k.frame < frame)
  return withKeys(doc, at, [...keys, { frame, value, goes: before?.goes ?? 'smooth' }])
}

/** The document with a key of a parameter put in the place of another, and of any that is at its frame. */
export const withMoved = (doc: Shot, at: string, from: Key, to: Key): Shot => withKeys(doc, at, [...keysOf(driveAt(doc, at)).filter((k) => k !== from && k.frame !== to.frame), to])

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
