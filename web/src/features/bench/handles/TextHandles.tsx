import { useQuery } from '@tanstack/react-query'
import { useSyncExternalStore } from 'react'
import { caretsQuery } from '../../../api/queries'
import type { Element } from '../../../api/types'
import { Hint } from '../../../ui/Hint'
import { toPane, type Placement, type Point } from '../geometry'
import { useFrame } from '../store'
import type { ShotOnBench } from '../useShot'

/** The field in the deck that holds the text of a parameter, if it is there. */
const fieldOf = (name: string) => document.querySelector<HTMLTextAreaElement>(`[data-lines="${CSS.escape(name)}"]`)

function subscribe(changed: () => void) {
  const events = ['selectionchange', 'focusin', 'focusout']
  events.forEach((e) => document.addEventListener(e, changed))
  return () => events.forEach((e) => document.removeEventListener(e, changed))
}

/** Where the selection of the field begins and ends while somebody types there; nothing else. */
function useTyping(name: string): [number, number] | null {
  const told = useSyncExternalStore(subscribe, () => {
    const field = fieldOf(name)
    return field && document.activeElement === field ? `${field.selectionStart} ${field.selectionEnd}` : ''
  })
  const [from, to] = told.split(' ').map(Number)
  return told && from !== undefined && to !== undefined ? [from, to] : null
}

/** Characters before a place that is counted as the browser does. */
const before = (text: string, place: number) => Array.from(text.slice(0, place)).length

/** The place of a character as the browser counts. */
const placeOf = (text: string, count: number) => Array.from(text).slice(0, count).join('').length

type Line = [Point, Point]

interface Props {
  name: string
  label: string
  text: string
  shot: ShotOnBench
  element: Element
  placement: Placement
}

/** The caret and the selection of a text, where its letters are; a click sets the caret, a drag selects. */
export function TextHandles({ name, label, text, shot, element, placement: p }: Props) {
  const frame = useFrame(shot.doc)
  const typing = useTyping(name)
  const carets = useQuery(caretsQuery(shot, element.id, frame)).data ?? []
  const lines = carets.map((c): Line | null => c && [toPane(p, c[0]), toPane(p, c[1])])
  const first = lines[0]
  if (!first) return null
  if (!typing) return <Begin name={name} label={label} at={first} />
  const [from, to] = typing.map((place) => before(text, place))
  const place = (e: React.PointerEvent) => {
    const bounds = e.currentTarget.getBoundingClientRect()
    return nearest(lines, [e.clientX - bounds.left, e.clientY - bounds.top])
  }
  const select = (a: number, b: number) => fieldOf(name)?.setSelectionRange(placeOf(text, Math.min(a, b)), placeOf(text, Math.max(a, b)))
  return (
    <div
      className="absolute inset-0 z-10 cursor-text touch-none"
      onPointerDown={(e) => {
        const at = place(e)
        // Beside the letters the picture is panned and picked as ever.
        if (at === null || e.button !== 0) return
        e.preventDefault()
        e.stopPropagation()
        e.currentTarget.setPointerCapture(e.pointerId)
        e.currentTarget.dataset.from = String(at)
        select(at, at)
      }}
      onPointerMove={(e) => {
        const start = e.currentTarget.dataset.from
        if (start === undefined) return
        e.stopPropagation()
        const at = place(e)
        if (at !== null) select(Number(start), at)
      }}
      onPointerUp={(e) => {
        delete e.currentTarget.dataset.from
      }}
    >
      <svg className="pointer-events-none absolute inset-0 size-full overflow-visible" aria-hidden data-caret={to}>
        {selected(text, from ?? 0, to ?? 0).map((i) => {
          const [a, b] = [lines[i], lines[i + 1]]
          return a && b ? <polygon key={i} points={[a[0], b[0], b[1], a[1]].map((q) => q.join(',')).join(' ')} fill="var(--accent)" fillOpacity="0.35" /> : null
        })}
        <Caret at={lines[to ?? 0]} />
      </svg>
    </div>
  )
}

function Caret({ at }: { at: Line | null | undefined }) {
  if (!at) return null
  const d = `M${at[0].join(' ')}L${at[1].join(' ')}`
  return (
    <>
      <path d={d} stroke="black" strokeOpacity="0.6" strokeWidth="4" />
      <path d={d} stroke="white" strokeWidth="1.75" />
    </>
  )
}

/** Characters of a selection that are seen: what ends a line is not. */
const selected = (text: string, from: number, to: number) => {
  const all = Array.from(text)
  return Array.from({ length: to - from }, (_, i) => from + i).filter((i) => all[i] !== '\n')
}

const away = (at: Point, [a, b]: Line): number => {
  const [dx, dy] = [b[0] - a[0], b[1] - a[1]]
  const t = Math.min(1, Math.max(0, ((at[0] - a[0]) * dx + (at[1] - a[1]) * dy) / Math.max(1e-9, dx * dx + dy * dy)))
  return Math.hypot(at[0] - a[0] - t * dx, at[1] - a[1] - t * dy)
}

/** The caret that is nearest to a place, if any is within the height of a line. */
function nearest(lines: (Line | null)[], at: Point): number | null {
  const room = ([a, b]: Line) => Math.max(12, Math.hypot(b[0] - a[0], b[1] - a[1]))
  const near = lines.flatMap((line, i) => {
    const far = line ? away(at, line) : Infinity
    return line && far < room(line) ? [{ i, far }] : []
  })
  return near.length === 0 ? null : near.reduce((best, one) => (one.far < best.far ? one : best)).i
}

/** Begins to type, from the picture. */
function Begin({ name, label, at }: { name: string; label: string; at: Line }) {
  const begin = () => {
    const field = fieldOf(name)
    field?.focus()
    field?.setSelectionRange(field.value.length, field.value.length)
  }
  const middle: Point = [(at[0][0] + at[1][0]) / 2 - 14, (at[0][1] + at[1][1]) / 2]
  return (
    <Hint text="Types in the picture: a click then sets the caret, a drag selects">
      <button
        type="button"
        data-type-text
        aria-label={`Type: ${label.toLowerCase()}`}
        className="absolute z-20 flex h-6 w-4 -translate-x-1/2 -translate-y-1/2 items-center justify-center rounded-tile bg-black/60 shadow-[0_0_0_1.5px_white]"
        style={{ left: middle[0], top: middle[1] }}
        onPointerDown={(e) => e.stopPropagation()}
        onClick={begin}
      >
        <svg viewBox="0 0 8 14" className="h-3.5 w-2" fill="none" stroke="white" strokeWidth="1.3" aria-hidden>
          <path d="M1.5 1h2.5v12h-2.5M6.5 1h-2.5M6.5 13h-2.5" />
        </svg>
      </button>
    </Hint>
  )
}
