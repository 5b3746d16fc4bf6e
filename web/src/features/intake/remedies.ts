import type { FindingSaid, Pass, Shot } from '../../api/types'
import { withElement } from '../bench/useShot'

/** Confidence from which remedies are offered together. */
export const SURE = 0.9

/** Findings that nobody has left as they are. */
export const open = (findings: FindingSaid[]) => findings.filter((f) => !f.accepted)

/** The document with one pass changed. */
export const withPass = (doc: Shot, element: number, pass: number, change: (p: Pass) => Pass): Shot =>
  withElement(doc, element, (e) => ({ ...e, passes: e.passes.map((p) => (p.id === pass ? change(p) : p)) }))

/** A pass after a finding's remedy. */
function remedy(pass: Pass, finding: FindingSaid): Pass {
  switch (finding.remedy?.kind) {
    case 'convention':
      return { ...pass, convention: finding.remedy.convention }
    case 'repair':
      return { ...pass, repairs: [...(pass.repairs ?? []), finding.remedy.repair] }
    default:
      return pass
  }
}

/** The document after the remedies of some findings; of those that change a convention one for each pass, the surest. */
export function remedied(doc: Shot, element: number, findings: FindingSaid[]): Shot {
  const done = new Set<number>()
  let out = doc
  for (const f of findings) {
    if (f.remedy?.kind === 'convention') {
      // A second convention was proposed on top of the old one, and would take the first back.
      if (done.has(f.pass)) continue
      done.add(f.pass)
    }
    out = withPass(out, element, f.pass, (p) => remedy(p, f))
  }
  return out
}
