import { useQuery } from '@tanstack/react-query'
import { Popover } from 'radix-ui'
import { useEffect } from 'react'
import { factsQuery } from '../../api/queries'
import type { Element } from '../../api/types'
import { PLAIN } from '../../api/view'
import { Button, Key } from '../../ui/Button'
import { Choice } from '../../ui/Choice'
import { NumberField } from '../../ui/NumberField'
import { Select } from '../../ui/Select'
import { Slider } from '../../ui/Slider'
import { BodyDialog } from './BodyDialog'
import { CompareDialog } from './CompareDialog'
import { GradeRow } from './GradeRow'
import type { PassOf } from './passes'
import { useBenchOf, type Seeing } from './store'
import { BACKDROPS, PLANES, SHOWINGS, TRANSFORMS } from './viewLists'
import { useOpen } from './room'
import { travel, travelTo } from './travel'
import type { ShotOnBench } from './useShot'

const WAYS: { value: Seeing; label: string; hint: string }[] = [
  { value: 'pair', label: 'Pair', hint: 'Picture and pass side by side (1)' },
  { value: 'single', label: 'Single', hint: 'The picture alone (2)' },
  { value: 'wipe', label: 'Wipe', hint: 'The pass over the picture, with a dragged edge (3)' },
  { value: 'spot', label: 'Spot', hint: 'The pass in a round spot under the pointer (4)' },
  { value: 'rock', label: 'Rock', hint: 'The picture rocked gently, as a 3D photo from its depth (6)' },
  { value: 'difference', label: 'Difference', hint: 'How far the picture is from the untouched one (5)' },
]

interface Props {
  shot: ShotOnBench
  element: Element | null
  partner: PassOf | null
}

/** How the panes are seen; it changes no pixel of the result. */
export function Seeings({ shot, element, partner }: Props) {
  const { seeing, view, zoom, gain, steady, set } = useBenchOf('seeing', 'view', 'zoom', 'gain', 'steady', 'set')
  const rows = useOpen('rows')
  const showings = partner ? SHOWINGS[partner.role] : undefined
  const known = showings?.some((s) => s.value === view.showing) ?? false
  return (
    <>
    <div className="flex h-8 shrink-0 items-center gap-3 overflow-hidden border-b border-line bg-panel px-3">
      <Choice label="Panes" value={seeing} options={WAYS} onChange={(v) => set({ seeing: v })} />
      <Button look="quiet" onClick={() => set({ zoom: null, centre: null })} hint={<>Fit the frame <Key>0</Key></>}>
        Fit
      </Button>
      <Button look="quiet" onClick={() => set({ zoom: 1 / window.devicePixelRatio })} hint={<>One px of the picture on one of the screen <Key>9</Key></>}>
        100 %
      </Button>
      <span className="figures w-14 text-dim">{zoom === null ? 'fitted' : `${Math.round(zoom * window.devicePixelRatio * 100)} %`}</span>
      {steady && (
        <Button look="quiet" className="text-accent!" data-steadied onClick={() => set({ steady: null })} hint="A plane stands still in the panes; click lets the picture move again">
          Steadied
        </Button>
      )}
      <span className="grow" />
      {seeing === 'rock' && <RockBy shot={shot} />}
      {seeing === 'difference' && (
        <span className="[&_label>span:first-child]:w-auto">
          <NumberField label="Gain" value={gain} step={0.5} reset={4} slider={[1, 32]} min={0} max={100000} onPreview={(v) => set({ gain: v })} onCommit={(v) => set({ gain: v })} />
        </span>
      )}
      {showings && seeing !== 'rock' && (
        <label className="flex items-center gap-2 whitespace-nowrap text-dim">
          Shown as
          <Select label="Shown as" name="showing" value={known ? view.showing : 'usual'} options={showings} onChange={(showing) => set({ view: { ...view, showing } })} />
        </label>
      )}
      {element && partner && (partner.role === 'height' || partner.role === 'normal') && <BodyDialog shot={shot} element={element} pass={partner} />}
      <CompareDialog shot={shot} />
      <ViewButton />
    </div>
    {rows && partner?.role === 'depth' && element && <Travel shot={shot} element={element} pass={partner} />}
    </>
  )
}

/** Parallax past which the look is believed less and less, as a share of the width (common practice). */
const BELIEVABLE = 1 / 30

function RockBy({ shot }: { shot: ShotOnBench }) {
  const { rockBy, set } = useBenchOf('rockBy', 'set')
  const width = shot.doc.display.width
  const bound = Math.round(width * BELIEVABLE)
  return (
    <span className="flex items-center gap-2 [&_label>span:first-child]:w-auto">
      {rockBy > bound && (
        <span className="whitespace-nowrap text-warn" role="status">
          above {bound} px, parallax looks unnatural
        </span>
      )}
      <NumberField label="By" value={rockBy} unit="px" step={1} reset={24} slider={[0, bound * 2]} min={0} max={1000} hint={`Largest parallax. Above a thirtieth of the width (${bound} px here) it looks unnatural`} onPreview={(v) => set({ rockBy: v })} onCommit={(v) => set({ rockBy: v })} />
    </span>
  )
}

/** Exposure, gamma, planes, transform, backdrop. */
function ViewButton() {
  const { view, grade, set } = useBenchOf('view', 'grade', 'set')
  const put = (change: Partial<typeof view>) => set({ view: { ...view, ...change } })
  const changed = grade !== null || JSON.stringify({ ...view, showing: PLAIN.showing, range: null }) !== JSON.stringify(PLAIN)
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <button type="button" className={`h-6 rounded-tile border px-2 ${changed ? 'border-accent' : 'border-line'} bg-raised hover:border-dim`} data-view>
          View…
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content align="end" sideOffset={6} className="z-40 flex w-72 flex-col gap-2 rounded-lg border border-line bg-panel p-3 shadow-xl">
          <p className="text-[11px] text-dim">Display only; the result does not change.</p>
          <NumberField label="Exposure" value={view.exposure} unit="stops" step={0.1} reset={0} slider={[-4, 4]} min={-20} max={20} onPreview={(v) => put({ exposure: v })} onCommit={(v) => put({ exposure: v })} />
          <NumberField label="Gamma" value={view.gamma} step={0.05} reset={1} slider={[0.2, 3]} min={0.05} max={20} onPreview={(v) => put({ gamma: v })} onCommit={(v) => put({ gamma: v })} />
          <Row label="Planes">
            <Select label="Planes" name="planes" className="min-w-0 grow" value={view.planes} options={PLANES} onChange={(planes) => put({ planes })} />
          </Row>
          <Row label="Transform">
            <Select label="Transform" name="transform" className="min-w-0 grow" value={view.transform} options={TRANSFORMS} disabled={grade !== null} onChange={(transform) => put({ transform })} />
          </Row>
          <GradeRow />
          <Row label="Backdrop">
            <Select label="Backdrop" name="backdrop" className="min-w-0 grow" value={view.backdrop} options={BACKDROPS} onChange={(backdrop) => put({ backdrop })} />
          </Row>
          <Button onClick={() => set({ view: PLAIN, grade: null })}>Reset view</Button>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}

function Row({ label, children }: { label: string; children: React.ReactNode }) {
  return (
    <label className="flex items-center gap-2">
      <span className="w-20 shrink-0 text-dim">{label}</span>
      {children}
    </label>
  )
}

/** One slider through depth, and a click in the picture that sets it. */
function Travel({ shot, element, pass }: { shot: ShotOnBench; element: Element; pass: PassOf }) {
  const { view, pointing, set } = useBenchOf('view', 'pointing', 'set')
  const frame = shot.doc.frames?.first ?? 0
  const facts = useQuery(factsQuery(shot.id, shot.state.revision, element.id, frame)).data?.find((f) => f.pass === pass.id)
  const range = facts?.range ?? null
  useEffect(() => {
    travel.range = range
  }, [range])
  // The row keeps its place while its range is asked for: nothing may move under a pointer.
  if (!range) return <div className="h-7 shrink-0 border-b border-line bg-panel" />
  const middle = view.range ? (view.range[0] + view.range[1]) / 2 : null
  return (
    <div className="flex h-7 shrink-0 items-center gap-2 border-b border-line bg-panel px-3 text-dim">
      <label className="flex grow items-center gap-2 whitespace-nowrap">
        Travel through depth
        <Slider
          label="Travel through depth"
          name="travel"
          min={range[0]}
          max={range[1]}
          step={(range[1] - range[0]) / 500}
          value={middle ?? range[1]}
          said={middle === null ? 'all of it' : `${middle.toFixed(2)} units`}
          onChange={travelTo}
        />
      </label>
      <span className="figures w-24 text-right">{middle === null ? 'all of it' : `${middle.toFixed(2)} units`}</span>
      <Button look="quiet" aria-pressed={pointing === 'travel'} onClick={() => set({ pointing: pointing === 'travel' ? null : 'travel' })} hint="Then click in the picture: the depths there are shown">
        {pointing === 'travel' ? 'Clicking…' : 'By click'}
      </Button>
      {view.range && (
        <Button look="quiet" onClick={() => set({ view: { ...view, range: null }, pointing: null })}>
          All
        </Button>
      )}
    </div>
  )
}
