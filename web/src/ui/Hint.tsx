import { Tooltip } from 'radix-ui'
import type { ReactElement, ReactNode } from 'react'

interface Props {
  /** Nothing is shown without. */
  text: ReactNode
  /** What it is about: one element that takes a ref. */
  children: ReactElement
}

/** A few words on hover or keyboard focus, in the look of the application. */
export function Hint({ text, children }: Props) {
  if (!text) return children
  return (
    <Tooltip.Root>
      <Tooltip.Trigger asChild>{children}</Tooltip.Trigger>
      <Tooltip.Portal>
        <Tooltip.Content sideOffset={5} collisionPadding={8} className="pointer-events-none! z-50 max-w-72 rounded-tile border border-line bg-raised px-2 py-1 text-text shadow-lg">
          {text}
        </Tooltip.Content>
      </Tooltip.Portal>
    </Tooltip.Root>
  )
}
