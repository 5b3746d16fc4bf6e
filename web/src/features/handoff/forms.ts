import type { FileForm, Format, Packing, With } from '../../api/types'

/** Kinds of file, each with the samples that it may hold, the first of them to begin with. */
export const FILES: { value: string; label: string; samples: { value: Format; label: string; about: string; depth: string; data: string }[] }[] = [
  {
    value: 'exr',
    label: 'EXR',
    samples: [
      { value: 'exr_float', label: '32-bit float', about: 'Scene-linear, premultiplied, with what lies beyond the frame. Nothing is lost.', depth: 'Z in scene units; nothing is infinity.', data: 'Canonical values, channels named by the role.' },
      { value: 'exr_half', label: '16-bit float', about: 'Scene-linear, premultiplied, with what lies beyond the frame; three digits of each value.', depth: 'Z in scene units, rounded; nothing is infinity.', data: 'Canonical values, rounded.' },
    ],
  },
  {
    value: 'png',
    label: 'PNG',
    samples: [
      { value: 'png16', label: '16 bits', about: 'sRGB, straight alpha. Values above 1 are clipped.', depth: 'Grey, the nearest is white.', data: 'Normals as colours (½, ½, 1 faces you), other data only where it is 0..1.' },
      { value: 'png8', label: '8 bits', about: 'sRGB, straight alpha. Values above 1 are clipped.', depth: 'Grey, the nearest is white, in 255 steps.', data: 'Normals as colours, in steps of half a degree; other data only where it is 0..1.' },
    ],
  },
  {
    value: 'tif',
    label: 'TIFF',
    samples: [
      { value: 'tiff_float', label: '32-bit float', about: 'Scene-linear, premultiplied. Nothing is lost.', depth: 'Scene units; nothing is infinity.', data: 'Canonical values.' },
      { value: 'tiff16', label: '16 bits', about: 'sRGB, straight alpha. Values above 1 are clipped.', depth: 'Grey, the nearest is white.', data: 'Normals as colours (½, ½, 1 faces you), other data only where it is 0..1.' },
    ],
  },
  {
    value: 'jpg',
    label: 'JPEG',
    samples: [{ value: 'jpeg', label: '8 bits', about: 'A proof to look at: sRGB, over black, without alpha.', depth: 'A proof: grey, the nearest is white.', data: 'A proof.' }],
  },
]

export const PACKINGS: { value: Packing; label: string }[] = [
  { value: 'zip', label: 'Deflate, 16 lines at a time' },
  { value: 'zip_line', label: 'Deflate, line by line' },
  { value: 'piz', label: 'Wavelets (PIZ)' },
  { value: 'runs', label: 'Runs (RLE)' },
  { value: 'plain', label: 'Not at all' },
]

export const WITHS: { value: With; label: string; hint: string }[] = [
  { value: 'untouched', label: 'Untouched', hint: 'Each element before its steps' },
  { value: 'passes', label: 'Passes', hint: 'Each pass, stored or extracted, as it was rendered: steps that move the picture do not move it' },
  { value: 'mattes', label: 'Mattes', hint: 'Each matte that has a name' },
  { value: 'lights', label: 'Lights', hint: 'What each lamp and each light step gives to the result, and the rest: added up they are the result' },
]

/** The kind of file and the samples of a form. */
export function fileOf(form: FileForm) {
  const file = FILES.find((f) => f.samples.some((s) => s.value === form.format)) ?? FILES[0]
  const samples = file?.samples.find((s) => s.value === form.format)
  return { file, samples }
}
