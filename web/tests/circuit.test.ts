import { describe, expect, it } from 'vitest'
import {
  along,
  CHIP,
  depthOf,
  planOf,
  pointAlong,
  segments,
  serpentine,
  severityAt,
  severityText,
  VIEW,
  type Shape,
} from '@/shared/circuit/circuit'

describe('the circuit picture', () => {
  it('lays shares end to end along the coil', () => {
    expect(
      segments([
        ['gas', 0.25],
        ['mix', 0.5],
        ['liquid', 1],
      ]),
    ).toEqual([
      { kind: 'gas', dasharray: '25 200', dashoffset: -0 },
      { kind: 'mix', dasharray: '50 200', dashoffset: -25 },
      { kind: 'liquid', dasharray: '25 200', dashoffset: -75 },
    ])
  })
  it('keeps empty parts, so that the picture can move, and none beyond the end', () => {
    expect(
      segments([
        ['boil', 1],
        ['gas', 1],
      ]).map((s) => s.dasharray),
    ).toEqual(['100 200', '0 200'])
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

const SHAPE: Shape = {
  metering: 'txv',
  application: 'air_conditioner',
  condenser: 'tube_and_fin',
  receiver: false,
  circuits: 1,
  refrigeration: false,
}
const SHAPES: Shape[] = [
  SHAPE,
  { ...SHAPE, condenser: 'microchannel' },
  { ...SHAPE, condenser: 'water_cooled' },
  { ...SHAPE, application: 'heat_pump_cooling' },
  { ...SHAPE, application: 'walk_in_cooler', receiver: true, refrigeration: true },
  { ...SHAPE, application: 'package_unit', circuits: 2 },
]

describe('the plan of a circuit', () => {
  it.each(SHAPES)('keeps every reading on the picture and no two usual ones on one another', (shape) => {
    const { spots } = planOf(shape)
    for (const { chip } of Object.values(spots)) {
      expect(chip.x).toBeGreaterThanOrEqual(0)
      expect(chip.x + CHIP.width).toBeLessThanOrEqual(VIEW.width)
      expect(chip.y + CHIP.height).toBeLessThanOrEqual(VIEW.height)
    }
    const water = shape.condenser === 'water_cooled'
    const there = Object.keys(spots).filter((id) =>
      water
        ? !['condenser_entering_air', 'condenser_leaving_air', 'condenser_bend'].includes(id)
        : !id.startsWith('water_'),
    )
    for (const a of there)
      for (const b of there) {
        const [p, q] = [spots[a]?.chip, spots[b]?.chip]
        if (a < b && p && q)
          expect(Math.abs(p.x - q.x) >= CHIP.width || Math.abs(p.y - q.y) >= CHIP.height, `${a} and ${b}`).toBe(true)
      }
  })
  it('has a mark for every place the server knows', () => {
    expect(Object.keys(planOf(SHAPE).marks).sort()).toEqual([
      'charge',
      'compressor',
      'condenser',
      'condenser_air',
      'device',
      'drier',
      'evaporator',
      'evaporator_air',
      'gauges',
      'liquid_clamp',
      'liquid_line',
      'reversing_valve',
      'suction_clamp',
      'suction_line',
      'supply',
    ])
  })
  it('hangs a receiver under the condenser', () => {
    expect(planOf({ ...SHAPE, receiver: true }).liquid).not.toBe(planOf(SHAPE).liquid)
  })
})

describe('the severity slider', () => {
  it('runs from normal to worst whichever way the unit runs', () => {
    expect(severityAt(0, 100, 55)).toBe(100)
    expect(severityAt(100, 100, 55)).toBe(55)
    expect(severityAt(50, 0, 400)).toBe(200)
    expect(depthOf(severityAt(40, 100, 150), 100, 150)).toBe(40)
  })
})

describe('a severity', () => {
  it('is shown in the units of the page and stays what it is', () => {
    const psi = { unit: 'psi', unit_si: 'kPa', si_size: 6.894757 }
    expect([severityText(psi, 160, 'us'), severityText(psi, 160, 'si')]).toEqual(['160 psi', '1103 kPa'])
    expect(severityText({ unit: '%', unit_si: '%', si_size: 1 }, 80.5, 'si')).toBe('80.5 %')
    expect(severityText({ unit: '°F', unit_si: 'K', si_size: 1 / 1.8 }, 16, 'si')).toBe('8.9 K')
  })
})

describe('a figure bar', () => {
  it('holds a value at the ends of its scale', () => {
    expect([along(-50, 0, 40), along(10, 0, 40), along(90, 0, 40)]).toEqual([0, 25, 100])
  })
})
