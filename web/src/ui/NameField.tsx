interface Props {
  label: string
  name: string
  className?: string
  /** Another name, trimmed and not empty. */
  onRename: (name: string) => void
}

/** A name that is edited where it stands: kept by Enter, or by leaving it. */
export function NameField({ label, name, className = '', onRename }: Props) {
  const rename = (text: string) => {
    const next = text.trim().slice(0, 100)
    if (next && next !== name) onRename(next)
  }
  return (
    <input
      key={name}
      className={`h-6 rounded-tile border border-line bg-ground px-1.5 ${className}`}
      aria-label={label}
      defaultValue={name}
      onBlur={(e) => rename(e.target.value)}
      onKeyDown={(e) => {
        if (e.key === 'Enter') rename(e.currentTarget.value)
      }}
    />
  )
}
