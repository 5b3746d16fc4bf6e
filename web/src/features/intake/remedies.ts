import { api } from '../../api/client'
import type { FindingSaid, Pass, Repair, Shot } from '../../api/types'
import { withElement, type ShotOnBench } from '../bench/useShot'

/** Confidence from which remedies are offered together. */
export const SURE = 0.9

/** Findings that nobody has left as they are. */
export const open = (findings: FindingSaid[]) => findings.filter((f) => !f.accepted)

/** The document with one pass changed. */
export const withPass = (doc: Shot, element: number, pass: number, change: (p: Pass) => Pass): Shot =>
  withElement(doc, element, (e) => ({ ...e, passes: e.passes.map((p) => (p.id === pass ? change(p) : p)) }))

/** Takes the remedies of some findings, in one edit. */
export function takeRemedies(shot: ShotOnBench, element: number, label: string, findings: FindingSaid[]) {
  const frame = shot.doc.frames?.first ?? 0
  const chosen = findings.map(({ pass, kind }) => ({ pass, kind }))
  shot.change((base) => api.takeRemedies(shot.id, { base, label, element, frame, findings: chosen }))
}

/** What a repair has done, in words. */
export const REPAIRED: Record<Repair['kind'], string> = {
  fill: 'Holes are filled from around',
  snap_edges: 'Edges are snapped to a surface',
  shift: 'It is moved',
  fit: 'It is stretched to the frame',
  flip_rows: 'It is turned upside down',
  divide_by_alpha: 'It is divided by alpha',
}
