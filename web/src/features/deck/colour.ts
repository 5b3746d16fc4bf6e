import type { Triple } from '../bench/geometry'

/** The browser's colour field speaks 8-bit sRGB; documents hold linear light (IEC 61966-2-1). */
const decode = (v: number) => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4)
const encode = (v: number) => (v <= 0.0031308 ? v * 12.92 : 1.055 * v ** (1 / 2.4) - 0.055)

export function linearOf(hex: string): Triple {
  const part = (at: number) => Number(decode(parseInt(hex.slice(at, at + 2), 16) / 255).toFixed(5))
  return [part(1), part(3), part(5)]
}

export function hexOf(rgb: Triple): string {
  const code = (v: number) => Math.round(255 * encode(Math.min(1, Math.max(0, v)))).toString(16).padStart(2, '0')
  return `#${rgb.map(code).join('')}`
}
