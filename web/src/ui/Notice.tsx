import { Button } from './Button'

interface Props {
  text: string
  action?: { label: string; run: () => void } | undefined
  onDismiss?: (() => void) | undefined
}

/** A sentence that stays until it is read. */
export function Notice({ text, action, onDismiss }: Props) {
  return (
    <div role="alert" className="flex items-center gap-3 border-b border-warn/60 bg-panel px-3 py-1.5">
      <span aria-hidden className="size-2 shrink-0 rotate-45 border-2 border-warn" />
      <span className="grow">{text}</span>
      {action && <Button onClick={action.run}>{action.label}</Button>}
      {onDismiss && (
        <Button look="quiet" onClick={onDismiss}>
          Dismiss
        </Button>
      )}
    </div>
  )
}
