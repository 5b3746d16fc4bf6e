import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { useRef, useState } from 'react'
import { api } from '../../../api/client'
import { draftNow } from '../../../api/edits'
import type { LaidOut } from '../../../api/types'
import { toPane, toPicture, type Point } from '../geometry'
import { useFrame } from '../store'
import type { HandleProps } from './byMeaning'
import { Grip } from './Grip'
import { Outline, tidy, way } from './Outline'
import { dragged, KEPT, LABELS, layerOf, liesOf, PARTS, valuesOf, type Part } from './laid'

/** Where a texture lies on the object: its border, its middle, and two sides that are dragged over the surface. */
export function TextureHandles({ name, values, element, step, extract, shot, placement: p, over, put }: HandleProps) {
  const frame = useFrame(shot.doc)
  const draft = draftNow(shot, frame)
  const layer = layerOf(step, extract)
  const ask = { shot: draft, element: element.id, frame, placed: over === 'picture' }
  const query = useQuery({
    queryKey: ['laid', draft, element.id, layer, frame, over],
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
  const lies = liesOf(name, values)
  const move = async (part: Part, to: Point, words?: string) => {
    const number = ++asking.current
    setHeld(words ? null : { part, at: to })
    const at = tidy(toPicture(p, to))
    const under = await api.laidAt({ ...ask, layer, at: { picture: [at[0], at[1]] } }).catch(() => null)
    // Off the surface nothing follows; a later move has a later answer.
    if (!under?.uv || number !== asking.current) return
    put(valuesOf(name, dragged(part, lies, under.aspect, under.uv)), words)
  }
  return (
    <>
      <Outline d={laid.outline.map((run) => way(p, run)).join(' ')} />
      {PARTS.map((part) => {
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
              onDrop={(to) => void move(part, to, KEPT[part])}
            />
          )
        )
      })}
    </>
  )
}
