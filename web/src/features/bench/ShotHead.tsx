import type { ReactNode } from 'react'
import { Link } from 'wouter'
import { Button, Key } from '../../ui/Button'
import { Line, Mark } from '../../ui/glyphs'
import type { ShotOnBench } from './useShot'

/** Name, saved state, undo and redo; what the page adds stands on the right. */
export function ShotHead({ shot, words, thin = false, children }: { shot: ShotOnBench; words: string; thin?: boolean; children: ReactNode }) {
  const { undo, redo, shot: doc } = shot.state
  return (
    <header className={`flex shrink-0 items-center gap-2 border-b border-line bg-panel px-3 ${thin ? 'h-7' : 'h-10'}`}>
      <Link href="/shots" className="flex items-center gap-2 font-semibold text-accent" aria-label="Jugata: all shots">
        <Mark />
        <span className="text-text">Jugata</span>
      </Link>
      <span className="mx-1 text-line">|</span>
      <h1 className="truncate font-medium">{doc.name}</h1>
      <span className="whitespace-nowrap text-dim">{words}</span>
      <span className="figures whitespace-nowrap text-dim" data-saved={shot.saving ? 'no' : 'yes'} aria-live="polite">
        {shot.saving ? 'saving…' : `saved · revision ${shot.state.revision}`}
      </span>
      <span className="grow" />
      <Button look="quiet" aria-label="Undo" disabled={!undo || shot.saving} onClick={shot.undo} hint={<>Undo {undo?.toLowerCase()} <Key>Ctrl Z</Key></>}>
        <Line kind="back" /> Undo
      </Button>
      <Button look="quiet" aria-label="Redo" disabled={!redo || shot.saving} onClick={shot.redo} hint={<>Redo {redo?.toLowerCase()} <Key>Ctrl Shift Z</Key></>}>
        <Line kind="forth" /> Redo
      </Button>
      {children}
    </header>
  )
}
