import { useQuery } from '@tanstack/react-query'
import { picturePath } from '../../api/client'
import { conventionsQuery } from '../../api/queries'
import type { Convention, Element, Field, FindingSaid, Pass, PassFacts, Role } from '../../api/types'
import { PLAIN } from '../../api/view'
import { RoleGlyph } from '../../ui/glyphs'
import { Hint } from '../../ui/Hint'
import { Select } from '../../ui/Select'
import type { ShotOnBench } from '../bench/useShot'
import { dragged } from './dragging'
import { open, REPAIRED, withPass } from './remedies'
import { ROLES } from './roles'

interface Props {
  shot: ShotOnBench
  element: Element
  pass: Pass
  facts: PassFacts | undefined
  findings: FindingSaid[]
  chosen: boolean
  choose: () => void
}

const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b)

/** Whether a field matters for a pass as it is read now. */
export function matters(f: Field, role: Role, c: Convention): boolean {
  if (!f.roles.includes(role)) return false
  if (!f.only_with) return true
  const [other, values] = f.only_with
  return values.some((v) => same(v, c[other as keyof Convention]))
}

const short = (v: number) => Number(v.toPrecision(5)).toString()

/** How a pass is read, in a few words. */
export function reading(fields: Field[], pass: Pass): string {
  const words = fields
    .filter((f) => matters(f, pass.role, pass.convention))
    .flatMap((f) => {
      const value = pass.convention[f.key as keyof Convention]
      const label = f.choices.find((c) => same(c.value, value))?.label
      if (f.choices.length === 0 && value === null) return []
      if (f.choices.length === 0) return f.key === 'unit' && value === 1 ? [] : [`${f.label.toLowerCase()} ${short(Number(value))}`]
      // What is as it should be goes without saying, but for the first: something has to be said.
      return f.key === 'curve' && value === 'none' ? [] : [label ?? (Array.isArray(value) ? value.join(' ') : String(value))]
    })
  return [...words, ...(pass.repairs ?? []).map((r) => REPAIRED[r.kind].toLowerCase())].join(' · ')
}

/** A pass in the table. */
export function PassRow({ shot, element, pass, facts, findings, chosen, choose }: Props) {
  const fields = useQuery(conventionsQuery).data ?? []
  const waiting = open(findings)
  const look = { target: { kind: 'pass' as const, element: element.id, pass: pass.id }, scale: 3, window: null, view: { ...PLAIN, backdrop: 'grey' as const }, viewer: null }
  return (
    <tr
      data-pass={pass.role}
      data-findings={waiting.map((f) => f.kind).join(' ')}
      className={`cursor-default border-t border-line align-middle [&>td]:px-2 [&>td]:py-1 ${chosen ? 'bg-accent-ground' : 'hover:bg-raised'}`}
      onClick={choose}
      {...dragged(element.id, pass.id)}
    >
      <td className="!pl-4">
        <button type="button" onClick={choose} aria-pressed={chosen} className={`block overflow-hidden rounded-tile border ${chosen ? 'border-accent' : 'border-line'}`}>
          <img draggable={false} src={picturePath(shot.id, shot.state.revision, look)} alt={`Picture of ${pass.name}`} className="h-[45px] w-20 bg-pane object-cover" />
        </button>
      </td>
      <td className="max-w-[180px]">
        <Hint text={pass.name}>
          <span className="block truncate font-medium">
            {pass.name}
          </span>
        </Hint>
        <Hint text={`${pass.source.file}: ${pass.source.channels.join(' ')}`}>
          <span className="figures block truncate text-[11px] text-dim">
            {facts?.stored}
          </span>
        </Hint>
      </td>
      <td>
        <Hint text={facts?.why ? `Proposed: ${facts.why}` : undefined}>
          {/* A list that opens stands elsewhere on the page, and yet its clicks come by here. */}
          <label className="flex items-center gap-1.5" onClick={(e) => e.stopPropagation()}>
            <RoleGlyph role={pass.role} />
            <Select
              className="w-full min-w-0"
              label={`What ${pass.name} is`}
              name="role"
              value={pass.role}
              options={ROLES}
              onChange={(role) => shot.commit(`Call ${pass.name} ${ROLES.find((o) => o.value === role)?.label ?? ''}`, withPass(shot.doc, element.id, pass.id, (p) => ({ ...p, role })))}
            />
          </label>
        </Hint>
      </td>
      <td className="text-[12px] text-dim" data-reading>
        {reading(fields, pass) || '–'}
      </td>
      <td>
        {waiting.length === 0 ? (
          <span className="text-dim">–</span>
        ) : (
          waiting.map((f) => (
            <span key={f.kind} className="mr-1 mb-0.5 inline-block rounded-tile border border-warn px-1.5 text-[11px] text-warn">
              {f.title}
            </span>
          ))
        )}
      </td>
    </tr>
  )
}
