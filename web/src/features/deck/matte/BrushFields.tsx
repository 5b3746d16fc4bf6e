import { NumberField } from '../../../ui/NumberField'
import { useBenchOf, type Brush } from '../../bench/store'

const FIELDS: Record<'size' | 'softness' | 'flow' | 'depth', { label: string; unit?: string; step: number; reset: number; slider: [number, number]; max: number }> = {
  size: { label: 'Size', unit: 'px', step: 1, reset: 60, slider: [1, 400], max: 20000 },
  softness: { label: 'Soft', step: 0.01, reset: 0.5, slider: [0, 1], max: 1 },
  flow: { label: 'Flow', step: 0.01, reset: 1, slider: [0, 1], max: 1 },
  depth: { label: 'Depth', unit: 'units', step: 0.01, reset: 4, slider: [0.1, 20], max: 1e9 },
}

/** The brush's own numbers; they are the hand's, not the document's. */
export function BrushFields({ fields }: { fields: (keyof typeof FIELDS)[] }) {
  const { brush, set } = useBenchOf('brush', 'set')
  const put = (name: keyof typeof FIELDS) => (v: number) => set({ brush: { ...brush, [name]: v } satisfies Brush })
  return (
    <div className="grid grid-cols-2 gap-x-2 gap-y-0.5 [&_input]:w-[78px] [&_label>span:first-child]:w-[42px]">
      {fields.map((f) => (
        <NumberField key={f} {...FIELDS[f]} value={brush[f]} min={f === 'size' ? 1 : f === 'depth' ? 0.001 : 0} onPreview={put(f)} onCommit={put(f)} />
      ))}
    </div>
  )
}
