import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { factsQuery } from '../../api/queries'
import type { ByDepth, Element, PassFacts } from '../../api/types'
import { NumberField } from '../../ui/NumberField'
import { Toggle } from '../../ui/Toggle'
import { servingOf, usePasses } from '../bench/passes'
import { useFrame } from '../bench/store'
import { withElement, type ShotOnBench } from '../bench/useShot'
import { Keyed, KeyedField } from '../time/KeyMark'

/** Depths from the nearest to the farthest, where nothing tells them. */
const UNKNOWN: [number, number] = [0, 10]

/** A step of a number: a hundredth of a range or less, as a power of ten. */
const stepOf = ([near, far]: [number, number]) => 10 ** Math.floor(Math.log10(Math.max(far - near, 1e-6) / 100))

/** Whether an element stands in one space with those below it, and where. */
export function ByDepthFields({ shot, element }: { shot: ShotOnBench; element: Element }) {
  const frame = useFrame(shot.doc)
  const place = shot.doc.elements.findIndex((e) => e.id === element.id)
  const passes = usePasses()
  const depthOf = (e: Element) => servingOf(passes(e), 'depth')
  const own = depthOf(element) !== null
  const measured = own ? element : shot.doc.elements.slice(0, place).findLast((e) => !e.only_used && depthOf(e))
  const depth = measured && depthOf(measured)
  const client = useQueryClient()
  const query = factsQuery(shot.id, shot.state.revision, measured?.id ?? 0, frame)
  const facts = useQuery({ ...query, enabled: measured !== undefined }).data
  const rangeIn = (all: PassFacts[] | undefined) => all?.find((f) => f.pass === depth?.id)?.range ?? UNKNOWN
  const range = rangeIn(facts)
  const [waits, setWaits] = useState(false)
  const by = element.by_depth
  const put = (by_depth: ByDepth | undefined, doc = shot.doc) => withElement(doc, element.id, (e) => ({ ...e, by_depth }) as Element)
  const startIn = ([near, far]: [number, number]): ByDepth => ({ at: (near + far) / 2, nearer: 0 })
  const start = startIn(range)
  const span = range[1] - range[0]
  const turn = (on: boolean) => {
    if (!on) {
      shot.commit(`Lay ${element.name} over all`, put(undefined))
      return
    }
    // How deep the others are may not be known yet; a guess would lie before them all, or behind.
    setWaits(true)
    const found = measured ? client.query({ ...query, staleTime: 'static' }).catch(() => undefined) : Promise.resolve(undefined)
    shot.commitFound(`Put ${element.name} in by depth`, async (doc) => put(startIn(rangeIn(await found)), doc))
    void found.finally(() => setWaits(false))
  }
  return (
    <div className="flex flex-col gap-1.5" data-by-depth>
      <label className="flex w-auto! items-center gap-2 text-dim">
        <Toggle label="By depth" on={by !== undefined || waits} onChange={turn} />
        {waits ? 'Looking how deep the others are…' : 'By depth'}
      </label>
      {by && (
        <Keyed.Provider value={{ shot, at: `elements/${element.id}/by_depth` }}>
          {own ? (
            <KeyedField name="nearer" label="Nearer by" value={by.nearer}>
              <NumberField label="Nearer by" value={by.nearer} step={stepOf(range)} reset={0} slider={[-span / 2, span / 2]} hint="Moves it toward the eye among the others, scene units" onPreview={(nearer) => shot.preview(put({ ...by, nearer }))} onCommit={(nearer) => shot.commit('Set nearer by', put({ ...by, nearer }))} />
            </KeyedField>
          ) : (
            <KeyedField name="at" label="Distance" value={by.at}>
              <NumberField label="Distance" value={by.at} step={stepOf(range)} min={1e-6} reset={start.at} slider={range} hint="It has no depth of its own, and stands upright at this distance, scene units" onPreview={(at) => shot.preview(put({ ...by, at }))} onCommit={(at) => shot.commit('Set distance', put({ ...by, at }))} />
            </KeyedField>
          )}
        </Keyed.Provider>
      )}
      {!by && <p className="text-dim">It lies over all below it. By depth, the nearer one hides the other.</p>}
    </div>
  )
}
