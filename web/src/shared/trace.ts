import type { Schemas } from '@/api/client'

export type Row = Schemas['TraceRow']
/** Steps close together share a mark: text is a number or a span. */
export interface Mark {
  x: number
  first: number
  text: string
}
export interface Line {
  key: 'suction' | 'head' | 'superheat' | 'subcooling' | 'room' | 'goods'
  points: [number, number | null][]
}
/** How long the controls were at one thing, on the picture's axis. */
export interface Span {
  mode: string
  from: number
  to: number
}
export interface Drawing {
  lines: Line[]
  modes: Span[]
  marks: Mark[]
  end: number
}

const KEYS: Line['key'][] = ['suction', 'head', 'superheat', 'subcooling']
const ROOM: Line['key'][] = ['room', 'goods']

/** The modes of the controls one after another; none where there is no room. */
export function spans(rows: Row[], xs: number[]): Span[] {
  const found: Span[] = []
  rows.forEach((row, i) => {
    if (!row.mode) return
    const at = xs[i] ?? 0
    const last = found.at(-1)
    if (last) last.to = at
    if (!last || last.mode !== row.mode) found.push({ mode: row.mode, from: at, to: at })
  })
  return found
}

/** Minutes on the picture's axis for each row: all the time, or only the time it ran. */
export function axis(rows: Row[], standing: boolean): number[] {
  let at = 0
  return rows.map((row, i) => {
    const before = rows[i - 1]
    if (before && (standing || (row.running && before.running))) at += (row.time_s - before.time_s) / 60
    return at
  })
}

/** Where `time_s` falls on the axis. */
export function place(rows: Row[], xs: number[], time_s: number): number {
  const i = rows.findIndex((row) => row.time_s >= time_s - 1e-6)
  return i < 0 ? (xs.at(-1) ?? 0) : (xs[i] ?? 0)
}

/** The lines of a trace with the steps marked on them; figures of a standing machine are gaps. */
export function drawing(rows: Row[], steps: Schemas['StepRow'][], standing: boolean): Drawing {
  const xs = axis(rows, standing)
  const shown = rows.map((row, i) => ({ row, x: xs[i] ?? 0 })).filter(({ row }) => standing || row.running)
  const keys = rows.some((row) => row.mode) ? [...KEYS, ...ROOM] : KEYS
  const lines = keys.map((key) => ({
    key,
    points: shown.map(({ row, x }) => [x, row[key] ?? null] as [number, number | null]),
  }))
  const end = xs.at(-1) ?? 0
  const marks: Mark[] = []
  steps.forEach((step, i) => {
    const x = place(rows, xs, step.at_s)
    const last = marks.at(-1)
    if (last && x - last.x < 0.022 * end) last.text = `${last.first}–${i + 1}`
    else marks.push({ x, first: i + 1, text: String(i + 1) })
  })
  return { lines, marks, end, modes: spans(rows, xs) }
}
