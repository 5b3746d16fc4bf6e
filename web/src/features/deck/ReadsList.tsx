import type { Element, Reads, ReadsPass, Role } from '../../api/types'
import { RoleGlyph } from '../../ui/glyphs'
import { Select } from '../../ui/Select'
import { derivedFor, servingOf, type PassOf } from '../bench/passes'

interface Props {
  element: Element
  /** The passes that may be read. */
  passes: PassOf[]
  reads: Reads[]
  chosen: ReadsPass[]
  onChoose: (chosen: ReadsPass[]) => void
}

/** What is read: for each role the pass, with a choice where there are several. */
export function ReadsList({ element, passes, reads, chosen, onChoose }: Props) {
  const choose = (role: Role, pass: number | null) => {
    const rest = chosen.filter((c) => c.role !== role)
    onChoose(pass === null ? rest : [...rest, { role, pass }])
  }
  return (
    <>
      {reads.map((r) => {
        const pass = servingOf(passes, r.role, chosen)
        const several = passes.filter((p) => p.role === r.role)
        const derived = derivedFor(element, passes, r.role)
        const words = pass?.name ?? (derived ?? (r.required ? `no ${r.role}: needed` : `no ${r.role}`))
        return (
          <li key={r.role} className={`flex items-center gap-1.5 ${pass || derived ? '' : r.required ? 'text-warn' : 'text-dim'}`}>
            <RoleGlyph role={r.role} />
            {several.length > 1 ? (
              <Select
                className="min-w-0 grow"
                label={`Which ${r.role} is read`}
                name={`reads-${r.role}`}
                value={String(chosen.find((c) => c.role === r.role && several.some((p) => p.id === c.pass))?.pass ?? '')}
                options={[{ value: '', label: `${servingOf(passes, r.role)?.name ?? ''} (default)` }, ...several.map((p) => ({ value: String(p.id), label: p.name }))]}
                onChange={(v) => choose(r.role, v === '' ? null : Number(v))}
              />
            ) : (
              <span className="truncate">{words}</span>
            )}
          </li>
        )
      })}
    </>
  )
}
