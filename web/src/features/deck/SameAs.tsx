import type { Element, Shot, Step } from '../../api/types'
import { Hint } from '../../ui/Hint'
import { Select } from '../../ui/Select'
import { withStep, type ShotOnBench } from '../bench/useShot'
import { driveAt, withBy } from '../time/keys'

/** What two steps of a kind have in common when one is to be the same as the other. */
interface Common {
  /** Numbers that follow. */
  numbers: string[]
  /** Lengths in scene units, which may be others in another render. */
  lengths: string[]
  /** Choices that are copied: they cannot follow. */
  choices: string[]
}

const COMMON: Record<string, Common> = {
  // The lens and where it is sharp; not how soft the picture's own edges are.
  refocus: {
    numbers: ['f_number', 'focal', 'sensor', 'far_px', 'near_px', 'most', 'blades', 'rotation', 'roundness', 'highlights', 'highlights_from'],
    lengths: ['focus', 'sharp'],
    choices: ['blur'],
  },
  // When the shutter is open; not by how much the vectors of this render are multiplied.
  motion_blur: { numbers: ['shutter', 'longest'], lengths: [], choices: ['opens'] },
}

interface Props {
  shot: ShotOnBench
  element: Element
  step: Step
}

const addressOf = (element: number, step: number) => `elements/${element}/steps/${step}/does`

/** Lets a step follow one of its kind on another element, in one click: the same lens, or the same shutter. */
export function SameAs({ shot, element, step }: Props) {
  const common = COMMON[step.does.kind]
  const others = shot.doc.elements.filter((e) => e.id !== element.id).flatMap((e) => e.steps.filter((s) => s.does.kind === step.does.kind).map((s) => ({ element: e, step: s })))
  if (!common || others.length === 0) return null
  const own = addressOf(element.id, step.id)
  const all = [...common.lengths, ...common.numbers]
  const followed = (name: string) => {
    const by = driveAt(shot.doc, `${own}/${name}`)?.by
    return by?.kind === 'link' ? by.to.slice(0, -name.length - 1) : ''
  }
  const now = followed(all[0] ?? '')
  const options = [{ value: '', label: 'its own' }, ...others.map((o) => ({ value: addressOf(o.element.id, o.step.id), label: `${o.element.name} · ${o.element.steps.indexOf(o.step) + 1} ${says(shot, o.element, o.step)}` }))]
  const choose = (to: string) => {
    const other = others.find((o) => addressOf(o.element.id, o.step.id) === to)?.step
    let doc: Shot = shot.doc
    if (other) doc = withStep(doc, element.id, step.id, (s) => ({ ...s, does: { ...s.does, ...picked(other, common.choices) } }))
    for (const name of all) {
      const times = common.lengths.includes(name) ? unitOf(other) / unitOf(step) : 1
      doc = withBy(doc, `${own}/${name}`, other ? { kind: 'link', to: `${to}/${name}`, times, plus: 0 } : undefined)
    }
    shot.commit(other ? 'Make it the same' : 'Let it go its own way', doc)
  }
  return (
    <Hint text="Follows a step of this kind on another element: the same lens, or the same shutter, whatever that one becomes">
      <label className="flex items-center gap-2">
        <span className="field w-20 shrink-0 truncate text-dim">Same as</span>
        <Select className="w-44" label="Same as" name="same-as" value={options.some((o) => o.value === now) ? now : ''} options={options} onChange={choose} />
      </label>
    </Hint>
  )
}

/** What a step says, without where. */
const says = (shot: ShotOnBench, element: Element, step: Step) => shot.state.sentences.find((t) => t.element === element.id && t.step === step.id)?.text.split(' — ')[0] ?? step.does.kind

const picked = (from: Step, names: string[]) => Object.fromEntries(Object.entries(from.does).filter(([name]) => names.includes(name)))

/** Size of a scene unit as the step has it, mm. */
const unitOf = (step: Step | undefined): number => (step && 'unit' in step.does && typeof step.does.unit === 'number' ? step.does.unit : 1)
