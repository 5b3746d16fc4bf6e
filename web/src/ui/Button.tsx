import type { ButtonHTMLAttributes, ReactNode } from 'react'
import { Hint } from './Hint'

type Look = 'plain' | 'main' | 'quiet'

const LOOKS: Record<Look, string> = {
  plain: 'border border-line bg-raised hover:border-dim px-2.5',
  main: 'bg-accent text-on-accent font-medium hover:brightness-110 px-3',
  quiet: 'text-dim hover:text-text hover:bg-raised px-1.5',
}

interface Props extends ButtonHTMLAttributes<HTMLButtonElement> {
  look?: Look
  /** Refusal on hover, with the key that does the same. */
  hint?: ReactNode
}

export function Button({ look = 'plain', hint, className = '', ...rest }: Props) {
  const button = (
    <button
      type="button"
      {...rest}
      className={`inline-flex h-7 shrink-0 items-center justify-center gap-1.5 rounded-tile whitespace-nowrap ${LOOKS[look]} ${className}`}
    />
  )
  return <Hint text={hint}>{button}</Hint>
}

/** The key of a shortcut. */
export function Key({ children }: { children: ReactNode }) {
  return <kbd className="figures rounded-[3px] border border-line bg-ground px-1 text-dim">{children}</kbd>
}
