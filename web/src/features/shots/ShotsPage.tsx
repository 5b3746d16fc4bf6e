import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useRef, useState } from 'react'
import { useLocation } from 'wouter'
import { api, sendAll, type Sending } from '../../api/client'
import { deliveryQuery, memoryQuery, shotsQuery, usageQuery } from '../../api/queries'
import { Button } from '../../ui/Button'
import { Mark } from '../../ui/glyphs'
import { Notice } from '../../ui/Notice'
import { useBench } from '../bench/store'
import { ACCEPTED, tidy } from './files'
import { ShotList } from './ShotList'
import { useDropping } from './useDropping'

/** All shots with their pictures; a render dropped anywhere on the page comes in as a new one. */
export function ShotsPage() {
  const shots = useQuery(shotsQuery)
  const queries = useQueryClient()
  const [, go] = useLocation()
  const pick = useRef<HTMLInputElement>(null)
  const [coming, setComing] = useState<Sending | null>(null)
  const [trouble, setTrouble] = useState<string | null>(null)

  const take = async (files: File[]) => {
    if (files.length === 0 || coming) return
    setTrouble(null)
    try {
      const got = await sendAll(files, setComing)
      if (got.refused.length > 0) setTrouble(got.refused.join(' '))
      if (got.files.length === 0) return
      const { id } = await api.fromFiles(got.files)
      await queries.invalidateQueries({ queryKey: shotsQuery.queryKey })
      // What was refused is told where the others are seen.
      if (got.refused.length > 0) useBench.getState().set({ trouble: got.refused.join(' ') })
      go(`/shots/${id}/intake`)
    } catch (e) {
      setTrouble(e instanceof Error ? e.message : 'The files could not be brought in.')
    } finally {
      setComing(null)
    }
  }

  const { over, handlers } = useDropping(take)

  return (
    <main
      className="flex h-full flex-col"
      {...handlers}
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
        <input ref={pick} type="file" multiple accept={ACCEPTED} className="hidden" data-upload onChange={(e) => void take(tidy(e.target.files ?? []))} />
      </header>
      {trouble && <Notice text={trouble} onDismiss={() => setTrouble(null)} />}
      {shots.error && <Notice text={shots.error.message} action={{ label: 'Try again', run: () => void shots.refetch() }} />}
      {coming && (
        <div className="border-b border-line bg-panel px-4 py-2" role="status">
          {coming.share < 1 ? 'Bringing in' : 'Reading'} {coming.name}
          {coming.of > 1 && ` (${coming.done + 1} of ${coming.of})`}…
          <div className="mt-1 h-1 overflow-hidden rounded bg-ground">
            <div className="h-full bg-accent" style={{ width: `${Math.max(3, ((coming.done + coming.share) / coming.of) * 100)}%` }} />
          </div>
        </div>
      )}
      <div className={`grow overflow-y-auto p-6 ${over ? 'outline-2 -outline-offset-8 outline-accent outline-dashed' : ''}`}>
        <ShotList shots={shots.data ?? []} onTrouble={setTrouble} />
        <p className="mt-6 text-dim">
          {shots.data?.length === 0 ? 'There is no shot yet. ' : ''}Drop a render anywhere on this page: one multi-layer EXR, one file for each pass, a folder of numbered frames; EXR, PNG, TIFF, HDR or JPEG. It becomes a new shot; the files themselves are never altered.
        </p>
        <Surroundings />
      </div>
    </main>
  )
}

const gib = (bytes: number) => (bytes / 2 ** 30).toFixed(2)

/** Where renderers deliver, what was not taken, and how much memory is in use. */
function Surroundings() {
  const delivery = useQuery(deliveryQuery).data
  const memory = useQuery(memoryQuery).data
  const usage = useQuery(usageQuery).data
  return (
    <div className="mt-3 flex flex-col gap-1 text-dim" data-delivery>
      {delivery?.folder && (
        <p>
          What a renderer writes into <span className="figures text-text">{delivery.folder}</span> comes in by itself, frame after frame: a folder in it becomes a shot.
        </p>
      )}
      {delivery?.refused.slice(0, 5).map((sentence) => (
        <p key={sentence} className="text-warn">
          {sentence}
        </p>
      ))}
      {usage && (
        <p className="figures" data-usage>
          Disk: {usage.files} media files, {gib(usage.bytes)} GiB
          {usage.unused > 0 && `; ${usage.unused} of them (${gib(usage.unused_bytes)} GiB) are used by no shot: jugata media collect deletes them`}.
        </p>
      )}
      {memory && (
        <p className="figures">
          Memory: decoded files {gib(memory.files.bytes)} of {gib(memory.files.most)} GiB, passes and results {gib(memory.results.bytes)} of {gib(memory.results.most)} GiB.
        </p>
      )}
    </div>
  )
}
