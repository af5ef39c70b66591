import type { Schemas } from '@/api/client'

export type Asked = {
  parts: string[]
  points: Record<string, number>
  instruments: string | null
  chart: boolean
  practice: string | null
  tests: string[]
  leave_open: boolean
  rubric: string
  from_memory: boolean
  second_visit: boolean
}
export type Item = {
  kind: 'scenario' | 'rung' | 'drill' | 'situation' | 'rig'
  title: string
  scenario_id: number | null
  level: number | null
  minutes: number
  asked: Asked
  brief?: Schemas['ItemBody']['brief']
  rung?: Schemas['RungBody'] | null
  drill?: string | null
  situation?: string | null
  items?: number | null
  /** How often it was drawn again. */
  redraw?: number | null
}
export const PLAIN: Asked = {
  parts: ['diagnose', 'correct'],
  points: {},
  instruments: null,
  chart: false,
  practice: null,
  tests: [],
  leave_open: false,
  rubric: 'balanced',
  from_memory: false,
  second_visit: false,
}
export const KIND_WORDS = {
  scenario: 'library',
  rung: 'request',
  drill: 'drill',
  situation: 'situation',
  rig: 'rig',
} as const

export const DRILLS = [
  ['conversion', 'Convert pressure and temperature'],
  ['dial', 'Read the dial and its PT scale'],
  ['superheat', 'Superheat'],
  ['subcooling', 'Subcooling'],
  ['target_superheat', 'Target superheat, five at a time'],
  ['which_line', 'Which line is which'],
  ['pipe_pressure', 'Line temperature to pressure'],
  ['glide', 'Glide: dew or bubble'],
  ['mixed_air', 'Mixed air'],
  ['two_manifolds', 'Digital and analog side by side'],
  ['vacuum', 'Vacuum and microns'],
  ['units', 'Units'],
  ['spot_the_error', 'Find the mistake'],
  ['bookkeeping', 'Scale, cylinder, log'],
] as const

/** What is asked of an item, with what was left out as it usually is. */
function askedOf(given: Schemas['ItemRow']['data']['asked']): Asked {
  return {
    parts: given.parts ?? [...PLAIN.parts],
    points: { ...given.points },
    instruments: given.instruments ?? null,
    chart: given.chart ?? false,
    practice: given.practice ?? null,
    tests: given.tests ?? [],
    leave_open: given.leave_open ?? false,
    rubric: given.rubric ?? 'balanced',
    from_memory: given.from_memory ?? false,
    second_visit: given.second_visit ?? false,
  }
}

/** A row of the server as the builder keeps it. */
export function fromRow(row: Schemas['ItemRow']): Item {
  const { data } = row
  return {
    kind: data.kind,
    title: row.title,
    scenario_id: row.scenario_id,
    level: row.level,
    minutes: row.minutes,
    asked: askedOf(data.asked),
    brief: data.brief,
    rung: data.rung,
    drill: data.drill,
    situation: data.situation,
    items: data.items,
    redraw: data.redraw ?? null,
  }
}

/** What is sent back of an item. */
export function toBody(item: Item): Schemas['ItemBody'] {
  const { asked } = item
  const none = {
    scenario_id: null,
    brief: null,
    rung: null,
    drill: null,
    situation: null,
    items: null,
    redraw: item.redraw || null,
    asked,
  }
  if (item.kind === 'scenario' || item.kind === 'rig')
    return { ...none, kind: item.kind, scenario_id: item.scenario_id }
  if (item.kind === 'rung') return { ...none, kind: 'rung', brief: item.brief ?? null, rung: item.rung ?? null }
  if (item.kind === 'situation')
    return { ...none, kind: 'situation', brief: item.brief ?? null, situation: item.situation ?? null }
  return { ...none, kind: 'drill', brief: item.brief ?? null, drill: item.drill ?? null, items: item.items ?? null }
}

/** A call of the library as it is put on a new sheet. */
export function plainCall(scenarioId: number): Schemas['ItemBody'] {
  return {
    kind: 'scenario',
    scenario_id: scenarioId,
    brief: null,
    rung: null,
    drill: null,
    situation: null,
    items: null,
    redraw: null,
    asked: null,
  }
}

/** The list with one item moved by `by` places; unchanged where it would leave the list. */
export function moved<T>(list: T[], index: number, by: number): T[] {
  const to = index + by
  if (to < 0 || to >= list.length) return list
  const next = [...list]
  const [one] = next.splice(index, 1)
  if (one !== undefined) next.splice(to, 0, one)
  return next
}

/** From easy to hard: by level, drills first, what has no level stays where it is among its like. */
export function asLadder(list: Item[]): Item[] {
  const rank = (i: Item) => (i.kind === 'drill' ? 0 : (i.level ?? 3))
  return list
    .map((item, at) => ({ item, at }))
    .sort((a, b) => rank(a.item) - rank(b.item) || a.at - b.at)
    .map(({ item }) => item)
}

export const sum = (list: Item[]): number => list.reduce((all, i) => all + i.minutes, 0)
