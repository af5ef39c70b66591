import { describe, expect, it } from 'vitest'
import { FailedRequest, named } from '@/api/client'
import { LABELS, bodyOf, emptyForm, typed } from '@/features/readings/form'

describe('a form of readings', () => {
  it('sends a plain number as one, and what is more as it was typed: the server reads it', () => {
    expect([typed('92'), typed(' 92.5 '), typed('')]).toEqual([92, 92.5, undefined])
    expect([typed('92 to 98'), typed('8.1 bar'), typed('78°'), typed('-')]).toEqual(['92 to 98', '8.1 bar', '78°', '-'])
  })
  it('calls a field as the screen does where the server refuses it', () => {
    const said = "readings.suction_psig 'abc' is not accepted; allowed: a number of psi"
    const error = new FailedRequest(said, 'bad_input', 'readings.suction_psig')
    expect(named(error, LABELS)).toBe("Suction pressure: 'abc' is not accepted; allowed: a number of psi")
    expect(named(new FailedRequest('the server is away'), LABELS)).toBe('the server is away')
    expect(named(new FailedRequest('other 1 is not', 'bad_input', 'other'), LABELS)).toBe('other 1 is not')
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
