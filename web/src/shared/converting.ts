/** What somebody typed, carried over when the units of the screen change: numbers are converted, words stay. */
import type { Units } from './kept'

/** Unit in US -> what a number of it is multiplied by for SI, after taking off the zero. */
const FACTORS: Record<string, readonly [factor: number, zero: number]> = {
  psig: [6.894757, 0],
  '°F': [1 / 1.8, 32],
  'Δ°F': [1 / 1.8, 0],
  'Btu/h': [0.000293071, 0],
  oz: [28.349523, 0],
  'oz/ft': [93.01, 0],
  cfm: [0.4719474, 0],
  ft: [0.3048, 0],
}
const NUMBER = /[-−]?\d+(?:[.,]\d+)?/g
const MOST_DECIMALS = 4

const decimals = (text: string) => text.split(/[.,]/)[1]?.length ?? 0
const plain = (text: string) => Number(text.replace(',', '.').replace('−', '-'))

/** One number in the other system, with as few decimals as still lead back to what was typed; degrees
 * Celsius to the tenth. */
function one(text: string, unit: string, to: Units): string {
  const [factor, zero] = FACTORS[unit] ?? [1, 0]
  const there = (v: number, system: Units) => (system === 'si' ? (v - zero) * factor : v / factor + zero)
  const value = there(plain(text), to)
  const back = to === 'si' ? 'us' : 'si'
  for (let n = to === 'si' && unit.endsWith('°F') ? 1 : 0; n < MOST_DECIMALS; n++) {
    const short = Number(value.toFixed(n))
    if (there(short, back).toFixed(decimals(text)) === plain(text).toFixed(decimals(text))) return String(short)
  }
  return String(Number(value.toFixed(MOST_DECIMALS)))
}

/** A field's text in the other system; what names its own unit ("8.1 bar", "78°F") is left as it stands. */
export function carried(text: string, unit: string, to: Units): string {
  if (!(unit in FACTORS) || /[a-zA-Z°'"/]/.test(text.replace(/\bto\b/g, ''))) return text
  return text.replace(NUMBER, (found, at: number) => {
    // the dash of "92-98" is no sign
    const sign = /[-−]/.test(found[0] ?? '') && /\d\s*$/.test(text.slice(0, at))
    return sign ? found[0] + one(found.slice(1), unit, to) : one(found, unit, to)
  })
}
