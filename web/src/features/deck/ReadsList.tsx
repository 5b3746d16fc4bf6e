import type { Element, Reads, ReadsPass, Role } from '../../api/types'
import { RoleGlyph } from '../../ui/glyphs'
import { servingOf, type PassOf } from '../bench/passes'

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
        const derived =
          (r.role === 'position' && element.camera !== null && passes.some((p) => p.role === 'depth') && 'position, from depth') ||
          (r.role === 'alpha' && passes.some((p) => p.role === 'beauty') && "the picture's alpha")
        const words = pass?.name ?? (derived || (r.required ? `no ${r.role}: needed` : `no ${r.role}`))
        return (
          <li key={r.role} className={`flex items-center gap-1.5 ${pass || derived ? '' : r.required ? 'text-warn' : 'text-dim'}`}>
            <RoleGlyph role={r.role} />
            {several.length > 1 ? (
              <select
                className="h-6 min-w-0 grow rounded-tile border border-line bg-ground px-1"
                aria-label={`Which ${r.role} is read`}
                value={chosen.find((c) => c.role === r.role && several.some((p) => p.id === c.pass))?.pass ?? ''}
                onChange={(e) => choose(r.role, e.target.value === '' ? null : Number(e.target.value))}
              >
                <option value="">{servingOf(passes, r.role)?.name} (default)</option>
                {several.map((p) => (
                  <option key={p.id} value={p.id}>
                    {p.name}
                  </option>
                ))}
              </select>
            ) : (
              <span className="truncate">{words}</span>
            )}
          </li>
        )
      })}
    </>
  )
}
