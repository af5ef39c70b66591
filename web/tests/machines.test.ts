import { describe, expect, it } from 'vitest'
import { KNOWN, WEATHER, bodyOf, emptyForm, fitting, unitOf } from '@/features/machines/form'

describe('the plate form', () => {
  it('sends only what was typed, and what is no number as it was typed', () => {
    expect(
      bodyOf({ ...emptyForm(), name: 'A', capacity_btuh: '30000', ctoa_df: '16,5', power_w: 'much' }, 'us'),
    ).toEqual({
      units: 'us',
      name: 'A',
      refrigerant: 'R-410A',
      metering: 'txv',
      application: 'air_conditioner',
      condenser: 'tube_and_fin',
      capacity_btuh: 30000,
      ctoa_df: '16,5',
      power_w: 'much',
    })
  })
  it('asks a box for its box and a room for its return air', () => {
    const ids = (application: string, condenser = 'tube_and_fin') =>
      fitting(WEATHER, { ...emptyForm(), application, condenser }).map((f) => f.id)
    expect(ids('walk_in_cooler')).toEqual(['outdoor_db_f', 'box_f'])
    expect(ids('air_conditioner')).toEqual(['outdoor_db_f', 'return_db_f', 'return_wb_f'])
    expect(ids('air_conditioner', 'water_cooled')).toContain('water_in_f')
  })
  it('names the units of both systems', () => {
    expect(
      KNOWN.filter((f) => f.id === 'superheat_df' || f.id === 'head_psig').map((f) => [
        unitOf(f, 'us'),
        unitOf(f, 'si'),
      ]),
    ).toEqual([
      ['°F', 'K'],
      ['psig', 'kPa'],
    ])
    expect(WEATHER.slice(0, 1).map((f) => unitOf(f, 'si'))).toEqual(['°C'])
  })
})
