import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { useRef, useState } from 'react'
import { api } from '../../../api/client'
import { draftNow } from '../../../api/edits'
import type { LaidOut, Layer } from '../../../api/types'
import { toPane, toPicture, type Point } from '../geometry'
import { useFrame } from '../store'
import type { HandleProps } from './byMeaning'
import { Grip } from './Grip'
import { Outline, tidy, way } from './Outline'

type Part = 'middle' | 'right' | 'top'

const LABELS: Record<Part, string> = {
  middle: 'Middle of the texture',
  right: 'Right side of the texture: size and turn',
  top: 'Upper side of the texture: height',
}

interface Lies {
  middle: Point
  size: Point
  turn: number
}

/** What a place in UV makes of a texture whose part is dragged there. */
function dragged(part: Part, { middle, size, turn }: Lies, aspect: number, uv: Point): Partial<Lies> {
  if (part === 'middle') return { middle: tidyUv(uv) }
  const [width, height] = size
  const across = [uv[0] - middle[0], ((uv[1] - middle[1]) * width) / (height * aspect)] as const
  if (part === 'right') {
    const half = Math.max(Math.hypot(...across), 1e-4)
    // A texture that is turned over has its right side on the left.
    const sign = Math.sign(width) || 1
    const wide = 2 * half * sign
    const angle = (Math.atan2(across[1] * sign, across[0] * sign) * 180) / Math.PI
    return { size: tidyUv([wide, (height / width) * wide]), turn: Math.round(angle * 10) / 10 }
  }
  // The size is along u and v; the turn is within it.
  const upright = Math.cos((turn * Math.PI) / 180)
  if (Math.abs(upright) < 0.3) return {}
  const high = Math.abs((2 * (uv[1] - middle[1])) / upright)
  return { size: tidyUv([width, Math.sign(height) * Math.max(high, 1e-4)]) }
}

const tidyUv = (p: Point): Point => [Math.round(p[0] * 1e4) / 1e4, Math.round(p[1] * 1e4) / 1e4]

/** Where a texture lies on the object: its border, its middle, and two sides that are dragged over the surface. */
export function TextureHandles({ name, values, element, step, extract, shot, placement: p, over, put }: HandleProps) {
  const frame = useFrame(shot.doc)
  const draft = draftNow(shot, frame)
  const layer: Layer | null = step ? { kind: 'step', id: step.id } : extract ? { kind: 'extract', id: extract.id } : null
  const ask = { shot: draft, element: element.id, frame }
  const query = useQuery({
    queryKey: ['laid', draft, element.id, layer, frame],
    queryFn: () => (layer ? api.laid({ ...ask, layer }) : null),
    enabled: layer !== null && over !== 'before',
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 10_000,
    retry: false,
  })
  // The part that is held stays under the pointer, wherever the answer lags.
  const [held, setHeld] = useState<{ part: Part; at: Point } | null>(null)
  const asking = useRef(0)
  const laid: LaidOut | null | undefined = query.data
  if (over === 'before' || !laid || !layer) return null
  const lies: Lies = { middle: values[name] as Point, size: values.size as Point, turn: values.turn as number }
  const move = async (part: Part, to: Point, words?: string) => {
    const number = ++asking.current
    setHeld(words ? null : { part, at: to })
    const at = tidy(toPicture(p, to))
    const under = await api.laid({ ...ask, layer, at: [at[0], at[1]] }).catch(() => null)
    // Off the surface nothing follows; a later move has a later answer.
    if (!under?.uv || number !== asking.current) return
    const next = dragged(part, lies, under.aspect, under.uv)
    put({ ...next, ...(next.middle ? { [name]: next.middle } : {}) }, words)
  }
  const parts: Part[] = ['middle', 'right', 'top']
  return (
    <>
      <Outline d={laid.outline.map((run) => way(p, run)).join(' ')} />
      {parts.map((part) => {
        const at = held?.part === part ? held.at : laid[part] && toPane(p, laid[part])
        return (
          at && (
            <Grip
              key={part}
              at={at}
              name={`texture-${part}`}
              label={LABELS[part]}
              size={part === 'middle' ? 'large' : 'small'}
              onMove={(to) => void move(part, to)}
              onDrop={(to) => void move(part, to, part === 'middle' ? 'Move a texture' : 'Size a texture')}
            />
          )
        )
      })}
    </>
  )
}
