import { Select as Radix } from 'radix-ui'
import { useRef, type ReactNode } from 'react'

interface Props<T extends string> {
  /** Named by what surrounds it if this is left out. */
  label?: string | undefined
  /** Name for tests and for nothing else. */
  name?: string | undefined
  id?: string | undefined
  value: T | null
  /** `face` is the font that a label is written in; `mark` stands before it. */
  options: readonly { value: T; label: string; face?: string | undefined; mark?: ReactNode }[]
  /** Shown while nothing is chosen. */
  placeholder?: string
  disabled?: boolean
  className?: string
  onChange: (value: T) => void
}

/** Radix takes no empty value, and ours may be one. */
const inner = (value: string) => `=${value}`

/** One of many, from a list that opens. */
export function Select<T extends string>({ label, name, id, value, options, placeholder = '', disabled = false, className = '', onChange }: Props<T>) {
  // A list that keeps the focus takes the next key for the first letter of an entry. Who chose with the pointer gets the keys of the
  // bench back; who chose with the keyboard goes on from the list.
  const byPointer = useRef(false)
  return (
    <Radix.Root value={value === null ? '' : inner(value)} disabled={disabled} onValueChange={(v) => onChange(v.slice(1) as T)}>
      <Radix.Trigger
        id={id}
        aria-label={label}
        data-select={name}
        className={`inline-flex h-6 items-center justify-between gap-1.5 rounded-tile border border-line bg-ground px-1.5 text-left text-text hover:border-dim disabled:text-dim data-[placeholder]:text-dim ${className}`}
      >
        <span className="min-w-0 truncate">
          <Radix.Value placeholder={placeholder} />
        </span>
        <Radix.Icon asChild>
          <svg viewBox="0 0 8 5" className="h-[5px] w-2 shrink-0 fill-none stroke-dim" strokeWidth="1.5" aria-hidden>
            <path d="M1 1l3 3 3-3" />
          </svg>
        </Radix.Icon>
      </Radix.Trigger>
      <Radix.Portal>
        <Radix.Content
          position="popper"
          sideOffset={3}
          collisionPadding={8}
          onPointerMove={() => {
            byPointer.current = true
          }}
          onKeyDown={() => {
            byPointer.current = false
          }}
          onCloseAutoFocus={(e) => {
            if (byPointer.current) e.preventDefault()
          }}
          className="z-60 max-h-[min(22rem,var(--radix-select-content-available-height))] min-w-[var(--radix-select-trigger-width)] overflow-hidden rounded-tile border border-line bg-raised shadow-xl"
        >
          <Radix.Viewport className="p-1">
            {options.map((o) => (
              <Radix.Item
                key={o.value}
                value={inner(o.value)}
                data-option={o.value}
                className="cursor-default rounded-[4px] py-1 pr-3 pl-5 whitespace-nowrap outline-none data-[highlighted]:bg-accent-ground data-[state=checked]:font-medium"
              >
                <Radix.ItemIndicator className="absolute left-2.5 mt-[7px] size-1.5 rounded-full bg-accent" />
                <Radix.ItemText>
                  {o.mark}
                  {o.face ? <span style={{ fontFamily: o.face }}>{o.label}</span> : o.label}
                </Radix.ItemText>
              </Radix.Item>
            ))}
          </Radix.Viewport>
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  )
}
