import type { Schemas } from '@/api/client'

export interface ReadingsForm {
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

export const METERING = {
  txv: 'thermostatic valve',
  eev: 'electronic valve',
  fixed_orifice: 'fixed orifice',
  capillary: 'capillary tube',
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
export const CONDENSERS = { tube_and_fin: 'tube and fin', microchannel: 'microchannel', water_cooled: 'water-cooled' }
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
export const LOOKS: Record<string, [string, string[]]> = {
  filter: ['Filter', ['clean', 'dirty']],
  condenser_coil: ['Condenser coil', ['clean', 'dirty']],
  evaporator_coil: ['Evaporator coil', ['clean', 'dirty']],
  bulb: ['Bulb', ['tight', 'loose', 'bare']],
  condenser_fan: ['Condenser fan', ['right', 'slow', 'wrong blade', 'backwards']],
  evaporator_ice: ['Ice on the coil', ['no', 'yes']],
  oil_traces: ['Oil traces', ['no', 'yes']],
  condenser_wet: ['Condenser wet', ['no', 'yes']],
}
export const TESTS: Record<string, [string, string[]]> = {
  pump_down: ['Pump-down', ['suction_falls', 'suction_holds', 'suction_rises']],
  bulb_warmed: ['Bulb warmed', ['responds', 'no_response']],
  bulb_chilled: ['Bulb chilled', ['responds', 'no_response']],
  sight_glass: ['Sight glass', ['clear', 'bubbles']],
  standing_pressure: ['Standing pressure', ['matches_chart', 'above_chart', 'below_chart']],
  coil_face: ['Coil face', ['even', 'part_cold']],
  compressor_sound: ['Compressor by ear', ['normal', 'noisy']],
}
const SUFFIX = {
  us: { pressure: '_psig', temperature: '_f', difference: '_df' },
  si: { pressure: '_kpa_gauge', temperature: '_c', difference: '_dc' },
}

export function emptyForm(): ReadingsForm {
  const none = (of: Record<string, unknown>) => Object.fromEntries(Object.keys(of).map((key) => [key, '']))
  return {
    machine: { refrigerant: 'R-410A', metering: 'txv', application: '', condenser: '', receiver: '' },
    conditions: {},
    readings: {},
    looked_at: none(LOOKS),
    tests: none(TESTS),
    settled: true,
    practice: 'plate_and_formula',
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
