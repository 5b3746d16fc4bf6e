import { useRef, useState } from 'react'
import { Hint } from './Hint'

interface Props {
  label: string
  value: number
  unit?: string | undefined
  /** Smallest change; also what an arrow key does. */
  step: number
  /** What double click goes back to. */
  reset: number
  /** Ends of the bar under the number; typing is not limited to them. */
  slider?: [number, number] | undefined
  min?: number | undefined
  max?: number | undefined
  hint?: string | undefined
  /** Without its label and unit, which stand beside it. */
  bare?: boolean
  /** The value while it moves. */
  onPreview: (value: number) => void
  /** The value at rest. */
  onCommit: (value: number) => void
}

const digits = (step: number) => Math.max(0, Math.min(6, Math.ceil(-Math.log10(step) - 1e-9)))

/** Characters that a field has room for, beside a unit or in a row of several and alone. */
const ROOM = { beside: 5, alone: 8 }

/** As many of a value's decimals as there is room for: the first ones of a large number say enough. */
function fitted(value: number, step: number, room: number): string {
  let places = digits(step)
  while (places > 0 && value.toFixed(places).length > room) places -= 1
  return value.toFixed(places)
}

/** A number with its unit: dragged, typed, stepped with arrows (shift ×10, alt ÷10), reset by double click. */
export function NumberField(p: Props) {
  const [text, setText] = useState<string | null>(null)
  // Escape leaves the field without what was typed.
  const dropped = useRef(false)
  const drag = useRef<{ x: number; from: number; moved: boolean; value: number } | null>(null)
  const shown = text ?? fitted(p.value, p.step, p.unit || p.bare ? ROOM.beside : ROOM.alone)
  const hold = (v: number) => Math.min(p.max ?? Infinity, Math.max(p.min ?? -Infinity, v))
  const tidy = (v: number, step: number) => hold(Number((Math.round(v / step) * step).toFixed(7)))

  const commitText = () => {
    if (dropped.current || text === null) {
      dropped.current = false
      setText(null)
      return
    }
    const v = Number(text.replace(',', '.'))
    setText(null)
    if (text.trim() !== '' && Number.isFinite(v) && v !== p.value) p.onCommit(hold(v))
  }
  const nudge = (e: React.KeyboardEvent, sign: number) => {
    e.preventDefault()
    const by = p.step * (e.shiftKey ? 10 : e.altKey ? 0.1 : 1)
    setText(null)
    p.onCommit(tidy(p.value + sign * by, Math.min(by, p.step)))
  }
  const share = p.slider ? Math.min(1, Math.max(0, (p.value - p.slider[0]) / (p.slider[1] - p.slider[0]))) : null

  return (
    <Hint text={p.hint}>
      <label className={p.bare ? 'block' : 'flex items-center gap-2'}>
        {!p.bare && <span className="w-20 shrink-0 truncate text-dim">{p.label}</span>}
        <span className={`relative block ${p.bare ? 'w-auto!' : ''}`}>
          <input
            className={`figures h-6 w-24 cursor-ew-resize rounded-tile border border-line bg-ground px-1.5 text-right hover:border-dim focus:cursor-text ${p.unit && !p.bare ? (p.unit.length > 5 ? 'pr-12' : 'pr-10') : ''}`}
            style={p.bare ? { width: 52 } : undefined}
            inputMode="decimal"
            spellCheck={false}
            aria-label={p.unit ? `${p.label} (${p.unit})` : p.label}
            value={shown}
            // Nothing is being typed: undo is then that of the shot.
            data-at-rest={text === null ? '' : undefined}
            onChange={(e) => setText(e.target.value)}
            onBlur={commitText}
            onDoubleClick={() => {
              setText(null)
              p.onCommit(p.reset)
            }}
            onKeyDown={(e) => {
              // The keys of the bench are its own again once a number stands.
              if (e.key === 'Enter') e.currentTarget.blur()
              else if (e.key === 'Escape') {
                dropped.current = true
                e.currentTarget.blur()
              }
              else if (e.key === 'ArrowUp') nudge(e, 1)
              else if (e.key === 'ArrowDown') nudge(e, -1)
            }}
            onPointerDown={(e) => {
              if (document.activeElement === e.currentTarget) return
              e.preventDefault()
              e.currentTarget.setPointerCapture(e.pointerId)
              drag.current = { x: e.clientX, from: p.value, moved: false, value: p.value }
            }}
            onPointerMove={(e) => {
              const d = drag.current
              if (!d) return
              const dx = e.clientX - d.x
              if (!d.moved && Math.abs(dx) < 3) return
              d.moved = true
              const reach = p.slider ? (p.slider[1] - p.slider[0]) / 240 : p.step
              const per = reach * (e.shiftKey ? 10 : e.altKey ? 0.1 : 1)
              d.value = tidy(d.from + dx * per, e.altKey ? p.step * 0.1 : p.step)
              p.onPreview(d.value)
            }}
            onPointerUp={(e) => {
              const d = drag.current
              drag.current = null
              if (!d) return
              if (d.moved) p.onCommit(d.value)
              else {
                e.currentTarget.focus()
                e.currentTarget.select()
              }
            }}
            onPointerCancel={() => {
              if (drag.current?.moved) p.onCommit(drag.current.from)
              drag.current = null
            }}
          />
          {!p.bare && <span className="pointer-events-none absolute top-1 right-1.5 text-[11px] text-dim">{p.unit}</span>}
          {share !== null && (
            <span className="pointer-events-none absolute inset-x-px bottom-0 h-0.5 overflow-hidden rounded-b-tile">
              <span className="block h-full bg-accent" style={{ width: `${share * 100}%` }} />
            </span>
          )}
        </span>
      </label>
    </Hint>
  )
}
