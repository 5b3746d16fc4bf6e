import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useRef, useState } from 'react'
import { Link, useLocation } from 'wouter'
import { bringIn, picturePath } from '../../api/client'
import { shotsQuery } from '../../api/queries'
import type { ShotSummary } from '../../api/types'
import { Button } from '../../ui/Button'
import { Mark } from '../../ui/glyphs'
import { Notice } from '../../ui/Notice'

/** All shots with their pictures; a render dropped anywhere on the page comes in as a new one. */
export function ShotsPage() {
  const shots = useQuery(shotsQuery)
  const queries = useQueryClient()
  const [, go] = useLocation()
  const pick = useRef<HTMLInputElement>(null)
  const [over, setOver] = useState(false)
  const [coming, setComing] = useState<{ name: string; share: number } | null>(null)
  const [trouble, setTrouble] = useState<string | null>(null)

  const take = async (file: File | undefined) => {
    if (!file || coming) return
    setTrouble(null)
    setComing({ name: file.name, share: 0 })
    try {
      const { id } = await bringIn(file, (share) => setComing({ name: file.name, share }))
      await queries.invalidateQueries({ queryKey: shotsQuery.queryKey })
      go(`/shots/${id}`)
    } catch (e) {
      setTrouble(`${file.name}: ${e instanceof Error ? e.message : 'it could not be brought in.'}`)
    } finally {
      setComing(null)
    }
  }

  return (
    <main
      className="flex h-full flex-col"
      onDragOver={(e) => {
        e.preventDefault()
        setOver(true)
      }}
      onDragLeave={(e) => {
        if (e.currentTarget === e.target) setOver(false)
      }}
      onDrop={(e) => {
        e.preventDefault()
        setOver(false)
        void take(e.dataTransfer.files[0])
      }}
    >
      <header className="flex h-10 shrink-0 items-center gap-2 border-b border-line bg-panel px-3 font-semibold">
        <span className="text-accent">
          <Mark />
        </span>
        Jugata
        <span className="mx-1 font-normal text-line">|</span>
        <h1 className="font-medium">Shots</h1>
        <span className="grow" />
        <Button look="main" onClick={() => pick.current?.click()} disabled={coming !== null}>
          Bring in a render…
        </Button>
        <input ref={pick} type="file" accept=".exr" className="hidden" data-upload onChange={(e) => void take(e.target.files?.[0])} />
      </header>
      {trouble && <Notice text={trouble} onDismiss={() => setTrouble(null)} />}
      {shots.error && <Notice text={shots.error.message} action={{ label: 'Try again', run: () => void shots.refetch() }} />}
      {coming && (
        <div className="border-b border-line bg-panel px-4 py-2" role="status">
          {coming.share < 1 ? `Bringing in ${coming.name}…` : `Reading ${coming.name}…`}
          <div className="mt-1 h-1 overflow-hidden rounded bg-ground">
            <div className="h-full bg-accent" style={{ width: `${Math.max(3, coming.share * 100)}%` }} />
          </div>
        </div>
      )}
      <div className={`grow overflow-y-auto p-6 ${over ? 'outline-2 -outline-offset-8 outline-accent outline-dashed' : ''}`}>
        <ul className="grid grid-cols-[repeat(auto-fill,minmax(250px,1fr))] gap-4">
          {shots.data?.map((s) => (
            <Card key={s.id} shot={s} />
          ))}
        </ul>
        <p className="mt-6 text-dim">
          {shots.data?.length === 0 ? 'There is no shot yet. ' : ''}Drop a multi-layer EXR anywhere on this page: picture and passes in one file. It becomes a new shot; the file itself is never altered.
        </p>
      </div>
    </main>
  )
}

function Card({ shot }: { shot: ShotSummary }) {
  const look = { target: { kind: 'shot' as const }, scale: 2, window: null, view: { exposure: 0, backdrop: 'checker' as const, range: null }, viewer: null }
  return (
    <li>
      <Link href={`/shots/${shot.id}`} className="block overflow-hidden rounded-lg border border-line bg-panel hover:border-dim">
        <img src={picturePath(shot.id, shot.revision, look)} alt="" className="aspect-video w-full bg-pane object-contain" />
        <span className="flex items-baseline justify-between gap-2 px-3 py-2">
          <span className="truncate font-medium">{shot.name}</span>
          <span className="figures shrink-0 text-dim">{new Date(shot.changed_at).toLocaleString(undefined, { dateStyle: 'short', timeStyle: 'short' })}</span>
        </span>
      </Link>
    </li>
  )
}
