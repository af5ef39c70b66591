/** Pure geometry of the circuit picture. The server says how full; this says where. */

export interface Segment { kind: string; dasharray: string; dashoffset: number }

/** Serpentine of `rows` passes in a box, from the first corner on; `up` starts at the bottom. */
export function serpentine(x: number, y: number, width: number, height: number, rows: number, up: boolean): string {
  const step = height / (rows - 1)
  const parts: string[] = []
  for (let i = 0; i < rows; i++) {
    const rowY = up ? y + height - i * step : y + i * step
    const [from, to] = i % 2 === 0 ? [x, x + width] : [x + width, x]
    parts.push(`${i === 0 ? 'M' : 'L'}${from} ${rowY}`, `L${to} ${rowY}`)
  }
  return parts.join('')
}

/** The point at `share` (0..1) of the length of the same serpentine. */
export function pointAlong(x: number, y: number, width: number, height: number, rows: number, up: boolean, share: number): { x: number; y: number } {
  const step = height / (rows - 1)
  let left = Math.min(Math.max(share, 0), 1) * (rows * width + height)
  for (let i = 0; i < rows; i++) {
    const rowY = up ? y + height - i * step : y + i * step
    const forth = i % 2 === 0
    if (left <= width || i === rows - 1) return { x: forth ? x + Math.min(left, width) : x + width - Math.min(left, width), y: rowY }
    left -= width
    if (left <= step) return { x: forth ? x + width : x, y: up ? rowY - left : rowY + left }
    left -= step
  }
  return { x, y }
}

/** Lengths along a path of length 100, as dash patterns, in order. Shares are held between 0 and 1. */
export function segments(shares: [string, number][]): Segment[] {
  let at = 0
  return shares.map(([kind, share]) => {
    const room = Math.round(1000 * Math.min(Math.max(share, 0), 1 - at / 100))
    const length = room / 10
    const made = { kind, dasharray: `${length} 200`, dashoffset: -at }
    at += length
    return made
  }).filter((part) => !part.dasharray.startsWith('0 '))
}

/** Where a value sits on a bar, in per cent, held at the ends. */
export function along(value: number, low: number, high: number): number {
  return 100 * Math.min(Math.max((value - low) / (high - low), 0), 1)
}

/** A slider runs 0 (sound) to 100 (worst); severities run either way in their own unit. */
export function severityAt(depth: number, sound: number, limit: number): number {
  return Math.round((sound + ((limit - sound) * depth) / 100) * 10) / 10
}

export function depthOf(severity: number, sound: number, limit: number): number {
  return (100 * (severity - sound)) / (limit - sound)
}
