import { flushPromises, mount } from '@vue/test-utils'
import { defineComponent, h, ref } from 'vue'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import type { Schemas } from '@/api/client'
import RoomNumbers from '@/features/bench/RoomNumbers.vue'
import { useRoomDay, type RoomDay } from '@/features/bench/useRoomDay'
import { asked, HELD } from '@/shared/room'
import { asked as requests, serve, type Sent } from './server'

const trouble = (id: string): Schemas['TroubleRow'] => ({ id, name: id, shows: '' })
const controls = (more = {}) => ({
  mode: 'on',
  said: 'running',
  starts: 8,
  ran_pct: 60,
  low_stage_pct: null,
  defrost_minutes: [14, 16],
  room: 38,
  room_low: 36,
  room_mean: 38,
  room_high: 40,
  goods: 38.1,
  humidity_pct: 80,
  cut_in: 40,
  cut_out: 36,
  settings: [],
  ...more,
})
const day = (hours: number, more = {}) =>
  ({ refusal: null, units: { temperature: '°F' }, minutes: 60 * hours, trace: [], controls: controls(more) }) as never

describe('a room as the server is asked for it', () => {
  it('is nothing while conditions are held', () => {
    expect(asked(HELD, [])).toBeNull()
  })
  it('leaves out what the machine cannot have and what is no number', () => {
    const room = { lives: true, start: Number.NaN, set: 36, door: 'busy', troubles: ['solenoid_leaks', 'fan_delay'] }
    expect(asked(room, [trouble('solenoid_leaks')])).toEqual({
      start: null,
      set: 36,
      door: 'busy',
      troubles: ['solenoid_leaks'],
    })
  })
})

describe('a day on the bench', () => {
  beforeEach(() => {
    vi.useFakeTimers()
    localStorage.clear()
  })
  afterEach(() => vi.useRealTimers())
  const bench = {
    state: ref({ machine: 'cooler' }),
    body: ref({ machine: 'cooler', faults: [{ id: 'undercharge', severity: 40, cause: null }] }),
  }
  function begin(looked: boolean) {
    const spies = serve({
      GET: { '/api/v1/actions/{machine_id}': { actions: [], doors: ['usual'], troubles: [trouble('solenoid_leaks')] } },
      POST: {
        '/api/v1/act': ({ body }: Sent) => ({ data: day((body as Schemas['ActBody']).steps?.length ?? 0) }),
      },
    })
    const seen = ref(looked)
    const found: RoomDay[] = []
    const host = mount(
      defineComponent({
        setup() {
          found.push(useRoomDay(bench as never, seen))
          return () => h('div')
        },
      }),
    )
    const [made] = found
    if (!made) throw new Error('mounted, it has its day')
    return { spies, seen, host, made }
  }
  async function settle() {
    await vi.advanceTimersByTimeAsync(500)
    await flushPromises()
  }
  it('is not played while nobody looks', async () => {
    const { spies, host } = begin(false)
    await settle()
    expect(requests(spies.POST, '/api/v1/act')).toHaveLength(0)
    host.unmount()
  })
  it('grows hour by hour, the planted machine and the same with nothing wrong in turn', async () => {
    const { spies, seen, host, made } = begin(false)
    made.hours.value = 4
    made.room.value.troubles = ['solenoid_leaks']
    seen.value = true
    await settle()
    const bodies = requests(spies.POST, '/api/v1/act').map((s) => s.body as Schemas['ActBody'])
    expect(bodies.map((b) => b.steps?.length)).toEqual([1, 1, 2, 2, 3, 3, 4, 4])
    expect(bodies[0]?.faults).toHaveLength(1)
    expect(bodies[0]?.room?.troubles).toEqual(['solenoid_leaks'])
    expect(bodies[1]?.faults).toEqual([])
    expect(bodies[1]?.room?.troubles).toEqual([])
    expect(made.planted.value?.minutes).toBe(240)
    expect(made.busy.value).toBe(false)
    host.unmount()
  })
  it('is told in figures beside the normal ones', () => {
    const told = {
      planted: ref(day(4, { low_stage_pct: 12, defrost_minutes: [] })),
      normal: ref(day(4)),
      hours: ref(8),
      busy: ref(true),
      failure: ref(''),
    }
    const shown = mount(RoomNumbers, { props: { day: told as never } })
    expect(shown.get('[data-test=day-starts]').text()).toContain('2.0')
    expect(shown.get('[data-test=day-runs]').text()).toContain('60 %, 12 % in low stage')
    expect(shown.get('[data-test=day-defrosts]').text()).toBe('Defrostsnonenormal 2 of 15 min')
    expect(shown.text()).toContain('hour 5 of 8')
  })
})
