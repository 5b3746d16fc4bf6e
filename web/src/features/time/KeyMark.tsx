import { createContext, useContext, type ReactNode } from 'react'
import { Hint } from '../../ui/Hint'
import { useBenchOf, useFrame } from '../bench/store'
import type { DriveValue, Shot } from '../../api/types'
import type { ShotOnBench } from '../bench/useShot'
import { driveAt, heldOf, keysOf, toggled } from './keys'

export interface KeyedBy {
  shot: ShotOnBench
  at: string
  /** The document with what the fields belong to in it, where it may be left out. */
  whole?: (doc: Shot) => Shot
}

/** The shot and the address of what a group of fields belongs to; nothing where keys make no sense. */
export const Keyed = createContext<KeyedBy | null>(null)

/** The same for fields of one thing of a list. */
export function useKeyedWithin(...names: (string | number)[]) {
  const outer = useContext(Keyed)
  return outer && { ...outer, at: [outer.at, ...names].join('/') }
}

interface FieldProps {
  name: string
  label: string
  /** Whether what it holds names things, and is no value. */
  names?: boolean
  value: unknown
  children: ReactNode
}

/** A field, and in a shot with frames the mark of its keys beside it. */
export function KeyedField({ name, label, names = false, value, children }: FieldProps) {
  const keyed = useContext(Keyed)
  const held = names || !keyed?.shot.doc.frames ? null : heldOf(value)
  if (!keyed || held === null) return children
  return (
    <div className="group/field relative" data-field={name}>
      <Mark shot={keyed.shot} {...(keyed.whole ? { whole: keyed.whole } : {})} at={`${keyed.at}/${name}`} label={label} held={held} />
      {children}
    </div>
  )
}

/** Filled at a key, a ring where something drives it. */
function Mark({ shot, whole = (doc) => doc, at, label, held }: KeyedBy & { label: string; held: DriveValue }) {
  const frame = useFrame(shot.doc)
  const { set } = useBenchOf('set')
  const drive = driveAt(shot.doc, at)
  const here = keysOf(drive).some((k) => k.frame === frame)
  const follows = drive?.by?.kind === 'link'
  const state = here ? 'key' : drive ? 'driven' : 'none'
  const looks = { key: 'border-accent bg-accent', driven: 'border-accent', none: 'border-dim opacity-0 group-hover/field:opacity-100 focus-visible:opacity-100' }[state]
  const says = { key: 'A key at this frame; click takes it away', driven: follows ? 'It follows another value; click shows which' : 'It moves; click sets a key at this frame', none: 'Click sets a key at this frame' }[state]
  const click = () => {
    set({ driven: at })
    // A key holds what lies under the drift, so that it changes nothing.
    const under = drive?.drift ? shot.state.at_frame.driven.find((d) => d.at === at)?.under : undefined
    if (follows) set({ time: true })
    else shot.commit(here ? `Take a key of ${label.toLowerCase()} away` : `Key ${label.toLowerCase()}`, toggled(whole(shot.doc), at, frame, under ?? held))
  }
  return (
    <Hint text={says}>
      <button type="button" data-key={state} data-at={at} aria-label={`Key of ${label}`} aria-pressed={here} onClick={click} className="absolute top-1/2 -left-[11px] flex size-[11px] -translate-y-1/2 items-center justify-center">
        <span className={`size-[7px] rounded-full border ${looks}`} />
      </button>
    </Hint>
  )
}
