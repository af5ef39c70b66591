import { describe, expect, it } from 'vitest'
import { bodyOf, emptyForm, typed } from '@/features/readings/form'

describe('a form of readings', () => {
  it('reads numbers, ranges and minus signs, and leaves nonsense for the server to name', () => {
    expect([typed('92'), typed(' 92,5 '), typed('\u22124'), typed('')]).toEqual([92, 92.5, -4, undefined])
    expect([typed('92-98'), typed('92 to 98'), typed('-4 to 3')]).toEqual([
      [92, 98],
      [92, 98],
      [-4, 3],
    ])
    expect(typed('a lot')).toBe('a lot')
  })
  it('sends what was typed under the unit it was typed in, and nothing that was not', () => {
    const form = emptyForm()
    form.readings.suction = '142'
    form.readings.superheat = '1'
    form.conditions.outdoor_db = '90'
    form.machine.subcooling = '10'
    form.machine.receiver = 'no'
    form.looked_at.filter = 'clean'
    form.looked_at.evaporator_ice = 'yes'
    form.tests.pump_down = 'suction_holds'
    expect(bodyOf(form, 'us')).toEqual({
      machine: { refrigerant: 'R-410A', metering: 'txv', receiver: false, plate_subcooling_df: 10 },
      conditions: { outdoor_db_f: 90 },
      readings: { suction_psig: 142, superheat_df: 1 },
      looked_at: { filter: 'clean', evaporator_ice: true },
      tests: [{ test: 'pump_down', result: 'suction_holds' }],
      running: true,
      settled: true,
      practice: 'plate_and_formula',
    })
    expect(Object.keys(bodyOf(form, 'si').readings ?? {})).toEqual(['suction_kpa_gauge', 'superheat_dc'])
  })
})
