import type { Schemas } from '@/api/client'

export interface Wanted {
  text: string
  tag: string
  level: string
  machine: string
  fault: string
  whose: 'all' | 'mine' | 'shared'
}
export const EVERYTHING: Wanted = { text: '', tag: '', level: '', machine: '', fault: '', whose: 'all' }
type Row = Schemas['ScenarioRow']

export const ids = (row: Row) => row.body.faults.map((f) => f.id)

/** Scenarios that fit every field; words of the text may stand in title, fault, machine
 * (by any everyday name), tags or story, in any order. */
export function found(rows: Row[], wanted: Wanted): Row[] {
  const words = wanted.text.toLowerCase().split(/\s+/).filter(Boolean)
  return rows.filter((row) => {
    const all = [
      row.title,
      row.fault_name,
      row.also,
      row.machine_name,
      row.owner,
      ...row.tags,
      row.body.complaint,
      row.body.history,
    ]
      .join(' ')
      .toLowerCase()
    return (
      words.every((w) => all.includes(w)) &&
      (!wanted.tag || row.tags.includes(wanted.tag)) &&
      (!wanted.level || String(row.level) === wanted.level) &&
      (!wanted.machine || row.machine_name === wanted.machine) &&
      (!wanted.fault || (wanted.fault === 'none' ? !ids(row).length : ids(row).includes(wanted.fault))) &&
      (wanted.whose === 'all' || (wanted.whose === 'mine' ? row.mine : row.shared && !row.mine))
    )
  })
}

/** Every choice there is in a column, sorted. */
export function choices<T extends string | number>(rows: Row[], pick: (row: Row) => T[]): T[] {
  return [...new Set(rows.flatMap(pick))].sort((a, b) => (a < b ? -1 : 1))
}

/** Scenarios of a file: one alone, a list of them, or {"scenarios": [...]}. Throws what to do about anything else. */
export function read(name: string, text: string): Record<string, unknown>[] {
  let data: unknown
  try {
    data = JSON.parse(text)
  } catch {
    throw new Error(`${name} is not JSON; choose a scenario file`)
  }
  const list = Array.isArray(data)
    ? data
    : Array.isArray((data as { scenarios?: unknown } | null)?.scenarios)
      ? (data as { scenarios: unknown[] }).scenarios
      : [data]
  if (!list.length || !list.every((x) => typeof x === 'object' && x !== null && !Array.isArray(x)))
    throw new Error(`${name} holds no scenario; choose a scenario file`)
  return list as Record<string, unknown>[]
}
