import { flushPromises, mount } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { createMemoryHistory, createRouter } from 'vue-router'
import DataPanel from '@/features/rigs/DataPanel.vue'
import DevicePanel from '@/features/rigs/DevicePanel.vue'
import DriftPicture from '@/features/rigs/DriftPicture.vue'
import RigsPage from '@/features/rigs/RigsPage.vue'
import RotationPanel from '@/features/rigs/RotationPanel.vue'
import { standing } from '@/features/rigs/useLab'
import { asked, serve } from './server'

const reading = (point: string, text: string, healthy: string) => ({
  point,
  label: point.replace('_', ' '),
  kind: 'pressure',
  unit: 'psig',
  value: Number.parseFloat(text),
  text,
  healthy: Number.parseFloat(healthy),
  healthy_text: healthy,
  expected: null,
  expected_text: '–',
  doubt: '',
})
const rig = (more: object = {}) => ({
  id: 7,
  name: 'Rig 7',
  place: 'Bay 2',
  machine: 'split',
  machine_name: 'Larkspur 36',
  refrigerant: 'R-410A',
  logged: true,
  state: 'answers',
  told: '',
  seen_at: null,
  settled_min: 6.4,
  why: [],
  alarms: [],
  doubts: [],
  readings: [reading('suction_pressure', '118.2 psig', '122.0 psig')],
  figures: [],
  standing: [
    {
      device: 'bypass',
      name: 'Bypass',
      position: 1.5,
      unit: 'turns',
      fault_name: 'Weak compressor',
      severity_text: '31 %, gas blown back',
      since: '',
    },
  ],
  baseline_at: '2026-11-20T09:00:00Z',
  undone_at: null,
  undone_by: '',
  undone_seen: '',
  held: '',
  photo_at: null,
  ...more,
})
const router = createRouter({
  history: createMemoryHistory(),
  routes: [{ path: '/:all(.*)*', component: { template: '<i/>' } }],
})

async function lab(rigs: object[], path = '/rigs') {
  const spies = serve({ GET: { '/api/v1/rigs': { rigs, now: '' }, '/api/v1/lab/sessions': { sessions: [], now: '' } } })
  await router.push(path)
  const page = mount(RigsPage, { global: { plugins: [router] } })
  await flushPromises()
  return { page, spies }
}

describe('a rig in one line', () => {
  it.each([
    [{}, 'good', 'settled for 6 min'],
    [{ settled_min: 0, why: ['head pressure is still rising'] }, 'wait', 'head pressure is still rising'],
    [{ state: 'silent', told: 'nobody answers' }, 'bad', 'silent: nobody answers'],
    [{ state: 'wrong', told: 'the gauges are exchanged' }, 'bad', 'the gauges are exchanged'],
    [{ state: 'new' }, 'wait', 'waiting for its first reading'],
    [{ logged: false }, 'none', 'no logger: readings are typed'],
  ])('%j', (more, tone, text) => {
    expect(standing(rig(more) as never)).toEqual({ tone, text })
  })
})

describe('the lab', () => {
  it('shows what is planted, and hides it with one key and on the wall', async () => {
    const { page } = await lab([rig()])
    expect(page.find('[data-test=standing]').text()).toContain('Weak compressor: 31 %')
    expect(page.text()).toContain('normal 122.0 psig')
    await page.find('main').trigger('keydown', { key: 'h' })
    expect(page.find('[data-test=standing]').exists()).toBe(false)
    expect(page.text()).not.toContain('normal')
    await page.find('main').trigger('keydown', { key: 'h' })
    const wall = await lab([rig()], '/rigs?wall=1')
    expect(wall.page.text()).not.toContain('Weak compressor')
    expect(wall.page.text()).toContain('118.2 psig')
  })

  it('says at a limit what to do', async () => {
    const alarm = { point: 'head_pressure', passed: true, text: 'Head pressure 431 psig is over.', action: 'Stop.' }
    const { page } = await lab([rig({ alarms: [alarm] })])
    expect(page.find('[role=alert]').text()).toBe('Head pressure 431 psig is over. Stop.')
    expect(page.find('article').classes()).toContain('alarm')
  })

  it('says why a rig is held, and who signed one that is back', async () => {
    const why = 'Suction pressure reads 8 psi lower than predicted'
    const undone = { standing: [], undone_at: '2026-11-20T09:00:00Z', undone_by: 'Hazel Ostler' }
    const { page } = await lab([rig({ ...undone, held: why }), rig({ ...undone, id: 8, undone_seen: 'within 1.2 °F' })])
    const [held, back] = page.findAll('[data-test=rig]').map((card) => card.text())
    expect(held).toContain(`not back at its baseline: ${why}`)
    expect(back).not.toContain('Held')
    expect(back).toMatch(/Undone .*signed Hazel Ostler; within 1.2 °F/)
    await page.find('[data-test=hide]').trigger('click')
    expect(page.text()).not.toContain(why)
  })

  it('keeps what it showed when the line is lost, asks again ever later, and catches up', async () => {
    const { page, spies } = await lab([rig()])
    spies.GET.mockRejectedValue(new Error('The server did not answer.'))
    await vi.advanceTimersByTimeAsync(1000)
    expect(page.find('.error').text()).toContain('What stands here is from before')
    expect(page.text()).toContain('118.2 psig')
    const asked = () => spies.GET.mock.calls.filter(([path]) => path === '/api/v1/rigs').length
    const before = asked()
    await vi.advanceTimersByTimeAsync(2000)
    await vi.advanceTimersByTimeAsync(4000)
    expect(asked()).toBe(before + 2)
    spies.GET.mockResolvedValue({ data: { rigs: [rig({ settled_min: 0, why: ['moving'] })], sessions: [], now: '' } })
    await vi.advanceTimersByTimeAsync(8000)
    expect(page.find('.error').exists()).toBe(false)
    expect(page.find('[data-test=state]').text()).toBe('moving')
  })
})

const DEVICE = {
  id: 'liquid_valve',
  kind: 'liquid_valve',
  name: 'Hand valve',
  unit: 'turns',
  most: 4,
  position: 0,
  remote: true,
  who: 'assistant',
  set: 'Close it.',
  undo: 'Open it.',
  limits: 'Watch the head.',
  hazards: ['Gloves.'],
  faults: [{ id: 'liquid_line_restriction', name: 'Restricted liquid line' }],
  settings: [
    {
      id: 3,
      measured_at: '',
      position: 2,
      fault: 'liquid_line_restriction',
      fault_name: 'Restricted liquid line',
      severity: 60,
      severity_text: '60 psi, drop',
      spread_text: '± 4 psi',
    },
  ],
}
const FULL = { row: rig(), devices: [DEVICE] }

function device(more: object, props: object = {}) {
  return mount(DevicePanel, {
    props: {
      rigId: 7,
      rigName: 'Rig 7',
      device: { ...DEVICE, ...more },
      settled: true,
      alone: true,
      teaches: true,
      ...props,
    },
  })
}

describe('a device', () => {
  beforeEach(() => {
    serve({
      PUT: { '/api/v1/rigs/{rig_id}/devices/{device}': FULL },
      POST: { '/api/v1/rigs/{rig_id}/settings': FULL },
      GET: {
        '/api/v1/rigs/{rig_id}/plan': {
          position: 2.5,
          give_or_take: 0.1,
          unit: 'turns',
          severity_text: '100 psi, drop',
          set: '',
          undo: '',
          limits: 'Watch the head.',
          hazards: ['Gloves.'],
          expected: [],
        },
      },
    })
  })
  afterEach(() => vi.restoreAllMocks())

  it('is set with a decimal comma and undone', async () => {
    const spies = serve({ PUT: { '/api/v1/rigs/{rig_id}/devices/{device}': FULL } })
    const panel = device({})
    await panel.find('input').setValue('2,5')
    await panel.find('[data-test=set]').trigger('click')
    await flushPromises()
    expect(asked(spies.PUT, '/api/v1/rigs/{rig_id}/devices/{device}')[0]?.body).toEqual({ position: 2.5, signed: '' })
    expect(panel.emitted('changed')).toHaveLength(1)
  })

  it('leaves to an instructor what only an instructor may set, and measures for nobody else', () => {
    const locked = device({ who: 'instructor' }, { teaches: false })
    expect(locked.find('[data-test=may-not]').exists()).toBe(true)
    expect(locked.find('[data-test=set]').exists()).toBe(false)
    const open = device({ position: 2 }, { teaches: false })
    expect(open.find('[data-test=set]').exists()).toBe(true)
    expect(open.find('[data-test=measure]').exists()).toBe(false)
    expect(open.find('.x').exists()).toBe(false)
    expect(device({ who: 'instructor' }).find('[data-test=set]').exists()).toBe(true)
  })

  it('is measured once the rig stands still and nothing else is set', () => {
    const button = (props: object) => device({ position: 2 }, props).find('[data-test=measure]').attributes('disabled')
    expect(button({})).toBeUndefined()
    expect(button({ settled: false })).toBeDefined()
    expect(button({ alone: false })).toBeDefined()
  })

  it('says which position brings it as deep as wanted, with its cautions', async () => {
    const panel = device({})
    await panel.findAll('input').at(-1)?.setValue('100')
    await panel.find('form').trigger('submit')
    await flushPromises()
    const card = panel.find('[data-test=plan-card]').text()
    expect(card).toContain('2.5 turns')
    expect(card).toContain('± 0.1')
    expect(card).toContain('Gloves.')
    const printed = vi.fn(() => {
      expect(document.body.classList.contains('one-card')).toBe(true)
      expect(document.querySelector('body > .alone')?.textContent).toContain('2.5 turns')
    })
    vi.stubGlobal('print', printed)
    await panel.find('[data-test=print-card]').trigger('click')
    await flushPromises()
    expect(printed).toHaveBeenCalledOnce()
    expect(document.body.classList.contains('one-card')).toBe(false)
    expect(document.querySelector('.alone')).toBeNull()
  })
})

describe('a logger’s file', () => {
  it('is matched column by column before anything is stored', async () => {
    const reply = (more: object) => ({
      heads: ['Zeit', 'HP'],
      columns: { time: { point: 'Zeit', unit: '' } },
      points: [{ id: 'head_pressure', name: 'Head pressure', units: ['psig', 'bar'] }],
      rows: 2,
      first: '2026-11-30T09:00:00',
      last: '2026-11-30T09:00:01',
      left_out: [],
      stored: false,
      ...more,
    })
    const spies = serve({
      POST: {
        '/api/v1/rigs/{rig_id}/file': (sent: { body: { columns: object | null; confirmed: boolean } }) => ({
          data: reply({ ...(sent.body.columns ? { columns: sent.body.columns } : {}), stored: sent.body.confirmed }),
        }),
      },
    })
    const panel = mount(DataPanel, { props: { rigId: 7, full: { map: '', has_token: false } as never } })
    const input = panel.find('[data-test=file]')
    Object.defineProperty(input.element, 'files', { value: [{ text: async () => 'Zeit;HP\n1;24,3' }] })
    await input.trigger('change')
    await flushPromises()
    expect(panel.text()).toContain('left out')
    await panel.find('select').setValue('head_pressure')
    await flushPromises()
    expect(panel.findAll('select').at(1)?.element.value).toBe('psig')
    await panel.findAll('select').at(1)?.setValue('bar')
    await flushPromises()
    await panel.find('[data-test=store]').trigger('click')
    await flushPromises()
    const last = asked(spies.POST, '/api/v1/rigs/{rig_id}/file').at(-1)?.body as unknown
    expect(last).toMatchObject({ confirmed: true, columns: { HP: { point: 'head_pressure', unit: 'bar' } } })
    expect(panel.text()).toContain('2 readings stored')
  })
})

const ROTATION = {
  id: 1,
  class_name: 'Firsts',
  minutes: 30,
  number: 1,
  of: 2,
  ends_at: '',
  places: [{ rig_id: 7, now: ['Ada Quill'], following: ['Bo Fenn'] }],
  desk: ['Bo Fenn'],
  desk_following: ['Ada Quill'],
  people: [
    { id: 1, name: 'Ada Quill', away: false },
    { id: 2, name: 'Bo Fenn', away: false },
    { id: 3, name: 'Cy Thorne', away: true },
  ],
}

describe('a class that goes round the rigs', () => {
  const lab = { rigs: [], now: '', rotation: null }
  const panel = (props: object = {}) =>
    mount(RotationPanel, { props: { rotation: ROTATION, left: 12.55, rigs: [], wall: false, ...props } as never })
  afterEach(() => vi.restoreAllMocks())

  it('counts the minutes down and past the end', async () => {
    serve({ GET: { '/api/v1/sheets': { sheets: [] } } })
    const shown = panel()
    expect(shown.find('[data-test=left]').text()).toBe('12:33')
    await shown.setProps({ left: -1.05 })
    expect(shown.find('[data-test=left]').text()).toBe('+1:03')
    expect(shown.text()).toContain('over time')
  })

  it('asks for the round after this one, and after the last for none', async () => {
    const spies = serve({
      GET: { '/api/v1/sheets': { sheets: [] } },
      PUT: { '/api/v1/rigs/rotation/round': lab },
    })
    const shown = panel()
    await flushPromises()
    await shown.find('[data-test=next-round]').trigger('click')
    await flushPromises()
    expect(asked(spies.PUT, '/api/v1/rigs/rotation/round')[0]?.body).toEqual({ number: 2 })
    expect(shown.emitted('changed')).toHaveLength(1)
    expect(
      panel({ rotation: { ...ROTATION, number: 2 } })
        .find('[data-test=next-round]')
        .exists(),
    ).toBe(false)
  })

  it('sends at once who is gone and who has come', async () => {
    const spies = serve({
      GET: { '/api/v1/sheets': { sheets: [] } },
      PUT: { '/api/v1/rigs/rotation/people': lab },
    })
    const shown = panel()
    await flushPromises()
    await shown.find('[data-test=who]').trigger('click')
    const boxes = shown.findAll('.here input')
    await boxes[0]?.trigger('change')
    await flushPromises()
    await boxes[2]?.trigger('change')
    await flushPromises()
    expect(asked(spies.PUT, '/api/v1/rigs/rotation/people').map((s) => s.body)).toEqual([
      { away: [3, 1] },
      { away: [] },
    ])
  })

  it('shows a wall names and time, and nothing to press', () => {
    const wall = panel({ wall: true })
    expect(wall.text()).toContain('At the desk: Bo Fenn')
    expect(wall.findAll('button')).toHaveLength(0)
  })
})

describe('baselines over the term', () => {
  const of = (pct: number, uncertain_pct: number, made_at: string, told = true) => ({
    id: 1,
    made_at,
    factors: [
      { id: 'charge', words: 'charge', pct, uncertain_pct, told },
      { id: 'line', words: 'drop in the lines', pct: 9 * pct, uncertain_pct: 20, told: false },
    ],
  })
  const said = (...rows: object[]) =>
    mount(DriftPicture, { props: { baselines: rows as never } })
      .find('figcaption')
      .text()

  it('names what moved by more than the calibrations can be off, the newest against the first', () => {
    expect(said(of(-9, 1, '2026-11-20T09:00:00Z'), of(-2, 1, '2026-09-01T09:00:00Z'))).toContain('charge −7.0 %')
    expect(said(of(-4, 1, '2026-11-20T09:00:00Z'), of(-2, 1, '2026-09-01T09:00:00Z'))).toContain('Nothing moved')
    expect(said(of(-9, 1, '2026-11-20T09:00:00Z', false), of(-2, 1, '2026-09-01T09:00:00Z'))).toContain('Nothing')
  })
})
