import { useState } from 'react'
import { useMutation, useQuery } from '@tanstack/react-query'
import { api, proofPath } from '../../api/client'
import { outboxQuery } from '../../api/queries'
import type { FileForm, FrameRange, Target } from '../../api/types'
import { Button } from '../../ui/Button'
import { Choice } from '../../ui/Choice'
import { NumberField } from '../../ui/NumberField'
import type { ShotOnBench } from '../bench/useShot'
import { fileOf } from './forms'

/** A name as that of a file. */
const plain = (name: string) => name.replaceAll(/[^\p{L}\p{N}-]+/gu, '_').slice(0, 80) || 'shot'

interface Props {
  shot: ShotOnBench
  target: Target
  form: FileForm
  frames: FrameRange
}

/** Which frames to write, and under which names. */
export function RangeForm({ shot, target, form, frames }: Props) {
  const [range, setRange] = useState(frames)
  const [name, setName] = useState(`${plain(shot.doc.name)}.####`)
  const [folder, setFolder] = useState<string | null>(null)
  const out = useQuery(outboxQuery).data?.folder
  const start = useMutation({ mutationFn: () => api.startJob(shot.id, shot.state.revision, { wish: { target, form, name, ...(folder === null ? {} : { folder }) }, range }) })
  const count = range.last - range.first + 1
  const first = (v: number) => setRange({ first: Math.round(v), last: Math.max(Math.round(v), range.last) })
  const last = (v: number) => setRange({ first: Math.min(range.first, Math.round(v)), last: Math.round(v) })
  return (
    <div className="mt-3 grid grid-cols-[6rem_1fr] items-center gap-y-3">
      <span className="text-dim">Frames</span>
      <span className="flex items-center gap-4 [&_label>span:first-child]:w-auto">
        <NumberField label="First" value={range.first} step={1} reset={frames.first} onPreview={first} onCommit={first} />
        <NumberField label="Last" value={range.last} step={1} reset={frames.last} onPreview={last} onCommit={last} />
      </span>
      <label className="text-dim" htmlFor="frame-name">
        Names
      </label>
      <span className="flex items-center gap-1">
        <input
          id="frame-name"
          className="figures h-7 w-64 rounded-tile border border-line bg-ground px-2 hover:border-dim"
          spellCheck={false}
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
        <span className="figures text-dim">.{fileOf(form).file?.value}</span>
      </span>
      <span />
      <span className="text-dim"># stands for a digit of the frame’s number.</span>
      {out && (
        <>
          <span className="text-dim">Into</span>
          <span className="flex items-center gap-2" title={folder === null ? undefined : `${out}/${folder}`}>
            <Choice
              label="Into"
              value={folder === null ? 'kept' : 'folder'}
              options={[
                { value: 'kept', label: 'Jugata', hint: 'Kept here, to be downloaded one by one or as a zip' },
                { value: 'folder', label: 'A folder', hint: `Put into a folder below ${out} as they are written, too` },
              ]}
              onChange={(v) => setFolder(v === 'folder' ? plain(shot.doc.name) : null)}
            />
            {folder !== null && (
              <input aria-label="Folder" className="figures h-7 w-40 rounded-tile border border-line bg-ground px-2 hover:border-dim" spellCheck={false} value={folder} onChange={(e) => setFolder(e.target.value)} />
            )}
          </span>
        </>
      )}
      <span />
      <span className="flex items-center gap-3">
        <Button look="main" disabled={start.isPending} onClick={() => start.mutate()} data-start-job>
          Write {count} {count === 1 ? 'frame' : 'frames'}
        </Button>
        <a className="text-dim underline decoration-line underline-offset-2 hover:text-text" href={proofPath(shot.id, shot.state.revision, target, range)} download data-proof title="One small PNG that any browser plays, to show how it moves">
          Animated proof
        </a>
        {start.error && (
          <span role="alert" className="text-warn">
            {start.error.message}
          </span>
        )}
      </span>
    </div>
  )
}
