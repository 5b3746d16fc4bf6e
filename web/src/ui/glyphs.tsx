import type { Role } from '../api/types'

/** Outline drawings for roles: a shape for each meaning, never a colour code. */
const ROLE_PATHS: Record<Role, string> = {
  beauty: 'M2 13V3h12v10zM2 11l4-4 3 3 2-2 3 3',
  alpha: 'M8 2a6 6 0 1 0 0 12zM8 2a6 6 0 0 1 0 12',
  depth: 'M2 13h12M4 10h8M6 7h4M7 4h2',
  normal: 'M2 12q6-5 12 0M8 9.5V2M8 2l-2 3M8 2l2 3',
  position: 'M8 8V2M8 8l6 3M8 8l-6 3M8 8h.01',
  rest: 'M8 8V3M8 8l5 3M8 8l-5 3M2 14h12',
  uv: 'M2 2h12v12H2zM2 8h12M8 2v12',
  motion: 'M2 11h8M7 8l3 3-3 3M2 5h11M10 2l3 3-3 3',
  object_id: 'M2 9h5v5H2zM12 2a3 3 0 1 0 .01 0M9 14l3-5 2.5 5z',
  hashed_id: 'M2 9h5v5H2zM12 2a3 3 0 1 0 .01 0M9 14l3-5 2.5 5zM3 2v4M5.5 2v4M2 3.3h5M2 5h5',
  albedo: 'M8 2q5 6 5 8a5 5 0 0 1-10 0q0-2 5-8z',
  diffuse: 'M2 13h12M8 13V9M5 11L3 7M11 11l2-4M8 6V2',
  clay: 'M8 2a6 6 0 1 0 .01 0M4 10q4 3 8 0',
  shadow: 'M6 2a4 4 0 1 0 .01 0M5 14q6 1 9-4',
  height: 'M1 13l4-7 3 4 2-3 5 6z',
  st_map: 'M2 4q6-3 12 0v9q-6-3-12 0zM2 8q6-3 12 0M8 3v9',
  other: 'M4 8h.01M8 8h.01M12 8h.01',
}

export function RoleGlyph({ role }: { role: Role }) {
  return (
    <svg viewBox="0 0 16 16" className="size-3.5 shrink-0" fill="none" stroke="currentColor" strokeWidth="1.3" strokeLinejoin="round" strokeLinecap="round" aria-hidden>
      <path d={ROLE_PATHS[role]} />
    </svg>
  )
}

/** Two overlapping outlined discs, one offset behind the other. */
export function Mark() {
  return (
    <svg viewBox="0 0 24 24" className="size-5" fill="none" stroke="currentColor" strokeWidth="1.8" aria-hidden>
      <path d="M13.6 6.1A6.5 6.5 0 1 1 9.4 17.6" opacity="0.6" />
      <circle cx="9.5" cy="11.5" r="6.5" />
    </svg>
  )
}

const LINES = {
  up: 'M8 13V3M4 7l4-4 4 4',
  down: 'M8 3v10M4 9l4 4 4-4',
  twice: 'M2 2h8v8H2zM6 6h8v8H6z',
  keep: 'M4 2h8v12l-4-3-4 3z',
  remove: 'M3 5h10M6 5V3h4v2M5 5l.5 8h5l.5-8',
  back: 'M6 3L2 7l4 4M2 7h8a4 4 0 0 1 0 8',
  forth: 'M10 3l4 4-4 4M14 7H6a4 4 0 0 0 0 8',
} as const

export function Line({ kind }: { kind: keyof typeof LINES }) {
  return (
    <svg viewBox="0 0 16 16" className="size-3.5" fill="none" stroke="currentColor" strokeWidth="1.4" strokeLinecap="round" strokeLinejoin="round" aria-hidden>
      <path d={LINES[kind]} />
    </svg>
  )
}
