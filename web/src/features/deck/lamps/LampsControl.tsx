import type { Lamp, LampKind } from '../../../api/types'
import { Button } from '../../../ui/Button'
import { Line } from '../../../ui/glyphs'
import { Toggle } from '../../../ui/Toggle'
import { freeId } from '../../bench/numbered'
import { useBenchOf } from '../../bench/store'
import { Keyed, useKeyedWithin } from '../../time/KeyMark'
import { itemsOf, type Control } from '../controls'
import { Parameters } from '../Parameters'

const WORD: Record<LampKind, string> = { directional: 'Directional', point: 'Point', spot: 'Spot' }

/** The lamps of a relight: one is chosen, and its parameters are shown. */
export function LampsControl(c: Control) {
  const lamps = c.value as Lamp[]
  const [usual] = c.reset as Lamp[]
  const { lamp, set } = useBenchOf('lamp', 'set')
  const chosen = Math.max(0, Math.min(lamp, lamps.length - 1))
  const one = lamps[chosen]
  const within = useKeyedWithin(c.name, one?.id ?? 0)
  const schema = itemsOf(c)
  const put = (next: Lamp) => lamps.with(chosen, next)
  const add = (next: Lamp) => {
    set({ lamp: lamps.length })
    c.onCommit([...lamps, { ...next, id: freeId(lamps) }])
  }
  const remove = () => {
    set({ lamp: Math.max(0, chosen - 1) })
    c.onCommit(lamps.toSpliced(chosen, 1))
  }
  return (
    <div className="contents">
      <div className="flex max-w-[250px] flex-wrap items-center gap-1" role="radiogroup" aria-label="Lamps">
        {lamps.map((l, i) => (
          <button
            key={l.id}
            type="button"
            role="radio"
            aria-checked={i === chosen}
            className={`rounded-tile border px-2 py-0.5 ${i === chosen ? 'border-accent bg-accent-ground' : 'border-line hover:bg-raised'} ${l.on ? '' : 'text-dim line-through'}`}
            onClick={() => set({ lamp: i, pointing: null })}
          >
            <span className="figures mr-1 text-dim">{i + 1}</span>
            {WORD[l.kind]}
          </button>
        ))}
        {usual && (
          <Button data-add-lamp onClick={() => add({ ...usual, toward: [-0.6, 0.3, 0.74] })} hint="One more lamp in this step">
            Add a lamp
          </Button>
        )}
        {one && (
          <span className="flex items-center">
            <Toggle label={`Lamp ${chosen + 1} is lit`} on={one.on} onChange={(on) => c.onCommit(put({ ...one, on }))} />
            <Button look="quiet" aria-label="Duplicate the lamp" onClick={() => add(one)} hint="Duplicate the lamp">
              <Line kind="twice" />
            </Button>
            <Button look="quiet" aria-label="Remove the lamp" onClick={remove} hint="Remove the lamp; undo brings it back">
              <Line kind="remove" />
            </Button>
          </span>
        )}
      </div>
      {one && usual && (
        <Keyed value={within}>
        <Parameters
          within
          schema={schema}
          values={{ ...one }}
          defaults={{ ...usual }}
          onPreview={(name, v) => c.onPreview(put({ ...one, [name]: v }))}
          onCommit={(name, v) => c.onCommit(put({ ...one, [name]: v }))}
        />
        </Keyed>
      )}
    </div>
  )
}
