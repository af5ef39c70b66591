import type { Schemas } from '@/api/client'

export type Row = Schemas['TraceRow']
/** Steps close together share a mark: text is a number or a span. */
export interface Mark {
  x: number
  first: number
  text: string
}
export interface Line {
  key: 'suction' | 'head' | 'superheat' | 'subcooling'
  points: [number, number | null][]
}
export interface Drawing {
  lines: Line[]
  marks: Mark[]
  end: number
}

const KEYS: Line['key'][] = ['suction', 'head', 'superheat', 'subcooling']

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
  const lines = KEYS.map((key) => ({
    key,
    points: shown.map(({ row, x }) => [x, row[key]] as [number, number | null]),
  }))
  const end = xs.at(-1) ?? 0
  const marks: Mark[] = []
  steps.forEach((step, i) => {
    const x = place(rows, xs, step.at_s)
    const last = marks.at(-1)
    if (last && x - last.x < 0.022 * end) last.text = `${last.first}–${i + 1}`
    else marks.push({ x, first: i + 1, text: String(i + 1) })
  })
  return { lines, marks, end }
}
