import { create } from 'zustand'
import type { Drive, Key } from '../../api/types'
import { Button } from '../../ui/Button'
import { NumberField } from '../../ui/NumberField'
import { useFrame } from '../bench/store'
import type { ShotOnBench } from '../bench/useShot'
import { fits, keysOf, startingAt, stretched, withChanged, withKeys } from './keys'

/** Keys that were copied, to be put elsewhere. */
const useCopied = create<{ keys: Key[] }>(() => ({ keys: [] }))

interface Props {
  shot: ShotOnBench
  drive: Drive
  picked: number[]
  onPick: (frames: number[]) => void
}

/** What is done with several keys at once. */
export function Together({ shot, drive, picked, onPick }: Props) {
  const frame = useFrame(shot.doc)
  const copied = useCopied((c) => c.keys)
  const keys = keysOf(drive)
  const some = keys.filter((k) => picked.includes(k.frame))
  const fit = fits(copied[0]?.value ?? null, keys[0]?.value ?? null)
  const paste = () => {
    const put = startingAt(copied, frame)
    const frames = new Set(put.map((k) => k.frame))
    shot.commit(put.length > 1 ? `Paste ${put.length} keys` : 'Paste a key', withKeys(shot.doc, drive.at, [...keys.filter((k) => !frames.has(k.frame)), ...put]))
    onPick([...frames])
  }
  if (keys.length === 0) return null
  return (
    <div className="flex flex-wrap items-center gap-1" data-picked-keys={some.length}>
      {some.length === 0 ? (
        <>
          <Button look="quiet" onClick={() => onPick(keys.map((k) => k.frame))} hint="Or draw over some of them with shift held, or click them with shift">
            Pick all keys
          </Button>
          {fit && (
            <Button look="quiet" onClick={paste} hint="Puts the copied keys here, from the frame that is seen on">
              Paste {copied.length}
            </Button>
          )}
        </>
      ) : (
        <>
          <span className="text-dim">{some.length} picked</span>
          <Button look="quiet" onClick={() => useCopied.setState({ keys: some })}>
            Copy
          </Button>
          {fit && (
            <Button look="quiet" onClick={paste} hint="Puts the copied keys here, from the frame that is seen on">
              Paste
            </Button>
          )}
          <Button
            look="quiet"
            onClick={() => {
              onPick([])
              shot.commit(`Take ${some.length} keys away`, withChanged(shot.doc, drive.at, some, () => null))
            }}
          >
            Take away
          </Button>
          {some.length > 1 && (
            <NumberField
              label="Stretch"
              unit="×"
              value={1}
              step={0.01}
              min={0.01}
              max={100}
              reset={1}
              onPreview={() => undefined}
              onCommit={(times) => {
                const change = stretched(some, times)
                shot.commit(`Stretch ${some.length} keys`, withChanged(shot.doc, drive.at, some, change))
                onPick(some.map((k) => change(k).frame))
              }}
            />
          )}
        </>
      )}
    </div>
  )
}
