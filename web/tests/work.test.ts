import { describe, expect, it } from 'vitest'
import type { Schemas } from '@/api/client'
import { axis, drawing, place, spans, type Row } from '@/shared/trace'

const row = (time_s: number, running: boolean, superheat: number | null = 10): Row => ({
  time_s,
  running,
  evaporator_td: 35,
  air_delta_t: 19,
  suction: 130,
  head: 380,
  suction_line: 58,
  liquid_line: 103,
  discharge_line: 167,
  outdoor: 95,
  superheat,
  subcooling: superheat,
  ctoa: 18,
  ice_pct: 0,
  wet_pct: 0,
  circuit: 119,
  room: null,
  goods: null,
  room_humidity_pct: null,
  mode: null,
})
const rows = [row(0, true), row(60, true), row(3660, false, null), row(3720, true), row(3780, true)]
const step = (at_s: number): Schemas['StepRow'] => ({
  do: 'wait',
  name: 'Wait',
  at_s,
  minutes: 1,
  money: 'none',
  refused: false,
  said: [],
  moved: 0,
  cylinder: null,
})

describe('the axis of a trace', () => {
  it('leaves standing time out unless it is asked for', () => {
    expect(axis(rows, false)).toEqual([0, 1, 1, 1, 2])
    expect(axis(rows, true)).toEqual([0, 1, 61, 62, 63])
  })
  it('places a moment at the first row that has reached it', () => {
    expect(place(rows, axis(rows, true), 61)).toBe(61)
    expect(place(rows, axis(rows, true), 9999)).toBe(63)
  })
})

describe('the drawing of a trace', () => {
  it('has gaps where a standing machine has no superheat', () => {
    const superheat = drawing(rows, [], true).lines.find((l) => l.key === 'superheat')
    expect(superheat?.points.map(([, v]) => v)).toEqual([10, 10, null, 10, 10])
    expect(drawing(rows, [], false).lines[0]?.points).toHaveLength(4)
  })
  it('joins the marks of steps that stand too close to be read', () => {
    expect(drawing(rows, [step(0), step(0), step(3780)], false).marks.map((m) => m.text)).toEqual(['1–2', '3'])
  })
})

describe('a room that answers', () => {
  const modes = ['on', 'on', 'pumping_down', 'satisfied', 'satisfied']
  const living = rows.map((r, i) => ({ ...r, room: 38 + i, goods: 38, mode: modes[i] ?? 'on' }))

  it('draws the room and the goods beside the gauges', () => {
    expect(drawing(living, [], true).lines.map((line) => line.key)).toContain('room')
    expect(drawing(rows, [], true).lines.map((line) => line.key)).not.toContain('room')
  })
  it('shades what the controls were at, one span after another', () => {
    const found = spans(living, axis(living, true))
    expect(found.map((s) => s.mode)).toEqual(['on', 'pumping_down', 'satisfied'])
    expect(found[0]).toEqual({ mode: 'on', from: 0, to: 61 })
    expect(found[2]?.to).toBe(63)
    expect(spans(rows, axis(rows, true))).toEqual([])
  })
})
