import { createContext, useContext } from 'react'
import { Hint } from '../../ui/Hint'
import { useBenchOf, useFrame } from '../bench/store'
import type { ShotOnBench } from '../bench/useShot'
import { driveAt, keysOf, numbersOf, toggled } from './keys'

/** The shot and the address of what a group of fields belongs to; nothing where keys make no sense. */
export const Keyed = createContext<{ shot: ShotOnBench; at: string } | null>(null)

/** The same for fields of one thing of a list. */
export function useKeyedWithin(...names: (string | number)[]) {
  const outer = useContext(Keyed)
  return outer && { ...outer, at: [outer.at, ...names].join('/') }
}

/** A mark beside a field of a shot with frames: filled at a key, a ring where something drives it. */
export function KeyMark({ name, label, value }: { name: string; label: string; value: unknown }) {
  const keyed = useContext(Keyed)
  const numbers = numbersOf(value)
  if (!keyed?.shot.doc.frames || numbers === null) return null
  return <Mark shot={keyed.shot} at={`${keyed.at}/${name}`} label={label} numbers={numbers} />
}

function Mark({ shot, at, label, numbers }: { shot: ShotOnBench; at: string; label: string; numbers: number[] }) {
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
    if (follows) set({ time: true })
    else shot.commit(here ? `Take a key of ${label.toLowerCase()} away` : `Key ${label.toLowerCase()}`, toggled(shot.doc, at, frame, numbers))
  }
  return (
    <Hint text={says}>
      <button type="button" data-key={state} data-at={at} aria-label={`Key of ${label}`} aria-pressed={here} onClick={click} className="absolute top-1/2 -left-[11px] flex size-[11px] -translate-y-1/2 items-center justify-center">
        <span className={`size-[7px] rounded-full border ${looks}`} />
      </button>
    </Hint>
  )
}
