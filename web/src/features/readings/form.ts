import type { Schemas } from '@/api/client'
import { carried } from '@/shared/converting'

export interface ReadingsForm {
  /** The units its fields were typed in. */
  units: 'us' | 'si'
  machine: Record<string, string>
  conditions: Record<string, string>
  readings: Record<string, string>
  looked_at: Record<string, string>
  tests: Record<string, string>
  settled: boolean
  practice: string
}
export interface FieldRow {
  id: string
  label: string
  kind: 'pressure' | 'temperature' | 'difference'
}

export const APPLICATIONS = {
  air_conditioner: 'air conditioner',
  heat_pump_cooling: 'heat pump, cooling',
  heat_pump_heating: 'heat pump, heating',
  package_unit: 'package unit',
  walk_in_cooler: 'walk-in cooler',
  walk_in_freezer: 'walk-in freezer',
  reach_in: 'reach-in',
}
export const READINGS: FieldRow[] = [
  { id: 'suction', label: 'Suction pressure', kind: 'pressure' },
  { id: 'head', label: 'Head pressure', kind: 'pressure' },
  { id: 'suction_line', label: 'Suction line', kind: 'temperature' },
  { id: 'liquid_line', label: 'Liquid line', kind: 'temperature' },
  { id: 'superheat', label: 'or superheat', kind: 'difference' },
  { id: 'subcooling', label: 'or subcooling', kind: 'difference' },
  { id: 'supply_db', label: 'Supply air', kind: 'temperature' },
  { id: 'discharge_line', label: 'Discharge line', kind: 'temperature' },
  { id: 'drier_in', label: 'Before the drier', kind: 'temperature' },
  { id: 'drier_out', label: 'After the drier', kind: 'temperature' },
  { id: 'evaporator_superheat', label: 'Superheat at the coil', kind: 'difference' },
  { id: 'condenser_leaving_air', label: 'Air off the condenser', kind: 'temperature' },
  { id: 'water_in', label: 'Water in', kind: 'temperature' },
  { id: 'water_out', label: 'Water out', kind: 'temperature' },
]
export const AIR: FieldRow[] = [
  { id: 'outdoor_db', label: 'Outdoor air', kind: 'temperature' },
  { id: 'return_db', label: 'Return air', kind: 'temperature' },
  { id: 'return_wb', label: 'Return wet bulb', kind: 'temperature' },
  { id: 'box', label: 'Box air', kind: 'temperature' },
]
const SUFFIX = {
  us: { pressure: '_psig', temperature: '_f', difference: '_df' },
  si: { pressure: '_kpa_gauge', temperature: '_c', difference: '_dc' },
}

export function emptyForm(units: 'us' | 'si' = 'us'): ReadingsForm {
  return {
    units,
    machine: { refrigerant: 'R-410A', metering: 'txv', application: '', condenser: '', receiver: '' },
    conditions: {},
    readings: {},
    looked_at: {},
    tests: {},
    settled: true,
    practice: 'plate_and_formula',
  }
}
const UNIT = { pressure: 'psig', temperature: '°F', difference: 'Δ°F' } as const

/** The form in the other units: what was typed is converted. */
export function carriedForm(form: ReadingsForm, to: 'us' | 'si'): ReadingsForm {
  if (form.units === to) return form
  const over = (rows: FieldRow[], from: Record<string, string>) =>
    Object.fromEntries(
      Object.entries(from).map(([id, text]) => {
        const row = rows.find((r) => r.id === id)
        return [id, row ? carried(text, UNIT[row.kind], to) : text]
      }),
    )
  const { subcooling } = form.machine
  return {
    ...form,
    units: to,
    conditions: over(AIR, form.conditions),
    readings: over(READINGS, form.readings),
    machine: { ...form.machine, ...(subcooling ? { subcooling: carried(subcooling, 'Δ°F', to) } : {}) },
  }
}

/** A typed number, the text itself where it is more ("92 to 98", "8.1 bar", "-": the server reads it), or nothing. */
export function typed(text: string | undefined): number | string | undefined {
  const plain = (text ?? '').trim()
  if (!plain) return undefined
  return Number.isNaN(Number(plain)) ? plain : Number(plain)
}

/** What the fields are called, by the key that is sent. */
export const LABELS: Record<string, string> = {
  ...Object.fromEntries(
    [...READINGS, ...AIR].flatMap((row) =>
      (['us', 'si'] as const).map((units) => [row.id + SUFFIX[units][row.kind], row.label.replace(/^or /, '')]),
    ),
  ),
  plate_subcooling_df: 'Nameplate subcooling',
  plate_subcooling_dc: 'Nameplate subcooling',
  refrigerant: 'Refrigerant',
  metering: 'Metering device',
  application: 'Application',
  condenser: 'Condenser',
  receiver: 'Receiver',
}

/** The request of a form: keys carry the unit they were typed in. */
export function bodyOf(form: ReadingsForm, units: 'us' | 'si'): Schemas['ReadingsBody'] {
  const keyed = (rows: FieldRow[], from: Record<string, string>) =>
    Object.fromEntries(
      rows.flatMap((r) => {
        const value = typed(from[r.id])
        return value === undefined ? [] : [[r.id + SUFFIX[units][r.kind], value]]
      }),
    )
  const machine: Record<string, unknown> = {}
  for (const [key, value] of Object.entries(form.machine)) {
    if (!value) continue
    if (key === 'subcooling') machine[`plate_subcooling${SUFFIX[units].difference}`] = typed(value)
    else if (key === 'capacity_tons') machine[key] = typed(value)
    else machine[key] = key === 'receiver' ? value === 'yes' : value
  }
  const chosen = (from: Record<string, string>) => Object.entries(from).filter(([, v]) => v)
  return {
    machine,
    conditions: keyed(AIR, form.conditions),
    readings: keyed(READINGS, form.readings),
    looked_at: Object.fromEntries(
      chosen(form.looked_at).map(([k, v]) => [k, v === 'yes' ? true : v === 'no' ? false : v]),
    ),
    tests: chosen(form.tests).map(([test, result]) => ({ test, result })),
    running: true,
    settled: form.settled,
    practice: form.practice,
  }
}

type File = Schemas['ReadingsBody']
/** A form as a file of readings, which the command line reads as well. */
export const asFile = (form: ReadingsForm): string =>
  JSON.stringify({ schema: 1, ...withoutPractice(bodyOf(form, form.units)) }, null, 2)
function withoutPractice(body: File): Partial<File> {
  const { practice, ...rest } = body
  return practice ? rest : body
}

interface Kept {
  machine?: Record<string, unknown>
  conditions?: Record<string, unknown>
  readings?: Record<string, unknown>
  looked_at?: Record<string, unknown>
  tests?: { test: string; result: string }[]
  settled?: boolean
}

/** The form of a file of readings; keys that this form has no field for are named. */
export function fromFile(text: string): { form: ReadingsForm; left: string[] } {
  const data = JSON.parse(text) as Kept
  const left: string[] = []
  const said = (value: unknown) => (Array.isArray(value) ? value.join(' to ') : String(value))
  const form = emptyForm()
  for (const part of ['conditions', 'readings'] as const) {
    const rows = part === 'conditions' ? AIR : READINGS
    for (const [key, value] of Object.entries(data[part] ?? {})) {
      const found = rows.flatMap((row) =>
        (['us', 'si'] as const).filter((u) => key === row.id + SUFFIX[u][row.kind]).map((u) => ({ row, u })),
      )[0]
      if (!found || value === null) left.push(...(value === null ? [] : [key]))
      else form[part][found.row.id] = found.u === 'us' ? said(value) : carried(said(value), UNIT[found.row.kind], 'us')
    }
  }
  for (const [key, value] of Object.entries(data.machine ?? {})) {
    if (key.startsWith('plate_subcooling'))
      form.machine.subcooling = key.endsWith('_dc') ? carried(said(value), 'Δ°F', 'us') : said(value)
    else if (key in form.machine) form.machine[key] = value === true ? 'yes' : value === false ? 'no' : said(value)
    else left.push(key)
  }
  for (const [key, value] of Object.entries(data.looked_at ?? {}))
    form.looked_at[key] = value === true ? 'yes' : value === false ? 'no' : said(value)
  for (const row of data.tests ?? []) form.tests[row.test] = row.result
  form.settled = data.settled !== false
  return { form, left }
}

/** The field that a next step is recorded in. */
export function fieldOf(step: string): string {
  return { drier_drop: 'drier_out' }[step] ?? step
}
