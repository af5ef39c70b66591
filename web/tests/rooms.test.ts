import { flushPromises, mount, type VueWrapper } from '@vue/test-utils'
import { describe, expect, it, vi } from 'vitest'
import LibraryPage from '@/features/library/LibraryPage.vue'
import PracticesPage from '@/features/practices/PracticesPage.vue'
import ReadingsPage from '@/features/readings/ReadingsPage.vue'
import { units } from '@/shared/kept'
import { asked, serve, type Sent } from './server'

const push = vi.fn()
vi.mock('vue-router', () => ({ useRouter: () => ({ push }), useRoute: () => ({ params: {}, query: {} }) }))

async function open(page: object): Promise<VueWrapper> {
  const made = mount(page, { global: { stubs: { RouterLink: true, VersionsPanel: true } } })
  await flushPromises()
  return made as VueWrapper
}
const refusal = (message: string) => () => Promise.resolve({ error: { error: { code: 'x', message } } })

describe('the practices', () => {
  const choice = (id: string, kind: string, value: unknown, more: object = {}) => ({
    id,
    label: id,
    kind,
    value,
    unit: '°F',
    low: 0,
    high: 10,
    words: [],
    reason: '',
    ...more,
  })
  const practice = (id: string, tolerance: number, own = false) => ({
    id,
    name: id,
    own,
    reasons: {},
    choices: [
      choice('subcooling_tolerance_df', 'number', tolerance),
      choice('valve_superheat_df', 'range', [10, 20]),
      choice('topping_up', 'word', 'wrong', { words: ['right', 'wrong'] }),
      choice('td_from_machine', 'switch', true),
    ],
  })
  const ALL = { practices: [practice('plate_and_formula', 3), practice('tight_plate', 2)] }

  it('shows each choice in words and names what differs from the usual practice', async () => {
    serve({ GET: { '/api/v1/practices': ALL } })
    const page = await open(PracticesPage)
    expect(page.text()).toContain('10 to 20')
    expect(page.text()).not.toContain('differs from the usual practice')
    await page.findAll('nav button')[1]?.trigger('click')
    expect(page.findAll('tr')[0]?.text()).toContain('differs from the usual practice')
    expect(page.findAll('tr')[1]?.text()).not.toContain('differs')
  })
  it('sends a copy with every value, changed or not, and chooses what came back', async () => {
    const spies = serve({
      GET: { '/api/v1/practices': ALL },
      POST: {
        '/api/v1/practices': {
          practices: [...ALL.practices, { ...practice('own-shop', 1.5, true), name: 'Our shop' }],
        },
      },
    })
    const page = await open(PracticesPage)
    await page.find('[data-test=copy-practice]').trigger('click')
    await page.find('[data-test=practice-name]').setValue('Our shop')
    await page.find('[data-test=subcooling_tolerance_df]').setValue(1.5)
    await page.find('form').trigger('submit')
    await flushPromises()
    expect(asked(spies.POST, '/api/v1/practices')[0]?.body).toEqual({
      base: 'plate_and_formula',
      name: 'Our shop',
      reason: '',
      units: 'us',
      changes: {
        subcooling_tolerance_df: 1.5,
        valve_superheat_df: [10, 20],
        topping_up: 'wrong',
        td_from_machine: true,
      },
    })
    expect(page.text()).toContain('Saved.')
    expect(localStorage.getItem('wolfsbane.practices.draft')).not.toContain('Our shop')
  })
  it('keeps a copy in the units it was begun in, and through a refusal and a reload', async () => {
    const spies = serve({
      GET: { '/api/v1/practices': ALL },
      POST: { '/api/v1/practices': refusal('name: 1 to 80 characters') },
    })
    const page = await open(PracticesPage)
    await page.find('[data-test=copy-practice]').trigger('click')
    await page.find('[data-test=practice-name]').setValue('Half done')
    units.value = 'si'
    await flushPromises()
    expect(asked(spies.GET, '/api/v1/practices')).toHaveLength(1)
    await page.find('form').trigger('submit')
    await flushPromises()
    expect(page.find('[role=alert]').text()).toBe('name: 1 to 80 characters')
    page.unmount()
    const again = await open(PracticesPage)
    expect((again.find('[data-test=practice-name]').element as HTMLInputElement).value).toBe('Half done')
    expect(asked(spies.GET, '/api/v1/practices').at(-1)?.params.query).toEqual({ units: 'us' })
    units.value = 'us'
  })
})

describe('the library', () => {
  const row = (id: number, more: object = {}) => ({
    id,
    version: 1,
    title: `Call ${id}`,
    machine_name: 'Yard split',
    fault_name: 'Low charge',
    severity_text: '80 %',
    created_at: '2026-09-01T08:00:00+00:00',
    level: 2,
    one_answer: true,
    proof: 'One defensible answer.',
    tags: [],
    shared: false,
    mine: true,
    owner: 'Maren',
    archived: false,
    on_paper: true,
    sheets: 0,
    body: { faults: [{ id: 'undercharge', severity: 80 }], complaint: 'Warm upstairs.', history: '' },
    ...more,
  })

  it('finds by what the customer said, and shows all again', async () => {
    serve({
      GET: {
        '/api/v1/scenarios': { scenarios: [row(1), row(2, { body: { faults: [], complaint: '', history: '' } })] },
      },
    })
    const page = await open(LibraryPage)
    await page.find('[data-test=search]').setValue('upstairs')
    expect(page.text()).toContain('Call 1')
    expect(page.text()).not.toContain('Call 2')
  })
  it('proves what came in unproved one after the other, and stops where the server refuses', async () => {
    const proofs: number[] = []
    serve({
      GET: {
        '/api/v1/scenarios': {
          scenarios: [row(1, { proof: '' }), row(2), row(3, { proof: '' }), row(4, { proof: '' })],
        },
      },
      PUT: {
        '/api/v1/scenarios/{scenario_id}/proof': ({ params }: Sent) => {
          const { scenario_id: id } = params.path as { scenario_id: number }
          proofs.push(id)
          return id === 3
            ? Promise.resolve({ error: { error: { code: 'x', message: 'no' } } })
            : { data: row(id, { proof: 'Looks the same: high load.', level: 4 }) }
        },
      },
    })
    const page = await open(LibraryPage)
    await flushPromises()
    expect(proofs).toEqual([1, 3])
    expect(page.text()).toContain('Looks the same: high load.')
  })
  it('reads files of any make, and says of each refused one why', async () => {
    const spies = serve({
      GET: { '/api/v1/scenarios': { scenarios: [] } },
      POST: {
        '/api/v1/scenarios/import': {
          added: [row(7)],
          refused: [{ position: 2, title: 'Old', message: 'machine toaster is not accepted', field: 'machine' }],
        },
      },
    })
    const page = await open(LibraryPage)
    const input = page.find('[data-test=import]').element as HTMLInputElement
    const file = (text: string) => new File([text], 'calls.json', { type: 'application/json' })
    const files = [file('{"title": "A"}'), file('{"scenarios": [{"title": "B"}, {"title": "Old"}]}')]
    Object.defineProperty(input, 'files', { value: files })
    await page.find('[data-test=import]').trigger('change')
    await vi.waitFor(() => expect(asked(spies.POST, '/api/v1/scenarios/import')).toHaveLength(1))
    await flushPromises()
    expect(asked(spies.POST, '/api/v1/scenarios/import')[0]?.body).toEqual({
      scenarios: [{ title: 'A' }, { title: 'B' }, { title: 'Old' }],
    })
    expect(page.find('[data-test=said]').text()).toBe('1 scenario imported.')
    expect(page.text()).toContain('2. Old: machine toaster is not accepted')
  })
})

describe('readings of any machine', () => {
  const REPLY = {
    ranked: [
      {
        fault: 'undercharge',
        name: 'Low charge',
        weight: 0.9,
        reasons: ['superheat high'],
        against: [],
        severities: {},
      },
      { fault: 'none', name: 'Nothing wrong', weight: 0.01, reasons: [], against: [], severities: {} },
      { fault: 'overcharge', name: 'Overcharged', weight: 0.01, reasons: [], against: [], severities: {} },
      { fault: 'low_airflow', name: 'Low airflow', weight: 0.02, reasons: [], against: [], severities: {} },
    ],
    left_open: [],
    next_test: null,
    next_steps: [],
    computed: {
      superheat_df: 30,
      subcooling_df: null,
      targets: { superheat_df: [10, 20] },
      verdicts: { superheat: 'high' },
      contradictions: ['the low-side gauge reads higher than the high-side gauge'],
    },
  }
  const metal = (page: VueWrapper) => page.text().replace(/\s+/g, ' ')

  it('asks once the hand rests and shows figures, answers and what contradicts', async () => {
    const spies = serve({ POST: { '/api/v1/diagnose': REPLY } })
    const page = await open(ReadingsPage)
    await vi.advanceTimersByTimeAsync(400)
    await flushPromises()
    expect(asked(spies.POST, '/api/v1/diagnose').length).toBeGreaterThan(0)
    expect(metal(page)).toContain('Superheat')
    expect(metal(page)).toContain('30.0')
    expect(metal(page)).toContain('10 to 20')
    expect(metal(page)).toContain('the low-side gauge reads higher than the high-side gauge')
    expect(metal(page)).toContain('Overcharged')
    expect(metal(page)).not.toContain('Low airflow')
  })
  it('shows the same difference in kelvin, each unit with a form of its own', async () => {
    serve({ POST: { '/api/v1/diagnose': REPLY } })
    const page = await open(ReadingsPage)
    units.value = 'si'
    await vi.advanceTimersByTimeAsync(400)
    await flushPromises()
    expect(metal(page)).toContain('16.7')
    expect(metal(page)).toContain('6 to 11')
    units.value = 'us'
  })
  it('says what is wrong with a reading and keeps the form', async () => {
    serve({ POST: { '/api/v1/diagnose': refusal('readings.suction_psig “9999” is not accepted') } })
    const page = await open(ReadingsPage)
    await vi.advanceTimersByTimeAsync(400)
    await flushPromises()
    expect(page.find('[role=alert]').text()).toContain('suction_psig')
  })
})
