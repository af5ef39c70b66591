import { describe, expect, it } from 'vitest'
import { FailedRequest, named } from '@/api/client'
import { asFile, bodyOf, carriedForm, emptyForm, fromFile, LABELS, typed } from '@/features/readings/form'
import { carried } from '@/shared/converting'

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

describe('a form in other units', () => {
  const form = {
    ...emptyForm(),
    conditions: { outdoor_db: '91' },
    machine: { ...emptyForm().machine, subcooling: '10' },
  }
  form.readings = { suction: '142', suction_line: '51', head: '8.1 bar', superheat: '9', liquid_line: '92 to 98' }
  const si = carriedForm(form, 'si')
  it('carries what was typed over, and what names its own unit stays', () => {
    expect(si.units).toBe('si')
    expect(si.readings).toEqual({
      suction: '979',
      suction_line: '10.6',
      head: '8.1 bar',
      superheat: '5',
      liquid_line: '33.3 to 36.7',
    })
    expect(si.conditions.outdoor_db).toBe('32.8')
    expect(si.machine.subcooling).toBe('5.6')
  })
  it('comes back to the very numbers that were typed', () => {
    expect(carriedForm(si, 'us')).toEqual(form)
    for (let f = -40; f < 140; f++) expect(carried(carried(String(f), '°F', 'si'), '°F', 'us')).toBe(String(f))
    for (let p = 0; p < 450; p += 0.5) expect(carried(carried(String(p), 'psig', 'si'), 'psig', 'us')).toBe(String(p))
  })
  it('takes a dash for a range as one, and a minus as a minus', () => {
    expect(carried('92-98', '°F', 'si')).toBe('33.3-36.7')
    expect(carried('-40', '°F', 'si')).toBe('-40')
    expect(carried('7 lb 8 oz', 'oz', 'si')).toBe('7 lb 8 oz')
    expect(carried('208/230', 'V', 'si')).toBe('208/230')
  })
  it('is saved as a file of readings and opened again', () => {
    si.looked_at = { filter: 'dirty', evaporator_ice: 'yes' }
    si.tests = { pump_down: 'suction_holds' }
    const { form: again, left } = fromFile(asFile(si))
    expect(left).toEqual([])
    expect(again.readings).toEqual(form.readings)
    expect([again.looked_at, again.tests]).toEqual([si.looked_at, si.tests])
    expect(fromFile('{"readings": {"static_inwc": 0.5, "head_psig": null}}').left).toEqual(['static_inwc'])
  })
})
