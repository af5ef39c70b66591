import type { Schemas } from '@/api/client'

export type PlateForm = Record<string, string>
/** Units of the fields in SI; the server converts. */
const SI: Record<string, string> = { 'Btu/h': 'kW', oz: 'g', psig: 'kPa', cfm: 'L/s', 'oz/ft': 'g/m', ft: 'm' }
export const unitOf = (f: FieldRow, system: string) =>
  system === 'us' ? f.unit : f.unit !== '°F' ? (SI[f.unit] ?? f.unit) : f.id.endsWith('_df') ? 'K' : '°C'
export interface FieldRow {
  id: keyof Schemas['PlateBody'] & string
  label: string
  unit: string
  refrigeration?: boolean
  water?: boolean
}

export const APPLICATIONS = {
  air_conditioner: 'air conditioner',
  heat_pump_cooling: 'heat pump',
  package_unit: 'package unit',
  walk_in_cooler: 'walk-in cooler',
  walk_in_freezer: 'walk-in freezer',
  reach_in: 'reach-in',
}
/** What the plate says. */
export const PLATE: FieldRow[] = [
  { id: 'capacity_btuh', label: 'Capacity', unit: 'Btu/h' },
  { id: 'factory_charge_oz', label: 'Factory charge', unit: 'oz' },
  { id: 'plate_subcooling_df', label: 'Nameplate subcooling', unit: '°F' },
  { id: 'rated_amps', label: 'Rated amps', unit: 'A' },
  { id: 'volts', label: 'Volts', unit: 'V' },
  { id: 'oz_per_ft', label: 'Charge for longer lines', unit: 'oz/ft' },
  { id: 'high_cutout_psig', label: 'High-pressure cutout', unit: 'psig' },
  { id: 'low_cutout_psig', label: 'Low-pressure cutout', unit: 'psig' },
]
/** What is known from a data sheet or a commissioning record. */
export const KNOWN: FieldRow[] = [
  { id: 'superheat_df', label: 'Total superheat', unit: '°F' },
  { id: 'subcooling_df', label: 'Subcooling read', unit: '°F' },
  { id: 'evaporator_td_df', label: 'Evaporator TD', unit: '°F' },
  { id: 'ctoa_df', label: 'CTOA', unit: '°F' },
  { id: 'suction_psig', label: 'Suction', unit: 'psig' },
  { id: 'head_psig', label: 'Head', unit: 'psig' },
  { id: 'air_delta_t_df', label: 'Air delta-T', unit: '°F' },
  { id: 'airflow_cfm', label: 'Airflow', unit: 'cfm' },
  { id: 'power_w', label: 'Power', unit: 'W' },
]
/** The weather those were read in; empty is the rating point. */
export const WEATHER: FieldRow[] = [
  { id: 'outdoor_db_f', label: 'Outdoor air', unit: '°F' },
  { id: 'return_db_f', label: 'Return air', unit: '°F', refrigeration: false },
  { id: 'return_wb_f', label: 'Return wet bulb', unit: '°F', refrigeration: false },
  { id: 'box_f', label: 'Box', unit: '°F', refrigeration: true },
  { id: 'water_in_f', label: 'Water in', unit: '°F', refrigeration: false, water: true },
]
export const emptyForm = (): PlateForm => ({
  name: '',
  refrigerant: 'R-410A',
  metering: 'txv',
  application: 'air_conditioner',
  condenser: 'tube_and_fin',
})

const refrigeration = (form: PlateForm) =>
  ['walk_in_cooler', 'walk_in_freezer', 'reach_in'].includes(form.application ?? '')
/** Fields this kind of machine has. */
export const fitting = (rows: FieldRow[], form: PlateForm) =>
  rows.filter(
    (r) =>
      (r.refrigeration === undefined || r.refrigeration === refrigeration(form)) &&
      (!r.water || form.condenser === 'water_cooled'),
  )

/** What the fields are called, by id. */
export const LABELS: Record<string, string> = {
  ...Object.fromEntries([...PLATE, ...KNOWN, ...WEATHER].map((row) => [row.id, row.label])),
  name: 'Name',
  refrigerant: 'Refrigerant',
  metering: 'Metering device',
  application: 'Kind',
  condenser: 'Condenser',
}

/** The request body: empty fields and those of another kind of machine are left out; what is more than a number ("3 tons", "7 lb 8 oz") is sent as typed and read by the server. */
export function bodyOf(form: PlateForm, units: 'us' | 'si'): Schemas['PlateBody'] {
  const numbers = [...PLATE, ...KNOWN, ...fitting(WEATHER, form)].flatMap(({ id }) => {
    const text = (form[id] ?? '').trim()
    return text ? [[id, Number.isFinite(Number(text)) ? Number(text) : text]] : []
  })
  const { name, refrigerant, metering, application, condenser } = form
  return {
    units,
    name: name ?? '',
    refrigerant,
    metering,
    application,
    condenser,
    ...Object.fromEntries(numbers),
  }
}
