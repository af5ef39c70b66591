import { flushPromises, mount } from '@vue/test-utils'
import { defineComponent, h } from 'vue'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { asked, serve, type Sent } from './server'
import { useBench, type Bench } from '@/features/bench/useBench'

const kind = (id: string, machines: string[], more = {}) => ({
  id,
  name: id,
  parameter: 'charge',
  unit: '%',
  fault_free: 100,
  limit: 40,
  mild: 88,
  moderate: 80,
  severe: 70,
  acts_on: 'machine',
  on_paper: true,
  machines,
  causes: [{ id: 'leak', look: 'Oil.' }],
  effect: '',
  remedy: '',
  hazard: '',
  rig: [],
  tests: [],
  ...more,
})
const room = [
  { field: 'outdoor_db_f', label: 'Outdoor air', low: 60, high: 118, rated: 95 },
  { field: 'return_db_f', label: 'Return', low: 66, high: 92, rated: 80 },
  { field: 'return_wb_f', label: 'Wet bulb', low: 52, high: 78, rated: 67 },
]
const box = [
  { field: 'outdoor_db_f', label: 'Air', low: 0, high: 118, rated: 95 },
  { field: 'box_f', label: 'Box', low: 28, high: 65, rated: 38 },
]
const POINTS = [
  { id: 'suction_pressure', name: 'Suction', usual: true },
  { id: 'supply_db', name: 'Supply', usual: true },
  { id: 'condenser_bend', name: 'Bend', usual: false },
]
const CATALOGUE = {
  machines: [
    { id: 'split-3t-r410a-txv', weather: room, tests: [{ id: 'filter', name: 'Filters' }], points: POINTS },
    { id: 'cooler', weather: box, tests: [], points: POINTS },
  ],
  faults: [
    kind('none', ['split-3t-r410a-txv', 'cooler'], { unit: null }),
    kind('undercharge', ['split-3t-r410a-txv', 'cooler']),
    kind('mismatched_coil', ['split-3t-r410a-txv']),
    kind('gauge_not_zeroed', ['split-3t-r410a-txv', 'cooler'], {
      acts_on: 'reading',
      fault_free: -30,
      limit: 30,
      moderate: 8,
    }),
  ],
  practices: [{ id: 'plate_and_formula', name: 'Plain' }],
  instruments: ['analogue', 'digital'],
}
type Posted = {
  machine: string
  faults: { id: string; severity: number }[]
  box_f: number | null
  return_db_f: number | null
  return_wb_f: number | null
}
let spies: ReturnType<typeof serve>
/** Every bench the server was asked for, oldest first. */
const posted = () => asked(spies.POST, '/api/v1/bench').map((sent) => sent.body as Posted)
/** The tests given with every proof that was asked for. */
const proved = () =>
  asked(spies.POST, '/api/v1/prove').map((sent) => (sent.body as { given_tests: string[] }).given_tests)

function answers(bench: (sent: Sent) => unknown): void {
  spies = serve({
    GET: { '/api/v1/catalogue': CATALOGUE },
    POST: { '/api/v1/bench': bench, '/api/v1/prove': { answered: 'proof' } },
  })
}

let left: ReturnType<typeof mount> | undefined
async function open(): Promise<Bench> {
  let bench!: Bench
  left = mount(
    defineComponent({
      setup() {
        bench = useBench()
        return () => h('div')
      },
    }),
  )
  await flushPromises()
  return bench
}

beforeEach(() => answers((sent) => ({ data: { answered: JSON.stringify(sent.body) } })))
const last = () => posted().at(-1)

describe('the bench', () => {
  it('asks for the rated weather of the machine and nothing it has no use for', async () => {
    await open()
    expect(last()).toMatchObject({
      machine: 'split-3t-r410a-txv',
      return_db_f: 80,
      return_wb_f: 67,
      box_f: null,
      faults: [],
    })
  })
  it('plants several faults at their moderate level, each once, and takes them out again', async () => {
    const bench = await open()
    bench.add('undercharge')
    bench.add('gauge_not_zeroed')
    bench.add('undercharge')
    await flushPromises()
    expect(last()?.faults.map((f) => [f.id, f.severity])).toEqual([
      ['undercharge', 80],
      ['gauge_not_zeroed', 8],
    ])
    expect(bench.addable.value.map((f) => f.id)).toEqual(['mismatched_coil'])
    bench.remove('undercharge')
    await flushPromises()
    expect(last()?.faults.map((f) => f.id)).toEqual(['gauge_not_zeroed'])
    bench.clear()
    await flushPromises()
    expect(last()?.faults).toEqual([])
  })
  it('drops what another machine cannot have and moves the weather into its range', async () => {
    const bench = await open()
    bench.add('mismatched_coil')
    bench.add('undercharge')
    bench.state.value.weather.outdoor_db_f = 110
    bench.state.value.machine = 'cooler'
    await flushPromises()
    expect(last()).toMatchObject({ machine: 'cooler', box_f: 38, outdoor_db_f: 110, return_db_f: null })
    expect(last()?.faults.map((f) => f.id)).toEqual(['undercharge'])
  })
  it('never asks for a wet bulb above the dry bulb', async () => {
    const bench = await open()
    bench.state.value.weather.return_wb_f = 75
    bench.state.value.weather.return_db_f = 70
    await flushPromises()
    expect(last()).toMatchObject({ return_db_f: 70, return_wb_f: 70 })
  })
  it('keeps what was planted through a reload', async () => {
    const bench = await open()
    bench.add('undercharge')
    await flushPromises()
    const again = await open()
    expect(again.rows.value.map((r) => [r.planted.id, r.severity])).toEqual([['undercharge', 80]])
  })
  it('opens a saved scenario with its fault at its own severity', async () => {
    const bench = await open()
    bench.load({
      title: 'x',
      machine: 'split-3t-r410a-txv',
      faults: [{ id: 'undercharge', severity: 73, cause: null }],
      given_tests: ['filter'],
      given_readings: ['a'],
      outdoor_db_f: 90,
      return_db_f: 76,
      return_wb_f: 64,
      altitude_ft: 0,
      instruments: 'digital',
      practice: 'chart',
      tags: ['charge', 'week 9'],
      complaint: 'Hot.',
      history: '',
      look_round: ['Filter clean.', 'No ice.'],
    } as never)
    await flushPromises()
    expect(last()).toMatchObject({
      outdoor_db_f: 90,
      faults: [{ id: 'undercharge', severity: 73 }],
      instruments: 'digital',
    })
    expect(bench.scenario()).toMatchObject({
      title: 'x',
      tags: ['charge', 'week 9'],
      complaint: 'Hot.',
      look_round: ['Filter clean.', 'No ice.'],
      given_tests: ['filter'],
      given_readings: ['a'],
      faults: [{ id: 'undercharge', severity: 73 }],
    })
  })
  it('proves once the hand rests, with what is given, and not before', async () => {
    const bench = await open()
    bench.add('undercharge')
    await flushPromises()
    bench.give({ kind: 'look', id: 'filter' })
    bench.give({ kind: 'look', id: 'filter' })
    bench.give({ kind: 'test', id: 'pump_down' })
    await flushPromises()
    expect(proved()).toEqual([])
    await vi.advanceTimersByTimeAsync(300)
    expect(proved()).toEqual([['filter']])
    bench.withhold('filter')
    await flushPromises()
    await vi.advanceTimersByTimeAsync(300)
    expect(proved()).toEqual([['filter'], []])
  })
  it('gives a test that goes by the name of a reading as the test', async () => {
    const bench = await open()
    bench.give({ kind: 'test', id: 'supply_db' })
    expect(bench.state.value.given).toEqual(['supply_db'])
    bench.toggle('supply_db')
    bench.give({ kind: 'reading', id: 'supply_db' })
    expect(bench.shown.value).toContain('supply_db')
    expect(bench.state.value.given).toEqual(['supply_db'])
  })
  it('says that it is proving until the proof of the last machine is there, and works at one at a time', async () => {
    const bench = await open()
    const open_ = new Map<string, { done: (value: unknown) => void; stop: (error: unknown) => void }>()
    spies = serve({
      POST: {
        '/api/v1/bench': { answered: 'bench' },
        '/api/v1/prove': ({ body }: Sent) =>
          new Promise((done, stop) => open_.set((body as Posted).faults.map((f) => f.id).join(), { done, stop })),
      },
    })
    bench.add('undercharge')
    await flushPromises()
    await vi.advanceTimersByTimeAsync(300)
    bench.add('mismatched_coil')
    await flushPromises()
    await vi.advanceTimersByTimeAsync(300)
    // One at a time: the second waits for the first, and for the one that is wanted when the first is done.
    bench.add('dirty_condenser')
    await flushPromises()
    await vi.advanceTimersByTimeAsync(300)
    bench.remove('dirty_condenser')
    await flushPromises()
    await vi.advanceTimersByTimeAsync(300)
    expect([...open_.keys()]).toEqual(['undercharge'])
    open_.get('undercharge')?.done({ data: { answered: 'first' } })
    await flushPromises()
    expect([bench.proving.value, bench.proof.value]).toEqual([true, null])
    expect([...open_.keys()]).toEqual(['undercharge', 'undercharge,mismatched_coil'])
    open_.get('undercharge,mismatched_coil')?.done({ data: { answered: 'second' } })
    await flushPromises()
    expect([bench.proving.value, bench.proof.value]).toEqual([false, { answered: 'second' }])
  })
  it('asks again later where the server has too much to do', async () => {
    const bench = await open()
    let refused = 2
    spies = serve({
      POST: {
        '/api/v1/bench': { answered: 'bench' },
        '/api/v1/prove': () =>
          Promise.resolve(
            refused-- > 0
              ? { error: { error: { code: refused ? 'too_many' : 'busy', message: 'Try again.' } } }
              : { data: { answered: 'at last' } },
          ),
      },
    })
    bench.add('undercharge')
    await flushPromises()
    await vi.advanceTimersByTimeAsync(5300)
    expect([bench.proving.value, refused]).toEqual([true, 0])
    await vi.advanceTimersByTimeAsync(5000)
    expect([bench.proving.value, bench.proof.value]).toEqual([false, { answered: 'at last' }])
  })
  it('shows no proof of a machine that could not be proved', async () => {
    const bench = await open()
    await vi.advanceTimersByTimeAsync(300)
    expect(bench.proof.value).toEqual({ answered: 'proof' })
    spies = serve({
      POST: {
        '/api/v1/bench': { answered: 'bench' },
        '/api/v1/prove': () => Promise.resolve({ error: { error: { code: 'x', message: 'It trips.' } } }),
      },
    })
    bench.add('undercharge')
    await flushPromises()
    await vi.advanceTimersByTimeAsync(300)
    expect([bench.proving.value, bench.proof.value]).toEqual([false, null])
  })
  it('withholds a reading and gives it back, and the usual ones are the usual ones again', async () => {
    const bench = await open()
    expect(bench.shown.value).toEqual(['suction_pressure', 'supply_db'])
    bench.toggle('supply_db')
    expect(bench.state.value.readings).toEqual(['suction_pressure'])
    bench.give({ kind: 'reading', id: 'condenser_bend' })
    expect(bench.shown.value).toEqual(['suction_pressure', 'condenser_bend'])
    bench.toggle('condenser_bend')
    bench.toggle('supply_db')
    expect(bench.state.value.readings).toBeNull()
  })
  it('undoes a fault as one step and brings it back', async () => {
    const bench = await open()
    bench.add('undercharge')
    bench.add('mismatched_coil')
    bench.history.undo()
    expect(bench.rows.value.map((r) => r.planted.id)).toEqual(['undercharge'])
    bench.history.undo()
    bench.history.redo()
    expect(bench.rows.value.map((r) => r.planted.id)).toEqual(['undercharge'])
  })
  it('asks for nothing more once it is left', async () => {
    const bench = await open()
    bench.add('undercharge')
    await flushPromises()
    left?.unmount()
    const before = posted().length
    await vi.advanceTimersByTimeAsync(1000)
    expect([posted().length, proved()]).toEqual([before, []])
  })
  it('asks for the last of the moves made while one is under way, and shows its answer', async () => {
    const slow: { severity: number; answer: (value: unknown) => void }[] = []
    const bench = await open()
    answers(
      ({ body }) =>
        new Promise((resolve) => slow.push({ severity: (body as Posted).faults[0]?.severity ?? 0, answer: resolve })),
    )
    bench.add('undercharge')
    await flushPromises()
    for (const depth of [20, 40, 60]) {
      const planted = bench.state.value.faults[0]
      if (planted) planted.depth = depth
      await flushPromises()
    }
    // However late the proof comes, it is no move.
    await vi.advanceTimersByTimeAsync(1000)
    expect(slow.map((s) => s.severity)).toEqual([80])
    slow[0]?.answer({ data: { answered: 'first' } })
    await flushPromises()
    expect(slow.map((s) => s.severity)).toEqual([80, 64])
    slow[1]?.answer({ data: { answered: 'last' } })
    await flushPromises()
    expect(bench.reply.value).toEqual({ answered: 'last' })
    expect(bench.failure.value).toBe('')
  })
})
