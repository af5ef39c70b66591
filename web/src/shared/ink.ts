/** The colors of pictures, and numbers at their axes. */
/** A number at an axis, without what the reckoning of its ticks leaves behind. */
export const atAxis = (v: number): string => String(Number(v.toFixed(4))).replace('-', '−')
export const INK = {
  ink: '#1d1b26',
  soft: '#4f4b5c',
  line: '#e6e1d6',
  violet: '#4b3a8c',
  low: '#1f5fae',
  high: '#b3261e',
  amber: '#9a5b00',
  white: '#fff',
  card: '#fffdf9',
  gray: '#8b8799',
  faint: '#a9a3bd',
  tint: '#c3b8e6',
} as const
