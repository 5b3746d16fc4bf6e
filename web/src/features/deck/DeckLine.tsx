import { useQuery } from '@tanstack/react-query'
import { kindsQuery } from '../../api/queries'
import type { Element, Step } from '../../api/types'
import { Button, Key } from '../../ui/Button'
import { NumberField } from '../../ui/NumberField'
import { Hint } from '../../ui/Hint'
import { useRoom } from '../bench/room'
import { useSentences } from '../bench/useSentences'
import { useLiveStep, withStep, type ShotOnBench } from '../bench/useShot'
import { plays, words } from './controls'

/** Numbers that the line has room for. */
const MOST = 3

/** The deck, folded: the step's sentence, and its first numbers to drag. */
export function DeckLine({ shot, element, step: kept }: { shot: ShotOnBench; element: Element; step: Step }) {
  const { step } = useLiveStep(shot, element, kept, (s) => [s])
  const sentences = useSentences(shot)
  const info = useQuery(kindsQuery).data?.find((k) => k.kind === step.does.kind)
  const fold = useRoom((r) => r.fold)
  const sentence = sentences.find((s) => s.element === element.id && s.step === step.id)?.text ?? ''
  const values = step.does as Record<string, unknown>
  const defaults = (info?.defaults ?? {}) as Record<string, unknown>
  const numbers = Object.entries(info?.schema.properties ?? {})
    .filter(([name, s]) => typeof values[name] === 'number' && plays(s, values))
    .slice(0, MOST)
  const put = (name: string, v: number) => withStep(shot.doc, element.id, step.id, (s) => ({ ...s, does: { ...s.does, [name]: v } }))
  const strength = (v: number) => withStep(shot.doc, element.id, step.id, (s) => ({ ...s, joins: { ...s.joins, strength: v / 100 } }))
  return (
    <div className="flex h-9 shrink-0 items-center gap-3 overflow-hidden border-t border-line bg-panel px-3" aria-label="Deck" role="region" data-deck-line>
      <Hint text={sentence}>
        <span className="min-w-0 grow truncate">
          {sentence}
        </span>
      </Hint>
      <span className="flex shrink-0 items-center gap-3 [&_label>span:first-child]:w-auto">
        {numbers.map(([name, s]) => (
          <NumberField
            key={name}
            label={s['x-label'] ?? words(name)}
            value={values[name] as number}
            unit={s['x-unit']}
            step={s['x-step'] ?? 0.01}
            reset={defaults[name] as number}
            slider={s['x-slider']}
            hint={s.description}
            onPreview={(v) => shot.preview(put(name, v))}
            onCommit={(v) => shot.commit(`Set ${(s['x-label'] ?? name).toLowerCase()}`, put(name, v))}
          />
        ))}
        <NumberField label="Strength" value={step.joins.strength * 100} unit="%" step={1} reset={100} slider={[0, 100]} min={0} max={1000} onPreview={(v) => shot.preview(strength(v))} onCommit={(v) => shot.commit('Set strength', strength(v))} />
      </span>
      <Button look="quiet" onClick={() => fold('deck')} hint={<>All of its controls <Key>D</Key></>}>
        Open
      </Button>
    </div>
  )
}
