import { Button, Key } from '../../ui/Button'
import { PARTS, useRoom, type Part } from './room'

/** Where a part lies on the screen. */
const PLACES: Record<Part, string> = {
  tray: 'M2 3h12v3H2z',
  steps: 'M2 3h4v10H2z',
  deck: 'M2 10h12v3H2z',
  rows: 'M6 6h8v1.5H6z',
}

/** Folds and unfolds what stands around the panes. */
export function RoomButtons() {
  const room = useRoom()
  return (
    <span className="flex items-center" role="group" aria-label="Room for the picture">
      {PARTS.map(({ part, key, name }) => {
        const open = room[part] && !room.cleared
        return (
          <Button key={part} look="quiet" className="px-1!" aria-label={name} aria-pressed={open} data-fold={part} onClick={() => room.fold(part)} hint={<>{open ? 'Fold' : 'Open'} {name.toLowerCase()} <Key>{key.toUpperCase()}</Key></>}>
            <svg viewBox="0 0 16 16" className="size-4" fill="none" stroke="currentColor" strokeWidth="1.1" aria-hidden>
              <path d="M2 3h12v10H2z" />
              <path d={PLACES[part]} fill={open ? 'currentColor' : 'none'} />
            </svg>
          </Button>
        )
      })}
      <Button look="quiet" className="px-1!" aria-label="Only the panes" aria-pressed={room.cleared} data-clear onClick={room.clear} hint={<>Only the panes, and back <Key>C</Key></>}>
        <svg viewBox="0 0 16 16" className="size-4" fill="none" stroke="currentColor" strokeWidth="1.3" aria-hidden>
          <path d="M2 6V3h3M11 3h3v3M14 10v3h-3M5 13H2v-3" />
        </svg>
      </Button>
    </span>
  )
}
