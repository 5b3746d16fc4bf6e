import type { Role } from '../../api/types'

/** Roles with their words, in the order of the tray. */
export const ROLES: { value: Role; label: string }[] = [
  { value: 'beauty', label: 'beauty' },
  { value: 'alpha', label: 'alpha' },
  { value: 'depth', label: 'depth' },
  { value: 'normal', label: 'normals' },
  { value: 'position', label: 'position' },
  { value: 'rest', label: 'rest position' },
  { value: 'uv', label: 'UV' },
  { value: 'motion', label: 'motion' },
  { value: 'object_id', label: 'object ID' },
  { value: 'hashed_id', label: 'hashed IDs' },
  { value: 'albedo', label: 'albedo' },
  { value: 'diffuse', label: 'diffuse light' },
  { value: 'clay', label: 'clay' },
  { value: 'shadow', label: 'shadow' },
  { value: 'height', label: 'height' },
  { value: 'st_map', label: 'ST map' },
  { value: 'other', label: 'other' },
]
