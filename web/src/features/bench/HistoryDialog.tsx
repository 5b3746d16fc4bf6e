import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { api, picturePath } from '../../api/client'
import { historyQuery } from '../../api/queries'
import type { Look, RevisionSummary } from '../../api/types'
import { PLAIN } from '../../api/view'
import { Button } from '../../ui/Button'
import { Modal } from '../../ui/Modal'
import { Toggle } from '../../ui/Toggle'
import type { ShotOnBench } from './useShot'

const look = (scale: number): Look => ({ target: { kind: 'shot' }, scale, window: null, view: PLAIN, viewer: null })

/** Rows that are shown at once; each has a picture. */
const PAGE = 40

/** Every state of the shot: looked at beside the present one, named, brought back. */
export function HistoryDialog({ shot, open, onClose }: { shot: ShotOnBench; open: boolean; onClose: () => void }) {
  const { revision } = shot.state
  const history = useQuery({ ...historyQuery(shot.id, revision), enabled: open }).data ?? []
  const [chosen, setChosen] = useState<number | null>(null)
  const [onlyNamed, setOnlyNamed] = useState(false)
  const [most, setMost] = useState(PAGE)
  const rows = history.filter((r) => !onlyNamed || r.name !== null)
  const at = history.find((r) => r.number === (chosen ?? revision)) ?? history[0]
  const wide = Math.max(0, Math.min(6, Math.ceil(Math.log2(shot.doc.display.width / 480))))
  return (
    <Modal title="History" open={open} onClose={onClose} wide>
      <div className="flex gap-4">
        <div className="flex w-[300px] shrink-0 flex-col gap-2">
          <label className="flex items-center gap-2 text-dim">
            <Toggle label="Only named versions" on={onlyNamed} onChange={setOnlyNamed} /> Only named versions
          </label>
          <ul className="flex max-h-[56vh] flex-col gap-1 overflow-y-auto" aria-label="Revisions">
            {rows.slice(0, most).map((r) => (
              <li key={r.number}>
                <button type="button" aria-pressed={r.number === at?.number} onClick={() => setChosen(r.number)} data-revision={r.number} className={`flex w-full items-center gap-2 rounded-tile border p-1 text-left ${r.number === at?.number ? 'border-accent bg-accent-ground' : 'border-transparent hover:bg-raised'}`}>
                  <img src={picturePath(shot.id, r.number, look(Math.min(6, wide + 2)))} alt="" loading="lazy" className="h-9 w-16 shrink-0 rounded-[3px] bg-pane object-contain" />
                  <span className="min-w-0">
                    <span className="block truncate">{r.name ?? r.label}</span>
                    <span className="figures block truncate text-dim">
                      {r.number} · {new Date(r.made_at).toLocaleString(undefined, { dateStyle: 'short', timeStyle: 'short' })}
                      {r.number === revision ? ' · now' : ''}
                    </span>
                  </span>
                </button>
              </li>
            ))}
          </ul>
          {rows.length > most && <Button onClick={() => setMost(most + PAGE)}>Show older ones</Button>}
          {rows.length === 0 && <p className="text-dim">No revision has a name yet.</p>}
        </div>
        {at && <Chosen key={at.number} shot={shot} at={at} wide={wide} onDone={onClose} />}
      </div>
    </Modal>
  )
}

function Chosen({ shot, at, wide, onDone }: { shot: ShotOnBench; at: RevisionSummary; wide: number; onDone: () => void }) {
  const queries = useQueryClient()
  const [trouble, setTrouble] = useState<string | null>(null)
  const [compared, setCompared] = useState(false)
  const { revision } = shot.state
  const rename = async (name: string) => {
    if (name.trim() === (at.name ?? '')) return
    try {
      await api.nameRevision(shot.id, at.number, name)
      await queries.invalidateQueries({ queryKey: ['history', shot.id] })
    } catch (e) {
      setTrouble(e instanceof Error ? e.message : 'The name was not saved.')
    }
  }
  return (
    <div className="flex min-w-0 grow flex-col gap-3">
      <div className={compared ? 'grid grid-cols-2 gap-2' : ''}>
        <figure>
          <img src={picturePath(shot.id, at.number, look(wide))} alt={`The picture at revision ${at.number}`} className="w-full rounded-tile bg-pane object-contain" />
          <figcaption className="text-dim">Revision {at.number}: {at.label}</figcaption>
        </figure>
        {compared && (
          <figure>
            <img src={picturePath(shot.id, revision, look(wide))} alt="The picture now" className="w-full rounded-tile bg-pane object-contain" />
            <figcaption className="text-dim">Now: revision {revision}</figcaption>
          </figure>
        )}
      </div>
      <label className="flex items-center gap-2">
        <span className="w-14 shrink-0 text-dim">Name</span>
        <input
          className="h-7 min-w-0 grow rounded-tile border border-line bg-ground px-2"
          placeholder="Name this version to find it again"
          defaultValue={at.name ?? ''}
          data-version-name
          onBlur={(e) => void rename(e.target.value)}
          onKeyDown={(e) => {
            if (e.key === 'Enter') void rename(e.currentTarget.value)
          }}
        />
      </label>
      {trouble && <p role="alert" className="text-warn">{trouble}</p>}
      <div className="flex gap-2">
        <Button aria-pressed={compared} onClick={() => setCompared(!compared)} disabled={at.number === revision}>
          {compared ? 'Hide the present one' : 'Compare with now'}
        </Button>
        <Button
          look="main"
          disabled={at.number === revision}
          data-bring-back
          hint="Undo goes back to the state before"
          onClick={() => {
            shot.change((base) => api.bringBack(shot.id, at.number, base))
            onDone()
          }}
        >
          Bring back
        </Button>
      </div>
    </div>
  )
}
