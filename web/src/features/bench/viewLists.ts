import type { Backdrop, Planes, Role, Showing, Transform } from '../../api/types'

interface Listed<T> {
  value: T
  label: string
}

interface Shown extends Listed<Showing> {
  /** What there is to know of it, beside the name of the pass. */
  legend?: string
}

/** The ways to show a pass beside its plain one, by its role. */
export const SHOWINGS: Partial<Record<Role, Shown[]>> = {
  depth: [{ value: 'usual', label: 'grey, near white' }, { value: 'bands', label: 'bands' }, { value: 'false_colour', label: 'false colour' }],
  normal: [{ value: 'usual', label: 'colour' }, { value: 'lit', label: 'lit clay' }],
  uv: [{ value: 'usual', label: 'colour' }, { value: 'checker', label: 'checker' }],
  motion: [{ value: 'usual', label: 'colour' }, { value: 'wheel', label: 'wheel of hues' }, { value: 'arrows', label: 'arrows', legend: 'to where each place goes' }],
  st_map: [
    { value: 'usual', label: 'colour' },
    { value: 'grid', label: 'displaced grid', legend: 'where straight lines come to lie' },
    { value: 'arrows', label: 'arrows', legend: 'to where each place comes from' },
    { value: 'stretch', label: 'stretch and folds', legend: 'light where it magnifies, dark where it squeezes, copper where it folds' },
  ],
}

/** Which planes are shown. */
export const PLANES: Listed<Planes>[] = [
  { value: 'all', label: 'All' },
  { value: 'first', label: 'Red · x · u' },
  { value: 'second', label: 'Green · y · v' },
  { value: 'third', label: 'Blue · z' },
  { value: 'fourth', label: 'Alpha' },
  { value: 'luminance', label: 'Luminance' },
]

/** From linear light to the screen. */
export const TRANSFORMS: Listed<Transform>[] = [
  { value: 'srgb', label: 'sRGB' },
  { value: 'rec709', label: 'Rec.709 (BT.1886)' },
  { value: 'neutral', label: 'Neutral roll-off' },
  { value: 'raw', label: 'None' },
]

/** What lies behind a picture with alpha. */
export const BACKDROPS: Listed<Backdrop>[] = [
  { value: 'grey', label: 'Grey' },
  { value: 'black', label: 'Black' },
  { value: 'white', label: 'White' },
  { value: 'checker', label: 'Checker' },
  { value: 'loud', label: 'Loud' },
]
