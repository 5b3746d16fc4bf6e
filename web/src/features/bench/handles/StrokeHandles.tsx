import type { Brush, Pointing } from '../store'
import { useBenchOf } from '../store'
import { freeId, type Numbered } from '../numbered'
import type { Point } from '../geometry'
import type { HandleProps } from './byMeaning'
import { Outline, way } from './Outline'
import { PaintLayer } from './PaintLayer'

interface Stroke extends Numbered {
  points: [number, number][]
}

interface Props extends HandleProps {
  /** What the brush is for. */
  to: NonNullable<Pointing>
  /** What a stroke is in the history. */
  words: string
  /** What a new stroke has beside its path. */
  made: (brush: Brush) => Record<string, unknown>
}

/** Strokes that are kept as their paths, and the brush that draws them. */
export function StrokeHandles({ name, values, placement: p, put, to, words, made }: Props) {
  const { item, pointing, brush } = useBenchOf('item', 'pointing', 'brush')
  const strokes = values[name] as Stroke[]
  const drawn = (points: Point[]) => {
    if (points.length > 1) put({ [name]: [...strokes, { id: freeId(strokes), ...made(brush), points }] }, words)
  }
  return (
    <>
      {strokes.map((s) => (
        <Outline key={s.id} d={way(p, s.points)} faint={s.id !== item} />
      ))}
      {pointing === to && <PaintLayer placement={p} size={brush.size} erases={false} onStroke={drawn} />}
    </>
  )
}

/** Strokes that smear. */
export const SmearHandles = (props: HandleProps) =>
  props.over === 'picture' ? <StrokeHandles {...props} to="smear" words="Smear" made={(b) => ({ size: b.size, softness: Math.max(0.05, b.softness), strength: b.flow })} /> : null

/** Strokes along which the picture flows. */
export const FlowStrokeHandles = (props: HandleProps) => <StrokeHandles {...props} to="paint-flow" words="Paint motion" made={(b) => ({ size: b.size, softness: b.softness })} />
