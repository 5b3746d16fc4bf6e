import { Slider as Radix } from 'radix-ui'

interface Props {
  label: string
  /** Name for tests and for nothing else. */
  name: string
  value: number
  min: number
  max: number
  step: number
  /** What lies before the thumb is not told from what lies behind it. */
  bare?: boolean
  /** The value in words, for what reads the screen aloud. */
  said?: string
  onChange: (value: number) => void
}

/** One value along a line. */
export function Slider({ label, name, value, min, max, step, said, bare = false, onChange }: Props) {
  return (
    <Radix.Root value={[value]} min={min} max={max} step={step} data-slider={name} onValueChange={([v]) => v !== undefined && onChange(v)} className="relative flex h-5 min-w-0 grow touch-none items-center">
      <Radix.Track className="relative h-[3px] grow rounded-full bg-line">
        <Radix.Range className={`absolute h-full rounded-full ${bare ? '' : 'bg-accent'}`} />
      </Radix.Track>
      <Radix.Thumb aria-label={label} aria-valuetext={said} className="block h-3.5 w-2 rounded-[3px] border border-dim bg-raised hover:border-accent" />
    </Radix.Root>
  )
}
