import { flushPromises, mount, type VueWrapper } from '@vue/test-utils'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { computed, ref } from 'vue'
import CircuitPicture from '@/shared/circuit/CircuitPicture.vue'
import FigureBar from '@/features/bench/FigureBar.vue'
import ProofPanel from '@/features/bench/ProofPanel.vue'
import StoryPanel from '@/features/bench/StoryPanel.vue'
import { useWhatIf, type WhatIf } from '@/features/bench/useWhatIf'
import LibraryPage from '@/features/library/LibraryPage.vue'
import PracticesPage from '@/features/practices/PracticesPage.vue'
import ProjectorPage from '@/features/projector/ProjectorPage.vue'
import RemotePanel from '@/features/projector/RemotePanel.vue'
import { units } from '@/shared/kept'
import { asked, serve, type Sent } from './server'

vi.mock('vue-router', () => ({ useRouter: () => ({ push: vi.fn() }), useRoute: () => ({ params: {}, query: {} }) }))
const SHAPE = {
  metering: 'txv',
  application: 'air_conditioner',
  condenser: 'tube_and_fin',
  receiver: false,
  circuits: 1,
  refrigeration: false,
}
const FILL = {
  condenser_gas: 0.1,
  condenser_two_phase: 0.7,
  condenser_liquid: 0.2,
  evaporator_boiling: 0.8,
  flash: 0,
  glass: false,
  flood_back: false,
  slugging: false,
  frosting: false,
  receiver: null,
  evaporator_air: 1,
  condenser_air: 1,
  blocked: 0,
  opening: 0.7,
  swings: false,
  stands: false,
  second: null,
}
const circuit = (fill: object | null, more = {}) =>
  mount(CircuitPicture, {
    props: {
      shape: SHAPE,
      fill: fill as never,
      faultFree: fill ? (FILL as never) : null,
      readings: { suction_line: '58.0 °F', supply_db: '61.0 °F' },
      names: {},
      given: ['suction_line'],
      ...more,
    },
  })
const dash = (box: VueWrapper, kind: string, nth = 0) =>
  box.findAll(`.fill.${kind}`)[nth]?.attributes('stroke-dasharray')

beforeEach(() => {
  localStorage.clear()
  units.value = 'us'
})

describe('the circuit picture', () => {
  it('fills the coils to the solved shares with the sound ones behind', () => {
    const box = circuit({
      ...FILL,
      condenser_gas: 0.2,
      condenser_two_phase: 0.8,
      condenser_liquid: 0,
      evaporator_boiling: 0.55,
    })
    expect([dash(box, 'boil'), dash(box, 'mix'), dash(box, 'liquid')]).toEqual(['55 200', '80 200', '0 200'])
    expect(box.find('.ghost.boil').attributes('stroke-dasharray')).toBe('80 200')
    expect(box.findAll('.mark').length).toBeGreaterThan(1)
  })
  it('shows a class neither fill nor sound nor how far the valve stands open', () => {
    const box = circuit(null, { given: null })
    expect(box.find('.fill').exists() || box.find('.ghost').exists() || box.find('[role=switch]').exists()).toBe(false)
    expect(box.text()).not.toContain('%')
    expect(box.text()).toContain('58.0 °F')
  })
  it('gives and withholds a reading by mouse and by key, and says which', async () => {
    const box = circuit(FILL)
    const chip = box.find('[data-reading=supply_db]')
    expect(chip.attributes('aria-checked')).toBe('false')
    expect(chip.attributes('aria-label')).toBe('supply air 61.0 °F: withheld')
    await chip.trigger('click')
    await chip.trigger('keydown', { key: ' ' })
    await box.find('[data-reading=suction_line]').trigger('keydown', { key: 'Enter' })
    expect(box.emitted('toggle')).toEqual([['supply_db'], ['supply_db'], ['suction_line']])
  })
  it('shows bubbles, drops, ice, thin air and a machine that moves nothing', () => {
    expect(circuit({ ...FILL, flash: 0.04 }).findAll('.flash circle').length).toBeGreaterThan(3)
    expect(circuit(FILL).find('.flash').exists()).toBe(false)
    const flooded = circuit({ ...FILL, flood_back: true, frosting: true, evaporator_air: 0.5 })
    expect(flooded.find('.drops').exists() && flooded.find('.rime').exists() && flooded.find('.sump').exists()).toBe(
      true,
    )
    expect(flooded.text()).toContain('50 % of it')
    expect(circuit({ ...FILL, stands: true }).text()).toContain('compressor not pumping')
  })
  it('draws a receiver with its level, a clear or a bubbling glass, and two circuits', () => {
    const shape = { ...SHAPE, receiver: true, refrigeration: true, application: 'walk_in_cooler' }
    expect(circuit({ ...FILL, receiver: 0.4 }, { shape }).text()).toContain('40 %')
    expect(circuit({ ...FILL, receiver: 0, glass: true }, { shape }).findAll('.glass .bubble').length).toBe(5)
    expect(
      circuit({ ...FILL, receiver: 0.4 }, { shape })
        .find('.glass .full')
        .exists(),
    ).toBe(true)
    expect(
      circuit({ ...FILL, second: 'stands' }, { shape: { ...SHAPE, circuits: 2, application: 'package_unit' } }).text(),
    ).toContain('circuit 2 stands')
  })
  it.each([
    ['tube_and_fin', 'fins'],
    ['microchannel', 'flat'],
    ['water_cooled', 'water'],
  ])('draws a %s condenser in its own way', (condenser, look) => {
    expect(circuit(FILL, { shape: { ...SHAPE, condenser } }).findAll(`.coil.${look}`).length).toBe(
      look === 'fins' ? 2 : 1,
    )
  })
  it('numbers the planted faults where they sit, beside one another where they share a place', () => {
    const box = circuit(FILL, {
      marks: [
        { place: 'condenser', text: '1', name: 'Dirty' },
        { place: 'condenser', text: '2', name: 'Wet' },
      ],
    })
    const xs = box.findAll('.planted circle').map((c) => Number(c.attributes('cx')))
    expect((xs[1] ?? 0) - (xs[0] ?? 0)).toBe(20)
  })
})

describe('a figure', () => {
  it('stands against its band and beside sound, with its verdict in words', () => {
    const quantity = (value: number) => ({ value, unit: '°F', text: `${value} °F` })
    const box = mount(FigureBar, {
      props: {
        figure: {
          id: 'superheat',
          label: 'Superheat',
          now: quantity(25),
          fault_free: quantity(10),
          band_low: 10,
          band_high: 20,
          band_text: '10 to 20 °F',
          scale_low: 0,
          scale_high: 50,
          verdict: 'high',
        },
      },
    })
    expect(box.find('.now').attributes('style')).toContain('50%')
    expect(box.find('.band').attributes('style')).toContain('left: 20%; width: 20%')
    expect(box.text()).toContain('▲ HIGH')
  })
})

const alike = (fault: string, distance: number, ruled_out = false) => ({
  fault,
  name: fault,
  distance,
  ruled_out,
  severities: '60 %',
})
const PROOF = {
  answer: 'undercharge',
  unique: false,
  refusal: null,
  equals: [alike('long line', 0.7)],
  nearest: [alike('weak fan', 3.4), alike('sound', 12), alike('late', 0.5, true)],
  splits: [{ kind: 'reading', id: 'condenser_bend', text: 'Bend', minutes: 1, removes: ['long line'] }],
  left: ['gremlins'],
  difficulty: { level: 4, points: 4, reasons: [{ points: 1, text: 'two at once' }] },
  judged: { fair: false, sentence: 'Not fair on paper: too faint.' },
}
function bench(proof: unknown, more = {}) {
  const give = vi.fn()
  const state = ref({
    given: ['filter'],
    readings: null,
    story: { complaint: 'Mine.', history: '', look_round: '', turn: 0 },
    tags: '',
  })
  return {
    give,
    state,
    made: {
      state,
      proof: ref(proof),
      proving: ref(false),
      machine: ref({ tests: [{ id: 'filter', name: 'Filters' }] }),
      give,
      withhold: vi.fn(),
      body: ref({ machine: 'm' }),
      ...more,
    } as never,
  }
}
const stubs = {
  'el-button': { template: '<button><slot /></button>' },
  'el-tag': { template: '<span class="tag"><slot /></span>' },
  'el-drawer': { template: '<div><slot /></div>' },
  RouterLink: { template: '<a><slot /></a>' },
}

describe('the proof', () => {
  it('draws look-alikes by distance and gives what separates with one click', async () => {
    const { made, give } = bench(PROOF)
    const box = mount(ProofPanel, { props: { bench: made }, global: { stubs } })
    expect(box.find('[data-test=verdict]').text()).toBe('1 other answer looks the same.')
    expect(
      box
        .findAll('.ladder li')
        .map((li) => [li.classes().join(), li.find('b').text(), li.find('.dot').attributes('style')]),
    ).toEqual([
      ['open', '0.7', 'left: 8.75%;'],
      ['', '3.4', 'left: 42.5%;'],
      ['', '8+', 'left: 100%;'],
      ['out', 'ruled out', 'left: 6.25%;'],
    ])
    await box.find('[data-test=give]').trigger('click')
    expect(give).toHaveBeenCalledWith(expect.objectContaining({ kind: 'reading', id: 'condenser_bend' }))
    expect(box.text()).toContain('Nothing here rules out gremlins')
    expect(box.find('[data-test=judged]').text()).toContain('too faint')
    expect(box.find('.tag').text()).toBe('Filters')
  })
  it('says that it is proving instead of showing the verdict of the machine before', () => {
    const { made } = bench(PROOF, { proving: ref(true) })
    expect(
      mount(ProofPanel, { props: { bench: made }, global: { stubs } })
        .find('[data-test=verdict]')
        .text(),
    ).toBe('Proving…')
  })
})

describe('the story', () => {
  it('drafts what is empty, drafts anew what was drafted, and never overwrites what was typed', async () => {
    const { POST } = serve({
      POST: {
        '/api/v1/bench/story': ({ body }: Sent) => ({
          data: {
            complaint: 'Theirs.',
            history: (body as { turn: number }).turn ? 'Never serviced.' : 'Serviced.',
            look_round: ['Filter clean.', 'No ice.'],
          },
        }),
      },
    })
    const { made, state } = bench(PROOF)
    const box = mount(StoryPanel, { props: { bench: made }, global: { stubs } })
    await box.find('[data-test=draft]').trigger('click')
    await flushPromises()
    expect(state.value.story).toEqual({
      complaint: 'Mine.',
      history: 'Serviced.',
      look_round: 'Filter clean.\nNo ice.',
      turn: 0,
    })
    state.value.story.look_round = 'Filter clean.\nNo ice, by my own eyes.'
    await box.findAll('button')[1]?.trigger('click')
    await flushPromises()
    expect(state.value.story).toEqual({
      complaint: 'Mine.',
      history: 'Never serviced.',
      look_round: 'Filter clean.\nNo ice, by my own eyes.',
      turn: 1,
    })
    expect(asked(POST, '/api/v1/bench/story').map((sent) => sent.body)).toMatchObject([
      { turn: 0, given_tests: ['filter'] },
      { turn: 1 },
    ])
  })
})

describe('what if', () => {
  const frames = [0, 60, 120].map((time_s) => ({
    time_s,
    running: true,
    fill: FILL,
    needles: { low: time_s, high: 0 },
    readings: [],
  }))
  const playing = () =>
    serve({
      GET: { '/api/v1/actions/{machine_id}': { actions: [] } },
      POST: { '/api/v1/act': { frames, steps: [], left: [] } },
    })
  it('plays the steps frame by frame, forgets them when something else is planted, and saves nothing', async () => {
    const { POST } = playing()
    vi.stubGlobal('matchMedia', () => ({ matches: false }))
    const body = ref({ machine: 'm' })
    let what!: WhatIf
    mount({
      setup() {
        what = useWhatIf({ body: computed(() => body.value), state: ref({ machine: 'm' }) } as never)
        return () => null
      },
    })
    what.act('wait', { minutes: 5 })
    await flushPromises()
    expect(what.playing.value).toBe(true)
    await vi.advanceTimersByTimeAsync(500)
    expect([what.at.value, what.playing.value, what.frame.value?.time_s]).toEqual([2, false, 120])
    body.value = { machine: 'n' }
    await flushPromises()
    expect(what.steps.value).toEqual([])
    expect(what.frame.value).toBeNull()
    expect(asked(POST, '/api/v1/act')).toHaveLength(1)
  })
  it('stands at the end at once where motion is unwanted', async () => {
    playing()
    vi.stubGlobal('matchMedia', () => ({ matches: true }))
    let what!: WhatIf
    mount({
      setup() {
        what = useWhatIf({ body: computed(() => ({ machine: 'm' })), state: ref({ machine: 'm' }) } as never)
        return () => null
      },
    })
    what.act('settle')
    await flushPromises()
    expect([what.at.value, what.playing.value]).toEqual([2, false])
  })
})

describe("the class's screen", () => {
  const story = {
    complaint: 'Warm.',
    history: '',
    look_round: ['Filter clean.'],
    picture: { ...SHAPE, name: 'x', refrigerant: 'R-22' },
    plate: [{ label: 'Refrigerant', text: 'R-22' }],
  }
  it('asks with its token alone, draws what it is sent, and asks again only for what is new', async () => {
    location.hash = '#secret'
    const asked: [string, RequestInit][] = []
    const replies = [
      { revision: 1, shown: { step: 'look', steps: ['look', 'measure'], practice: 'S', story } },
      { revision: 1, shown: null },
      {
        revision: 2,
        shown: {
          step: 'compare',
          steps: ['look'],
          practice: 'S',
          story,
          figures: [{ id: 'ctoa', label: 'CTOA', text: '23 °F', how: 'a − b' }],
          verdicts: [{ id: 'ctoa', label: 'CTOA', verdict: 'high' }],
        },
      },
    ]
    vi.stubGlobal('fetch', (url: string, init: RequestInit) => {
      asked.push([url, init])
      return Promise.resolve({ ok: true, json: () => Promise.resolve(replies[Math.min(asked.length - 1, 2)]) })
    })
    const box = mount(ProjectorPage)
    await flushPromises()
    expect(box.text()).toContain('Warm.')
    expect(box.find('[data-test=wall-figures]').exists()).toBe(false)
    await vi.advanceTimersByTimeAsync(1300)
    await vi.advanceTimersByTimeAsync(1300)
    expect(box.find('[data-test=wall-figures]').text()).toContain('▲ HIGH')
    expect(asked.map(([url]) => url.split('since=')[1])).toEqual(['0', '1', '1'])
    expect(
      asked.every(
        ([url, init]) =>
          !url.includes('secret') &&
          init.credentials === 'omit' &&
          (init.headers as Record<string, string>)['X-Wolfsbane-Projection'] === 'secret',
      ),
    ).toBe(true)
  })
  it('says what to do when its link opens nothing any more', async () => {
    vi.stubGlobal('fetch', () =>
      Promise.resolve({
        ok: false,
        json: () => Promise.resolve({ error: { message: 'nothing is on the projector' } }),
      }),
    )
    const box = mount(ProjectorPage)
    await flushPromises()
    expect(box.find('[role=alert]').text()).toContain('nothing is on the projector')
  })
})

describe('the remote', () => {
  it('puts up, reveals one part and then hides it, and measuring brings the readings', async () => {
    const turned: { step: string; shown: string[] }[] = []
    const remote = { id: 4, step: 'look', shown: ['story'], tests: [], created_at: '' }
    serve({
      GET: { '/api/v1/projections': { projection: null } },
      POST: { '/api/v1/projections': { ...remote, token: 'abc' } },
      PUT: {
        '/api/v1/projections/{projection_id}': ({ body }) => {
          turned.push(body)
          return { data: { ...remote, ...(body as object), tests: [] } }
        },
      },
    })
    const { made } = bench(PROOF)
    const box = mount(RemotePanel, { props: { bench: made, open: true }, global: { stubs } })
    await flushPromises()
    expect(box.find('[data-test=projector-link]').exists()).toBe(false)
    await box.find('[data-test=put-up]').trigger('click')
    await flushPromises()
    expect(box.find('[data-test=projector-link]').attributes('href')).toMatch(/\/projector#abc$/)
    await box.find('[data-test=step-measure]').trigger('click')
    await flushPromises()
    await box.find('[data-test=step-compare]').trigger('click')
    await flushPromises()
    await box.find('[data-test=reveal-verdicts]').trigger('change')
    await flushPromises()
    await box.find('[data-test=reveal-verdicts]').trigger('change')
    await flushPromises()
    expect(turned.map((t) => [t.step, t.shown.join()])).toEqual([
      ['measure', 'story,readings'],
      ['compare', 'story,readings'],
      ['compare', 'story,readings,verdicts'],
      ['compare', 'story,readings'],
    ])
  })
  it('steps with a presenter’s keys, and not while somebody types', async () => {
    const remote = { id: 4, step: 'look', shown: ['story'], tests: [], created_at: '' }
    const steps: string[] = []
    serve({
      GET: { '/api/v1/projections': { projection: remote } },
      PUT: {
        '/api/v1/projections/{projection_id}': ({ body }) => {
          steps.push((body as { step: string }).step)
          return { data: { ...remote, ...(body as object), tests: [] } }
        },
      },
    })
    const { made } = bench(PROOF)
    const box = mount(RemotePanel, {
      props: { bench: made, open: true },
      global: { stubs },
      attachTo: document.body,
    })
    await flushPromises()
    const field = document.body.appendChild(document.createElement('input'))
    const press = async (name: string, on: EventTarget = document.body) => {
      on.dispatchEvent(new KeyboardEvent('keydown', { key: name, bubbles: true, cancelable: true }))
      await flushPromises()
    }
    await press('PageUp')
    for (const name of ['ArrowRight', ' ', 'PageDown', 'ArrowLeft']) await press(name)
    await press('ArrowRight', field)
    await press('x')
    await box.setProps({ open: false })
    await press('ArrowRight')
    expect(steps).toEqual(['measure', 'convert', 'compare', 'convert'])
    box.unmount()
    field.remove()
  })
})

const SCENARIO = {
  id: 7,
  version: 2,
  title: 'Runs',
  machine_name: 'M',
  fault_name: 'Undercharge',
  severity_text: '',
  created_at: '',
  level: 3,
  one_answer: true,
  proof: 'One defensible answer.',
  tags: ['charge'],
  shared: false,
  mine: true,
  owner: 'Me',
  archived: false,
  on_paper: true,
  sheets: 0,
  body: { faults: [{ id: 'undercharge' }] },
}
const listed = (...scenarios: object[]) => serve({ GET: { '/api/v1/scenarios': { scenarios } } })
describe('the library page', () => {
  it("offers what one may do with one's own and with a colleague's scenario", async () => {
    listed(SCENARIO, { ...SCENARIO, id: 8, title: 'Theirs', mine: false, shared: true, on_paper: false })
    const box = mount(LibraryPage, { global: { stubs } })
    await flushPromises()
    const [own, theirs] = box.findAll('tbody tr').map((r) => r.text())
    expect(own).toContain('Share')
    expect(own).toContain('Archive')
    expect(theirs).not.toContain('Archive')
    expect(theirs).toContain('Duplicate')
    expect(theirs).toContain('bench only')
    expect(box.find('[data-test=export]').exists()).toBe(false)
    await box.find('#s7').setValue(true)
    expect(box.find('[data-test=export]').attributes('href')).toBe('/api/v1/scenarios/files?ids=7')
    box.unmount()
  })
  it('proves what came in unproved, one after the other, and stops when it is left', async () => {
    const raw = (id: number) => ({ ...SCENARIO, id, proof: '', level: null, one_answer: null })
    const proofs: ((value: unknown) => void)[] = []
    const { PUT: put } = serve({
      GET: { '/api/v1/scenarios': { scenarios: [raw(1), SCENARIO, raw(2), raw(3)] } },
      PUT: { '/api/v1/scenarios/{scenario_id}/proof': () => new Promise((resolve) => proofs.push(resolve)) },
    })
    const box = mount(LibraryPage, { global: { stubs } })
    await flushPromises()
    expect(put).toHaveBeenCalledTimes(1)
    proofs[0]?.({ data: { ...raw(1), proof: 'Looks the same: a sound one.', one_answer: false, level: 2 } })
    await flushPromises()
    expect(box.findAll('tbody tr')[0]?.text()).toContain('Looks the same')
    expect(box.findAll('tbody tr')[2]?.text()).toContain('Proving')
    expect(put).toHaveBeenCalledTimes(2)
    box.unmount()
    proofs[1]?.({ data: raw(2) })
    await flushPromises()
    expect(put).toHaveBeenCalledTimes(2)
  })
  it('says what to do when there is nothing', async () => {
    listed()
    const box = mount(LibraryPage, { global: { stubs } })
    await flushPromises()
    expect(box.find('.empty').text()).toContain('Add a fault on the bench')
    box.unmount()
  })
})

describe('practices', () => {
  const choice = {
    id: 'subcooling_tolerance_df',
    label: 'Subcooling',
    kind: 'number',
    value: 3,
    unit: '°F',
    low: 0.5,
    high: 8,
    words: [],
    reason: 'Clamps.',
  }
  const practice = { id: 'plate_and_formula', name: 'Plain', own: false, reasons: {}, choices: [choice] }
  it('keeps a half-written copy through a reload and sends it in the units it was begun in', async () => {
    const { POST: post } = serve({
      GET: { '/api/v1/practices': { practices: [practice] } },
      POST: {
        '/api/v1/practices': { practices: [practice, { ...practice, id: 'own-ours', name: 'Ours', own: true }] },
      },
    })
    const first = mount(PracticesPage, { global: { stubs } })
    await flushPromises()
    await first.find('[data-test=copy-practice]').trigger('click')
    await first.find('[data-test=practice-name]').setValue('Ours')
    await first.find('[data-test=subcooling_tolerance_df]').setValue('5')
    first.unmount()
    const again = mount(PracticesPage, { global: { stubs } })
    await flushPromises()
    expect((again.find('[data-test=practice-name]').element as HTMLInputElement).value).toBe('Ours')
    units.value = 'si'
    await flushPromises()
    expect((again.find('[data-test=subcooling_tolerance_df]').element as HTMLInputElement).value).toBe('5')
    await again.find('form').trigger('submit')
    await flushPromises()
    expect(post.mock.calls[0]?.[1]).toMatchObject({
      body: { base: 'plate_and_formula', name: 'Ours', changes: { subcooling_tolerance_df: 5 }, units: 'us' },
    })
    expect(again.find('form').exists()).toBe(false)
    again.unmount()
  })
})
