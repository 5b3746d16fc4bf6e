import { useQueryClient } from '@tanstack/react-query'
import { DropdownMenu } from 'radix-ui'
import { useState, type SyntheticEvent } from 'react'
import { Link } from 'wouter'
import { api, picturePath } from '../../api/client'
import { shotsQuery } from '../../api/queries'
import type { Arrange, ShotSummary } from '../../api/types'
import { PLAIN } from '../../api/view'
import { Button } from '../../ui/Button'
import { Choice } from '../../ui/Choice'

type Order = 'changed' | 'made' | 'name'

const ORDERS: { value: Order; label: string; hint: string }[] = [
  { value: 'changed', label: 'Last changed', hint: 'Changed last first' },
  { value: 'made', label: 'Newest', hint: 'Made last first' },
  { value: 'name', label: 'Name', hint: 'A to Z' },
]

const SORTS: Record<Order, (a: ShotSummary, b: ShotSummary) => number> = {
  changed: (a, b) => b.changed_at.localeCompare(a.changed_at),
  made: (a, b) => b.created_at.localeCompare(a.created_at),
  name: (a, b) => a.name.localeCompare(b.name, undefined, { numeric: true }),
}

type Shelf = 'here' | 'away' | 'deleted'

const shelfOf = (s: ShotSummary): Shelf => (s.deleted ? 'deleted' : s.put_away ? 'away' : 'here')

/** The shots, searched, sorted, and what can be done with each. */
export function ShotList({ shots, onTrouble }: { shots: ShotSummary[]; onTrouble: (sentence: string) => void }) {
  const [search, setSearch] = useState('')
  const [order, setOrder] = useState<Order>('changed')
  const [shelf, setShelf] = useState<Shelf>('here')
  const [gone, setGone] = useState<ShotSummary | null>(null)
  const queries = useQueryClient()
  const run = async (what: Promise<unknown>) => {
    try {
      await what
    } catch (e) {
      onTrouble(e instanceof Error ? e.message : 'Something went wrong; try again.')
    }
    await queries.invalidateQueries({ queryKey: shotsQuery.queryKey })
  }
  const arrange = (shot: ShotSummary, change: Arrange) => {
    setGone(change.deleted ? shot : null)
    void run(api.arrange(shot.id, change))
  }
  const count = (of: Shelf) => shots.filter((s) => shelfOf(s) === of).length
  const words = search.toLowerCase().split(/\s+/).filter(Boolean)
  const shown = shots.filter((s) => shelfOf(s) === shelf && words.every((w) => s.name.toLowerCase().includes(w))).sort(SORTS[order])
  const shelves = [
    { value: 'here' as const, label: `Shots ${count('here')}` },
    { value: 'away' as const, label: `Put away ${count('away')}` },
    { value: 'deleted' as const, label: `Deleted ${count('deleted')}` },
  ]
  return (
    <>
      {shots.length > 0 && (
        <div className="mb-4 flex flex-wrap items-center gap-3">
          <input className="h-7 w-56 rounded-tile border border-line bg-ground px-2" placeholder="Search by name" aria-label="Search shots by name" value={search} onChange={(e) => setSearch(e.target.value)} data-search-shots />
          <Choice label="Which shots" value={shelf} options={shelves} onChange={setShelf} />
          <span className="grow" />
          <span className="text-dim">Sort by</span>
          <Choice label="Sort by" value={order} options={ORDERS} onChange={setOrder} />
        </div>
      )}
      {gone && (
        <p className="mb-3 flex items-center gap-3" role="status">
          {gone.name} was deleted.
          <Button onClick={() => arrange(gone, { deleted: false })}>Undo</Button>
        </p>
      )}
      <ul className="grid grid-cols-[repeat(auto-fill,minmax(250px,1fr))] gap-4">
        {shown.map((s) => (
          <Card key={s.id} shot={s} onArrange={(change) => arrange(s, change)} onCopy={() => void run(api.copyShot(s.id))} />
        ))}
      </ul>
      {shown.length === 0 && shots.length > 0 && <p className="text-dim">{words.length > 0 ? 'No shot has that in its name.' : 'There is nothing here.'}</p>}
    </>
  )
}

const ITEM = 'cursor-pointer rounded-[4px] px-2 py-1 outline-none data-[highlighted]:bg-accent-ground'

interface CardProps {
  shot: ShotSummary
  onArrange: (change: Arrange) => void
  onCopy: () => void
}

/** A quarter of the shot's size to begin with: enough of most renders, and finer where it is too small for the card. */
function Picture({ shot }: { shot: ShotSummary }) {
  const [scale, setScale] = useState(2)
  const look = { target: { kind: 'shot' as const }, scale, window: null, view: { ...PLAIN, backdrop: 'checker' as const }, viewer: null }
  const finer = ({ currentTarget: { naturalWidth, naturalHeight, clientWidth, clientHeight } }: SyntheticEvent<HTMLImageElement>) => {
    if (scale > 0 && naturalWidth < clientWidth && naturalHeight < clientHeight) setScale(scale - 1)
  }
  return <img src={picturePath(shot.id, shot.revision, look)} alt="" loading="lazy" onLoad={finer} className="aspect-video w-full bg-pane object-contain" />
}

function Card({ shot, onArrange, onCopy }: CardProps) {
  const [naming, setNaming] = useState(false)
  const rename = (name: string) => {
    setNaming(false)
    if (name.trim() && name.trim() !== shot.name) onArrange({ name })
  }
  return (
    <li className="overflow-hidden rounded-lg border border-line bg-panel hover:border-dim" data-shot={shot.name}>
      <Link href={`/shots/${shot.id}`} aria-label={`Open ${shot.name}`}>
        <Picture shot={shot} />
      </Link>
      <div className="flex items-center gap-2 py-1 pr-1 pl-3">
        {naming ? (
          <input
            autoFocus
            className="h-6 min-w-0 grow rounded-tile border border-accent bg-ground px-1"
            aria-label="Name of the shot"
            defaultValue={shot.name}
            onFocus={(e) => e.target.select()}
            onBlur={(e) => rename(e.target.value)}
            onKeyDown={(e) => {
              if (e.key === 'Enter') rename(e.currentTarget.value)
              if (e.key === 'Escape') setNaming(false)
            }}
          />
        ) : (
          <Link href={`/shots/${shot.id}`} className="min-w-0 grow truncate font-medium">
            {shot.name}
          </Link>
        )}
        <span className="figures shrink-0 text-dim">{new Date(shot.changed_at).toLocaleString(undefined, { dateStyle: 'short', timeStyle: 'short' })}</span>
        <DropdownMenu.Root modal={false}>
          <DropdownMenu.Trigger asChild>
            <button type="button" aria-label={`What to do with ${shot.name}`} className="h-6 w-6 rounded-tile text-dim hover:bg-raised hover:text-text" data-shot-menu>
              ⋯
            </button>
          </DropdownMenu.Trigger>
          <DropdownMenu.Portal>
            <DropdownMenu.Content align="end" sideOffset={4} className="z-40 w-44 rounded-tile border border-line bg-raised p-1 shadow-xl" onCloseAutoFocus={(e) => e.preventDefault()}>
              <DropdownMenu.Item className={ITEM} onSelect={() => setNaming(true)}>
                Rename
              </DropdownMenu.Item>
              <DropdownMenu.Item className={ITEM} onSelect={onCopy}>
                Make a copy
              </DropdownMenu.Item>
              {!shot.deleted && (
                <DropdownMenu.Item className={ITEM} onSelect={() => onArrange({ put_away: !shot.put_away })}>
                  {shot.put_away ? 'Put back' : 'Put away'}
                </DropdownMenu.Item>
              )}
              <DropdownMenu.Item className={ITEM} onSelect={() => onArrange({ deleted: !shot.deleted })}>
                {shot.deleted ? 'Restore' : 'Delete'}
              </DropdownMenu.Item>
            </DropdownMenu.Content>
          </DropdownMenu.Portal>
        </DropdownMenu.Root>
      </div>
    </li>
  )
}
