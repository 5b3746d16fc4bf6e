import { picturePath } from '../../api/client'
import type { Element, HashedName, Limit, Step } from '../../api/types'
import { PLAIN } from '../../api/view'
import { Button } from '../../ui/Button'
import { Choice } from '../../ui/Choice'
import { NumberField } from '../../ui/NumberField'
import { Toggle } from '../../ui/Toggle'
import { useBench } from '../bench/store'
import { withStep, type ShotOnBench } from '../bench/useShot'

interface Props {
  shot: ShotOnBench
  element: Element
  step: Step
}

type By = 'everywhere' | 'objects' | 'hashed' | 'depth'

const WAYS: { value: By; label: string; hint: string }[] = [
  { value: 'everywhere', label: 'Everywhere', hint: 'The whole element' },
  { value: 'objects', label: 'Objects', hint: 'Objects of the ID pass, chosen by clicking them; hard edges' },
  { value: 'hashed', label: 'Hashed', hint: 'Objects of the hashed IDs, chosen by clicking them; soft edges' },
  { value: 'depth', label: 'Depth', hint: 'A range of depth with soft ends' },
]

const NEEDS = { objects: 'object_id', hashed: 'hashed_id', depth: 'depth' } as const

/** A range that shows something in most scenes, until it is set. */
const RANGE = { kind: 'depth' as const, near: 5, far: 10, near_soft: 1, far_soft: 1 }

/** The matte that limits the step. */
export function OnlyWhere({ shot, element, step }: Props) {
  const { set } = useBench()
  const limit = step.only_where
  const by: By = limit?.by.kind ?? 'everywhere'
  const changed = (only_where: Limit | null) => withStep(shot.doc, element.id, step.id, (s) => ({ ...s, only_where }))
  const has = (role: string) => element.passes.some((p) => p.role === role)
  const ways = WAYS.filter((w) => w.value === 'everywhere' || w.value === by || has(NEEDS[w.value]))
  const choose = (way: By) => {
    set({ pointing: way === 'objects' || way === 'hashed' ? 'object' : null })
    if (way === by) return
    const invert = limit?.invert ?? false
    const next = way === 'everywhere' ? null : { by: way === 'depth' ? RANGE : { kind: way, ids: [] }, invert }
    shot.commit('Set where', changed(next))
  }
  return (
    <div className="flex flex-col gap-1.5">
      <Choice label="Only where" value={by} options={ways} onChange={choose} />
      {limit?.by.kind === 'objects' && <Objects limit={limit} ids={limit.by.ids} keep={(l) => shot.commit('Set objects', changed(l))} />}
      {limit?.by.kind === 'hashed' && <Hashed limit={limit} ids={limit.by.ids} keep={(l) => shot.commit('Set objects', changed(l))} />}
      {limit?.by.kind === 'depth' && <Depth limit={limit} by={limit.by} preview={(l) => shot.preview(changed(l))} keep={(l) => shot.commit('Set depth range', changed(l))} />}
      {limit && (
        <div className="flex items-start gap-3">
          <MattePicture shot={shot} element={element} step={step} />
          <label className="flex items-center gap-2 text-dim">
            <Toggle label="Everywhere else" on={limit.invert} onChange={(invert) => shot.commit(invert ? 'Invert where' : 'Do not invert where', changed({ ...limit, invert }))} />
            Everywhere else
          </label>
        </div>
      )}
    </div>
  )
}

function Objects({ limit, ids, keep }: { limit: Limit; ids: number[]; keep: (l: Limit) => void }) {
  return (
    <div className="flex flex-wrap items-center gap-1">
      {ids.map((id) => (
        <button
          key={id}
          type="button"
          title={`Take object ${id} away`}
          className="figures h-6 rounded-full border border-line bg-ground px-2 hover:border-dim"
          onClick={() => keep({ ...limit, by: { kind: 'objects', ids: ids.filter((i) => i !== id) } })}
        >
          {id} ×
        </button>
      ))}
      <PickButton />
    </div>
  )
}

function Hashed({ limit, ids, keep }: { limit: Limit; ids: HashedName[]; keep: (l: Limit) => void }) {
  return (
    <div className="flex flex-wrap items-center gap-1">
      {ids.map((h) => (
        <button
          key={h.id}
          type="button"
          title="Take it away"
          className="h-6 rounded-full border border-line bg-ground px-2 hover:border-dim"
          onClick={() => keep({ ...limit, by: { kind: 'hashed', ids: ids.filter((i) => i.id !== h.id) } })}
        >
          {h.name || h.id.toString(16)} ×
        </button>
      ))}
      <PickButton />
    </div>
  )
}

/** Starts and ends picking of objects in the panes. */
function PickButton() {
  const { pointing, set } = useBench()
  const picking = pointing === 'object'
  return (
    <>
      <Button aria-pressed={picking} onClick={() => set({ pointing: picking ? null : 'object' })} hint="Each click in a pane adds or takes away the object under it">
        {picking ? 'Done' : 'Pick in the picture…'}
      </Button>
      {picking && <span className="text-dim">Click objects to add or take away.</span>}
    </>
  )
}

type DepthBy = Extract<Limit['by'], { kind: 'depth' }>

function Depth({ limit, by, preview, keep }: { limit: Limit; by: DepthBy; preview: (l: Limit) => void; keep: (l: Limit) => void }) {
  const fields = [
    ['near', 'Near', 5],
    ['far', 'Far', 10],
    ['near_soft', 'Near soft', 1],
    ['far_soft', 'Far soft', 1],
  ] as const
  const changed = (name: keyof DepthBy, v: number): Limit => {
    const next = { ...by, [name]: v }
    // The other end gives way, so that the range never turns over.
    if (name === 'near') next.far = Math.max(next.far, v)
    if (name === 'far') next.near = Math.min(next.near, v)
    return { ...limit, by: next }
  }
  return (
    <div className="flex flex-col gap-0.5">
      {fields.map(([name, label, reset]) => (
        <NumberField
          key={name}
          label={label}
          value={by[name]}
          unit="units"
          step={0.01}
          reset={reset}
          min={0}
          onPreview={(v) => preview(changed(name, v))}
          onCommit={(v) => keep(changed(name, v))}
        />
      ))}
    </div>
  )
}

function MattePicture({ shot, element, step }: Props) {
  const saved = shot.state.shot.elements.find((e) => e.id === element.id)?.steps.find((s) => s.id === step.id)?.only_where
  if (!saved) return null
  const scale = Math.max(0, Math.min(6, Math.floor(Math.log2(shot.doc.display.width / 128))))
  const look = { target: { kind: 'limit' as const, element: element.id, step: step.id }, scale, window: null, view: { ...PLAIN, backdrop: 'grey' as const }, viewer: null }
  return <img src={picturePath(shot.id, shot.state.revision, look)} alt="Where the step happens: white is fully, black not at all" className="h-[50px] rounded-[3px] border border-line" />
}
