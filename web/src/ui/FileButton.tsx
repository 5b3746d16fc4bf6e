import { useRef } from 'react'
import { Button } from './Button'

interface Props {
  /** Name for tests and for nothing else. */
  name: string
  accept: string
  label: string
  look?: 'plain' | 'quiet'
  onPick: (file: File) => void
}

/** A button that asks for a file. */
export function FileButton({ name, accept, label, look = 'plain', onPick }: Props) {
  const field = useRef<HTMLInputElement>(null)
  return (
    <>
      <Button look={look} onClick={() => field.current?.click()}>
        {label}
      </Button>
      <input
        ref={field}
        type="file"
        accept={accept}
        hidden
        data-file={name}
        onChange={(e) => {
          const chosen = e.target.files?.[0]
          if (chosen) onPick(chosen)
          e.target.value = ''
        }}
      />
    </>
  )
}
