import type { Role } from '../../api/types'

/** Roles with their words, in the order of the tray. */
export const ROLES: [Role, string][] = [
  ['beauty', 'beauty'],
  ['alpha', 'alpha'],
  ['depth', 'depth'],
  ['normal', 'normals'],
  ['position', 'position'],
  ['rest', 'rest position'],
  ['uv', 'UV'],
  ['motion', 'motion'],
  ['object_id', 'object ID'],
  ['hashed_id', 'hashed IDs'],
  ['albedo', 'albedo'],
  ['clay', 'clay'],
  ['shadow', 'shadow'],
  ['height', 'height'],
  ['st_map', 'ST map'],
  ['other', 'other'],
]
