import { describe, expect, it } from 'vitest'
import { along, depthOf, pointAlong, segments, serpentine, severityAt } from '@/features/bench/circuit'

describe('the circuit picture', () => {
  it('lays shares end to end along the coil', () => {
    expect(segments([['gas', 0.25], ['mix', 0.5], ['liquid', 1]])).toEqual([
      { kind: 'gas', dasharray: '25 200', dashoffset: -0 },
      { kind: 'mix', dasharray: '50 200', dashoffset: -25 },
      { kind: 'liquid', dasharray: '25 200', dashoffset: -75 },
    ])
  })
  it('draws no part that is empty and none beyond the end', () => {
    expect(segments([['boil', 1], ['gas', 1]]).map((s) => s.kind)).toEqual(['boil'])
    expect(segments([['boil', 1.4]])[0]?.dasharray).toBe('100 200')
  })
  it('starts a coil at the bottom where the liquid comes in', () => {
    expect(serpentine(0, 0, 10, 20, 3, true)).toBe('M0 20L10 20L10 10L0 10L0 0L10 0')
    expect(serpentine(0, 0, 10, 20, 3, false).startsWith('M0 0')).toBe(true)
  })
  it('finds the point at a share of the length', () => {
    expect(pointAlong(0, 0, 10, 20, 3, true, 0)).toEqual({ x: 0, y: 20 })
    expect(pointAlong(0, 0, 10, 20, 3, true, 1)).toEqual({ x: 10, y: 0 })
    expect(pointAlong(0, 0, 10, 20, 3, true, 0.3)).toEqual({ x: 10, y: 15 })
    expect(pointAlong(0, 0, 10, 20, 3, false, 0.5)).toEqual({ x: 5, y: 10 })
  })
})

describe('the severity slider', () => {
  it('runs from sound to worst whichever way the unit runs', () => {
    expect(severityAt(0, 100, 55)).toBe(100)
    expect(severityAt(100, 100, 55)).toBe(55)
    expect(severityAt(50, 0, 400)).toBe(200)
    expect(depthOf(severityAt(40, 100, 150), 100, 150)).toBe(40)
  })
})

describe('a figure bar', () => {
  it('holds a value at the ends of its scale', () => {
    expect([along(-50, 0, 40), along(10, 0, 40), along(90, 0, 40)]).toEqual([0, 25, 100])
  })
})
