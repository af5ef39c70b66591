import { flushPromises, mount } from '@vue/test-utils'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import ProjectorPage from '@/features/projector/ProjectorPage.vue'
import { units } from '@/shared/kept'

type Asked = { url: string; token: string | null }
const asked: Asked[] = []
let answer: () => { status: number; body: unknown } | Error
const STORY = {
  complaint: 'Runs all afternoon.',
  history: 'Serviced in April.',
  look_round: ['Filter clean.'],
  picture: {
    name: 'Yard split',
    refrigerant: 'R-410A',
    metering: 'txv',
    application: 'air_conditioner',
    condenser: 'tube_and_fin',
    receiver: false,
    circuits: 1,
    refrigeration: false,
  },
  plate: [{ label: 'Refrigerant', text: 'R-410A, 88 oz' }],
}
const STEPS = ['look', 'measure', 'convert', 'compare', 'confirm']
const shown = (step: string, more: object = {}) => ({ step, steps: STEPS, units: 'us', story: STORY, ...more })
const says = (revision: number, what: unknown) => {
  answer = () => ({ status: 200, body: { revision, shown: what } })
}

beforeEach(() => {
  asked.length = 0
  units.value = 'us'
  location.hash = '#a-token'
  says(1, shown('look'))
  vi.stubGlobal('fetch', (url: string, init: { headers: Record<string, string> }) => {
    asked.push({ url, token: init.headers['X-Wolfsbane-Projection'] ?? null })
    const said = answer()
    if (said instanceof Error) return Promise.reject(said)
    return Promise.resolve(new Response(JSON.stringify(said.body), { status: said.status }))
  })
})
async function open() {
  const page = mount(ProjectorPage, { global: { stubs: { CircuitPicture: true, DialFace: true, DigitalFace: true } } })
  await flushPromises()
  return page
}
const turn = async () => {
  await vi.advanceTimersByTimeAsync(1200)
  await flushPromises()
}

describe('the projector', () => {
  it('knows its token only, and asks for what came after what it has', async () => {
    await open()
    says(4, null)
    await turn()
    await turn()
    expect(asked.map((a) => a.token)).toEqual(['a-token', 'a-token', 'a-token'])
    expect(asked.map((a) => new URL(a.url, location.origin).searchParams.get('since'))).toEqual(['0', '1', '4'])
  })
  it('keeps what it shows while nothing is new', async () => {
    const page = await open()
    expect(page.text()).toContain('Runs all afternoon.')
    says(1, null)
    await turn()
    expect(page.text()).toContain('Runs all afternoon.')
    expect(page.find('[aria-current=step]').text()).toBe('look')
  })
  it('shows a target and a verdict that are revealed before the figure, each by its name', async () => {
    says(
      2,
      shown('compare', {
        targets: [{ id: 'superheat', label: 'Superheat', text: '10.0 to 20.0 °F' }],
        verdicts: [{ id: 'ctoa', label: 'CTOA', verdict: 'high' }],
      }),
    )
    const page = await open()
    const figures = page.find('[data-test=wall-figures]').text()
    expect(figures).toContain('Superheat')
    expect(figures).toContain('target 10.0 to 20.0 °F')
    expect(figures).toContain('CTOA▲ HIGH')
    expect(page.find('.num.big').exists()).toBe(false)
    expect(page.find('[data-test=answer]').exists()).toBe(false)
  })
  it('asks anew for everything when the units are turned', async () => {
    const page = await open()
    await page.find('[data-test=wall-units]').trigger('click')
    await flushPromises()
    expect(asked.at(-1)?.url).toBe('/api/v1/projected?units=si&since=0')
  })
  it('takes everything down once the projection is over', async () => {
    const page = await open()
    answer = () => ({ status: 404, body: { error: { message: 'Nothing is on the projector under this link.' } } })
    await turn()
    expect(page.text()).not.toContain('Runs all afternoon.')
    expect(page.find('[role=alert]').text()).toBe('Nothing is on the projector under this link.')
  })
  it('leaves the picture up while the network is away, and goes on when it is back', async () => {
    const page = await open()
    answer = () => new Error('no network')
    await turn()
    expect(page.text()).toContain('Runs all afternoon.')
    says(2, shown('measure'))
    await turn()
    expect(page.find('[aria-current=step]').text()).toBe('measure')
  })
  it('stops asking when it is closed', async () => {
    const page = await open()
    page.unmount()
    await turn()
    expect(asked).toHaveLength(1)
  })
})
