/** Pure geometry of the circuit picture. The server says how full; this says where. */

export interface Segment {
  kind: string
  dasharray: string
  dashoffset: number
}
export interface Point {
  x: number
  y: number
}
/** What a look at a machine tells of the shape of its circuit. */
export interface Shape {
  metering: string
  application: string
  condenser: string
  receiver: boolean
  circuits: number
  refrigeration: boolean
}
export type Serpentine = readonly [x: number, y: number, width: number, height: number, rows: number, up: boolean]
export interface Spot {
  probe: Point | null
  chip: Point
  side: 'low' | 'high' | 'air'
}
export interface Plan {
  evaporator: Serpentine
  condenser: Serpentine
  suction: string
  discharge: string
  liquid: string
  spots: Record<string, Spot>
  marks: Record<string, Point>
}

export const CHIP = { width: 76, height: 32 } as const
export const VIEW = { width: 722, height: 358 } as const

/** Serpentine of `rows` passes in a box, from the first corner on; `up` starts at the bottom. */
export function serpentine(x: number, y: number, width: number, height: number, rows: number, up: boolean): string {
  const step = height / (rows - 1)
  const parts: string[] = []
  for (let i = 0; i < rows; i++) {
    const rowY = round(up ? y + height - i * step : y + i * step)
    const [from, to] = i % 2 === 0 ? [x, x + width] : [x + width, x]
    parts.push(`${i === 0 ? 'M' : 'L'}${from} ${rowY}`, `L${to} ${rowY}`)
  }
  return parts.join('')
}

/** The point at `share` (0..1) of the length of the same serpentine. */
export function pointAlong(
  x: number,
  y: number,
  width: number,
  height: number,
  rows: number,
  up: boolean,
  share: number,
): Point {
  const step = height / (rows - 1)
  let left = Math.min(Math.max(share, 0), 1) * (rows * width + height)
  for (let i = 0; i < rows; i++) {
    const rowY = round(up ? y + height - i * step : y + i * step)
    const forth = i % 2 === 0
    if (left <= width || i === rows - 1)
      return { x: forth ? x + Math.min(left, width) : x + width - Math.min(left, width), y: rowY }
    left -= width
    if (left <= step) return { x: forth ? x + width : x, y: round(up ? rowY - left : rowY + left) }
    left -= step
  }
  return { x, y }
}

const round = (value: number) => Math.round(value * 100) / 100

/** Lengths along a path of length 100, as dash patterns, in order, empty ones as well so that a picture can move between states. */
export function segments(shares: [string, number][]): Segment[] {
  let at = 0
  return shares.map(([kind, share]) => {
    const room = Math.round(1000 * Math.min(Math.max(share, 0), 1 - at / 100))
    const length = room / 10
    const made = { kind, dasharray: `${length} 200`, dashoffset: -at }
    at += length
    return made
  })
}

const EVAPORATOR: Serpentine = [124, 92, 94, 154, 7, true]
const right = (y: number): Point => ({ x: 645, y })
const left = (y: number): Point => ({ x: 1, y })

/** Where everything stands for one machine. */
export function planOf(shape: Shape): Plan {
  const micro = shape.condenser === 'microchannel'
  const water = shape.condenser === 'water_cooled'
  const pump = shape.application.startsWith('heat_pump')
  const bottom = shape.receiver ? 222 : 240
  const condenser: Serpentine = [548, 84, 76, bottom - 84, micro ? 12 : 8, false]
  const suction = pump ? 'M218 92H330V206H490V188M478 177H462V262H488' : 'M218 92H330V262H488'
  const discharge = pump ? 'M508 226V188M508 166V60H548V84' : 'M508 226V60H548V84'
  const liquid = shape.receiver
    ? `M548 ${bottom}V238H584V250M584 296V312H104V246H124`
    : `M548 ${bottom}V312H104V246H124`
  const spots: Record<string, Spot> = {
    return_db: { probe: null, chip: left(96), side: 'air' },
    return_wb: { probe: null, chip: left(132), side: 'air' },
    supply_db: { probe: null, chip: { x: 128, y: 42 }, side: 'air' },
    suction_line: pump
      ? { probe: { x: 462, y: 236 }, chip: { x: 372, y: 220 }, side: 'low' }
      : { probe: { x: 446, y: 262 }, chip: { x: 370, y: 218 }, side: 'low' },
    discharge_line: { probe: { x: 508, y: 126 }, chip: { x: 388, y: 110 }, side: 'high' },
    liquid_line: { probe: { x: 470, y: 312 }, chip: { x: 432, y: 322 }, side: 'high' },
    drier_out: { probe: { x: 250, y: 312 }, chip: { x: 212, y: 322 }, side: 'high' },
    outdoor_db: { probe: null, chip: right(water ? 148 : 118), side: 'air' },
    evaporator_inlet: { probe: { x: 124, y: 246 }, chip: { x: 134, y: 260 }, side: 'low' },
    evaporator_outlet: { probe: { x: 236, y: 92 }, chip: { x: 251, y: 102 }, side: 'low' },
    condenser_inlet: { probe: { x: 524, y: 60 }, chip: { x: 388, y: 44 }, side: 'high' },
    condenser_bend: { probe: { x: 624, y: round(84 + (bottom - 84) * 0.43) }, chip: right(206), side: 'high' },
    condenser_outlet: { probe: { x: 548, y: bottom }, chip: right(243), side: 'high' },
    suction_before_valve: { probe: { x: 420, y: 206 }, chip: { x: 344, y: 160 }, side: 'low' },
    mixed_air: { probe: null, chip: left(228), side: 'air' },
    supply_high: { probe: null, chip: { x: 251, y: 2 }, side: 'air' },
    supply_low: { probe: null, chip: { x: 251, y: 36 }, side: 'air' },
    condenser_entering_air: { probe: null, chip: right(82), side: 'air' },
    condenser_leaving_air: { probe: null, chip: right(4), side: 'air' },
    water_in: { probe: { x: 632, y: bottom }, chip: right(206), side: 'air' },
    water_out: { probe: { x: 632, y: 84 }, chip: right(68), side: 'air' },
    compressor_amps: { probe: { x: 508, y: 286 }, chip: { x: 514, y: 322 }, side: 'air' },
    airflow: { probe: null, chip: left(264), side: 'air' },
    static: { probe: null, chip: left(300), side: 'air' },
  }
  if (water) spots.condenser_outlet = { ...(spots.condenser_outlet as Spot), chip: right(243) }
  const marks: Record<string, Point> = {
    evaporator_air: { x: 84, y: 178 },
    supply: { x: 214, y: 56 },
    evaporator: { x: 171, y: 170 },
    condenser_air: { x: 640, y: 176 },
    condenser: { x: 586, y: 156 },
    compressor: { x: 508, y: 258 },
    reversing_valve: { x: 508, y: 177 },
    suction_line: { x: 330, y: 180 },
    drier: { x: 352, y: 312 },
    liquid_line: { x: 400, y: 312 },
    device: { x: 104, y: 284 },
    charge: { x: 546, y: 296 },
    gauges: { x: 470, y: 262 },
    suction_clamp: { x: 446, y: 262 },
    liquid_clamp: { x: 470, y: 312 },
  }
  return { evaporator: EVAPORATOR, condenser, suction, discharge, liquid, spots, marks }
}

/** Where a value sits on a bar, in per cent, held at the ends. */
export function along(value: number, low: number, high: number): number {
  return 100 * Math.min(Math.max((value - low) / (high - low), 0), 1)
}

/** A severity with its unit in the system that is shown; what the server said of the unit decides. */
export function severityText(
  kind: { unit: string | null; unit_si: string | null; si_size: number },
  severity: number,
  system: 'us' | 'si',
): string {
  if (system === 'us' || kind.si_size === 1) return `${severity} ${kind.unit ?? ''}`
  const value = severity * kind.si_size
  return `${Math.abs(value) < 30 ? Math.round(value * 10) / 10 : Math.round(value)} ${kind.unit_si ?? ''}`
}

/** A slider runs 0 (normal) to 100 (worst); severities run either way in their own unit. */
export function severityAt(depth: number, faultFree: number, limit: number): number {
  return Math.round((faultFree + ((limit - faultFree) * depth) / 100) * 10) / 10
}

export function depthOf(severity: number, faultFree: number, limit: number): number {
  return (100 * (severity - faultFree)) / (limit - faultFree)
}
