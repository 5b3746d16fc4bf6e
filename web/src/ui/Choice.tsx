import { ToggleGroup } from 'radix-ui'
import type { ReactNode } from 'react'
import { Hint } from './Hint'

interface Props<T extends string> {
  label: string
  value: T
  options: { value: T; label: ReactNode; hint?: string | undefined }[]
  onChange: (value: T) => void
}

/** One of a few, all of them seen. */
export function Choice<T extends string>({ label, value, options, onChange }: Props<T>) {
  return (
    <ToggleGroup.Root
      type="single"
      aria-label={label}
      value={value}
      onValueChange={(v) => {
        if (v) onChange(v as T)
      }}
      className="inline-flex rounded-tile border border-line bg-ground p-px"
    >
      {options.map((o) => (
        <Hint key={o.value} text={o.hint}>
          <ToggleGroup.Item
            value={o.value}
            // The hint takes `data-state` for itself, so the look goes by what is said aloud.
            className="h-6 rounded-[4px] px-2 whitespace-nowrap text-dim hover:text-text aria-checked:bg-accent-ground aria-checked:text-text aria-checked:shadow-[inset_0_0_0_1px_var(--accent)]"
          >
            {o.label}
          </ToggleGroup.Item>
        </Hint>
      ))}
    </ToggleGroup.Root>
  )
}
