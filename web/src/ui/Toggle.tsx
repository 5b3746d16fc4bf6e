import { Switch } from 'radix-ui'

/** A small switch. */
export function Toggle({ label, on, className = '', onChange }: { label: string; on: boolean; className?: string; onChange: (on: boolean) => void }) {
  return (
    <Switch.Root
      checked={on}
      aria-label={label}
      onCheckedChange={onChange}
      className={`h-3.5 w-6 shrink-0 rounded-full border border-dim bg-ground data-[state=checked]:border-accent data-[state=checked]:bg-accent ${className}`}
    >
      <Switch.Thumb className="block size-2.5 translate-x-px rounded-full bg-dim transition-transform data-[state=checked]:translate-x-[11px] data-[state=checked]:bg-on-accent" />
    </Switch.Root>
  )
}
