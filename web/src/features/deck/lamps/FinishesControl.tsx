import { createContext, useContext, useState } from 'react'
import type { Finish, Finishing } from '../../../api/types'
import { Button } from '../../../ui/Button'
import { Hint } from '../../../ui/Hint'
import { Line } from '../../../ui/glyphs'
import { NameField } from '../../../ui/NameField'
import { Select } from '../../../ui/Select'
import { usePasses } from '../../bench/elements'
import { useBenchOf } from '../../bench/store'
import { Keyed, useKeyedWithin } from '../../time/KeyMark'
import { hexOf } from '../colour'
import { defaultsOf, itemsOf, type Control } from '../controls'
import { Parameters } from '../Parameters'

/** Parameters of a step that are those of everything that no finish names, or of all together. */
export const OF_THE_REST = new Set(['albedo', 'diffuse', 'wrap', 'specular', 'roughness', 'metalness', 'thickness'])

/** Asks what the picture says of its objects; known only where a step of an element is worked on. */
export const ProposeFinishes = createContext<(() => Promise<Finishing>) | null>(null)

/** A small ball as the finish would look under a lamp. */
function Patch({ finish }: { finish: Finish }) {
  const own = finish.colour_from === 'own' ? hexOf(finish.colour) : '#8f8f8f'
  const metal = finish.metalness > 0
  const spot = 12 + finish.roughness * 60
  const ground = metal ? `color-mix(in srgb, ${own} 55%, black)` : own
  const bright = metal ? `color-mix(in srgb, ${own} 40%, white)` : 'white'
  const background = metal || finish.specular > 0 ? `radial-gradient(circle at 35% 30%, ${bright} 0%, ${ground} ${spot}%)` : ground
  return <span className="mr-1 inline-block size-3 rounded-full align-[-2px]" style={{ background }} aria-hidden />
}

const objectsOf = (f: Finish) => {
  const count = f.objects.length + f.hashed.length
  return count === 1 ? '1 object' : `${count} objects`
}

/** The finish that is chosen, if it is one of these. */
export function useChosenFinish(finishes: Finish[]): Finish | null {
  const { item } = useBenchOf('item')
  return finishes.find((f) => f.id === item) ?? null
}

/** Finishes of objects: one is chosen, and its parameters stand in the place of those of the rest. */
export function FinishesControl(c: Control) {
  const finishes = c.value as Finish[]
  const chosen = useChosenFinish(finishes)
  const { pointing, set } = useBenchOf('pointing', 'set')
  const { propose, said } = useProposing(c)
  const within = useKeyedWithin(c.name, chosen?.id ?? 0)
  const schema = itemsOf(c)
  const put = (next: Partial<Finish>) => finishes.map((f) => (f === chosen ? { ...f, ...next } : f))
  const pick = (value: string) => {
    if (value === 'propose') propose()
    else set(value === 'pick' ? { pointing: 'finish' } : { item: value === 'rest' ? 0 : Number(value), pointing: null })
  }
  const options = [
    { value: 'rest', label: finishes.length > 0 ? 'All the rest' : 'Everything' },
    ...finishes.map((f) => ({ value: String(f.id), label: f.name, mark: <Patch finish={f} /> })),
    { value: 'propose', label: 'Propose from the picture…' },
    { value: 'pick', label: 'Click an object…' },
  ]
  return (
    <div className="contents" data-finishes={finishes.length}>
      <label className="flex items-center gap-2">
        <span className="field w-20 shrink-0 truncate text-dim">Finish of</span>
        <Select className="w-[86px]" label="Finish of" name="finish" value={chosen ? String(chosen.id) : 'rest'} options={options} onChange={pick} />
      </label>
      {(pointing === 'finish' || said) && (
        <p role="status" className="max-w-[170px] text-[11px] leading-snug text-dim" data-finish-said>
          {pointing === 'finish' ? 'Click an object in a pane.' : said}
        </p>
      )}
      {chosen && (
        <div className="flex items-center gap-1">
          <Hint text={`${chosen.name}: ${objectsOf(chosen)}`}>
            <span>
              <NameField className="w-[138px]" label="Name of the finish" name={chosen.name} onRename={(name) => c.onCommit(put({ name }))} />
            </span>
          </Hint>
          <Button look="quiet" aria-label={`Remove ${chosen.name}`} onClick={() => c.onCommit(finishes.filter((f) => f !== chosen))} hint="Its objects are as the rest again; undo brings it back">
            <Line kind="remove" />
          </Button>
        </div>
      )}
      {chosen && (
        <Keyed value={within}>
          <Parameters within schema={schema} values={{ ...chosen }} defaults={defaultsOf(schema)} onPreview={(name, v) => c.onPreview(put({ [name]: v }))} onCommit={(name, v) => c.onCommit(put({ [name]: v }))} />
        </Keyed>
      )}
    </div>
  )
}

/** Fills the table by what the picture says, and says in a sentence what that was. */
function useProposing(c: Control) {
  const ask = useContext(ProposeFinishes)
  const diffuse = usePasses().some((p) => p.role === 'diffuse')
  const { set } = useBenchOf('set')
  const [said, setSaid] = useState<string | null>(null)
  const propose = async () => {
    setSaid('Looking at the picture…')
    try {
      const told = await ask?.()
      if (!told) return
      const [objects, metal, gloss] = told.counted
      setSaid(`${metal} of ${objects} objects metal, ${gloss} glossy.${diffuse ? '' : ' Without a pass of diffuse light varnish seldom shows.'}`)
      set({ item: 0 })
      c.onCommit(told.finishes)
    } catch (e) {
      setSaid(null)
      set({ trouble: e instanceof Error ? e.message : 'Something went wrong; try again.' })
    }
  }
  return { propose: () => void propose(), said }
}
