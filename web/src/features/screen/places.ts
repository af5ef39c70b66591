/** Where a look stands in the drawing of a site, in per cent of its width and height; what is not named stands in a row. */
export interface Place {
  x: number
  y: number
  /** What the drawing calls it. */
  name: string
  /** The side of the dot on which its name stands. */
  side?: 'left' | 'right'
}

export const HOUSE: Record<string, Place> = {
  duct: { x: 10, y: 34, name: 'Ducts' },
  filter: { x: 23, y: 18, name: 'Filter', side: 'left' },
  blower: { x: 30, y: 18, name: 'Blower' },
  blower_wheel: { x: 30, y: 31, name: 'Wheel' },
  evaporator_coil: { x: 47, y: 18, name: 'Indoor coil' },
  evaporator_ice: { x: 47, y: 31, name: 'Ice?' },
  bulb: { x: 57, y: 19, name: 'Bulb' },
  orifice: { x: 57, y: 31, name: 'Orifice' },
  economizer: { x: 10, y: 24, name: 'Economizer' },
  coil_match: { x: 47, y: 8, name: 'Coil match' },
  house: { x: 22, y: 62, name: 'House' },
  suction_line: { x: 65, y: 40, name: 'Suction line' },
  liquid_line: { x: 62, y: 48, name: 'Liquid line', side: 'left' },
  line_length: { x: 65, y: 56, name: 'Length' },
  oil_traces: { x: 62, y: 64, name: 'Oil?', side: 'left' },
  service_valve: { x: 75, y: 81, name: 'Valves', side: 'left' },
  condenser_coil: { x: 80, y: 70, name: 'Outdoor coil' },
  condenser_fan: { x: 80, y: 55, name: 'Outdoor fan' },
  condenser_wet: { x: 80, y: 79, name: 'Wet?' },
  condenser_place: { x: 80, y: 91, name: 'Clearance' },
  second_circuit: { x: 86, y: 63, name: 'Circuit 2' },
}
