import { flushPromises, mount } from '@vue/test-utils'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { defineComponent, h } from 'vue'
import ScreenPanel from '@/features/screen/ScreenPanel.vue'
import SitePicture from '@/features/screen/SitePicture.vue'
import WaysPicture from '@/features/screen/WaysPicture.vue'
import { clock, plus, usePlay, withWritten, type Play, type PlayRun } from '@/features/screen/play'
import { question } from '@/shared/asking'
import { store } from '@/shared/store'
import { asked, serve } from './server'

const step = (kind: string, data = {}, uid = kind) => ({ uid, kind, data })
const run = (more: Partial<PlayRun> = {}): PlayRun => ({
  id: 4,
  title: 'Friday',
  position: 1,
  mode: 'practice',
  complaint: '',
  history: '',
  machine: 'Larkspur 36',
  refrigerant: '',
  units: 'us',
  sealed: false,
  refrigeration: false,
  plate: [],
  points: [],
  essential: [],
  proofs: [],
  looks: [],
  tests: [],
  actions: [],
  questions: [],
  faults: [],
  evidence: [],
  dials: [],
  steps: [],
  answers: {},
  proof: {},
  ticket: '',
  named: false,
  finished: false,
  minutes: 0,
  bill: 0,
  left_s: null,
  rubric: [],
  judged: null,
  ...more,
})
const seen = {
  number: 1,
  uid: 'seen',
  kind: 'look',
  data: {},
  minutes: 3,
  said: [],
  reading: null,
  refused: false,
  harm: [],
  caution: '',
}
const STEPS = '/api/v1/screen/mine/runs/{run_id}/steps'
const RUN = '/api/v1/screen/mine/runs/{run_id}'
afterEach(() => {
  vi.restoreAllMocks()
  vi.useRealTimers()
  store.remove('screen.4.run')
  store.remove('screen.4.steps')
})

/** A call carried on by a page. */
async function played(answers: object): Promise<{ play: Play; spies: ReturnType<typeof serve>; end: () => void }> {
  vi.useFakeTimers()
  const spies = serve(answers as never)
  let play!: Play
  const page = mount(
    defineComponent({
      setup() {
        play = usePlay(4)
        return () => h('p')
      },
    }),
  )
  await vi.advanceTimersByTimeAsync(10)
  return { play, spies, end: () => page.unmount() }
}

describe('a call on screen', () => {
  it('shows what was written down before it is sent, and nothing new once it was named', () => {
    const written = [
      step('answer', { question: 'superheat', text: '12' }),
      step('proof', { point: 'suction_line', text: '55' }),
      step('ticket', { text: 'Done' }),
    ]
    const seen = withWritten(run(), written)
    expect([seen.answers.superheat, seen.proof.suction_line, seen.ticket]).toEqual(['12', '55', 'Done'])
    expect(withWritten(run({ named: true }), written).answers.superheat).toBeUndefined()
  })

  it('keeps one step of a field and every step of the machine', () => {
    const typed = plus(
      [step('answer', { question: 'a', text: '1' }, 'x')],
      step('answer', { question: 'a', text: '12' }, 'y'),
      new Set(),
    )
    expect(typed.map((s) => s.uid)).toEqual(['y'])
    const sending = plus(
      [step('answer', { question: 'a' }, 'x')],
      step('answer', { question: 'a' }, 'y'),
      new Set(['x']),
    )
    expect(sending).toHaveLength(2)
    expect(plus([step('plate', {}, 'x')], step('plate', {}, 'y'), new Set())).toHaveLength(2)
  })

  it('sends a step once the line is back, with the id it had', async () => {
    let line = false
    const { play, spies, end } = await played({
      GET: { [RUN]: run() },
      POST: {
        [STEPS]: () => (line ? Promise.resolve({ data: run({ steps: [seen] }) }) : Promise.reject(new Error('gone'))),
      },
    })
    play.say('look', { check: 'filter' })
    await vi.advanceTimersByTimeAsync(100)
    expect([play.lost.value, play.waiting.value, play.busy.value]).toEqual([true, 1, true])
    line = true
    window.dispatchEvent(new Event('online'))
    await vi.advanceTimersByTimeAsync(100)
    expect([play.lost.value, play.waiting.value]).toEqual([false, 0])
    const [first, second] = asked(spies.POST, STEPS).map((s) => (s.body as { steps: { uid: string }[] }).steps[0]!.uid)
    expect(first).toBe(second)
    end()
  })

  it('says what is refused for good, and sends it no more', async () => {
    const error = { error: { code: 'moved_on', message: 'this call went on at another place', field: null } }
    const { play, spies, end } = await played({
      GET: { [RUN]: run() },
      POST: { [STEPS]: () => Promise.resolve({ error }) },
    })
    play.say('look', { check: 'filter' })
    await vi.advanceTimersByTimeAsync(3000)
    expect(play.failure.value).toBe('this call went on at another place')
    expect(asked(spies.POST, STEPS)).toHaveLength(1)
    end()
  })

  it('names every look for whoever cannot see the drawing', async () => {
    const looks = [
      { id: 'filter', name: 'Filters', minutes: 3, caution: '' },
      { id: 'unheard_of', name: 'Something new', minutes: 3, caution: '' },
    ]
    const page = mount(SitePicture, {
      props: { looks, seen: { filter: 'All filters clean.' }, box: false, busy: false, gauges: true },
    })
    expect(page.findAll('button').map((b) => b.attributes('aria-label'))).toEqual([
      'Filters, looked at: All filters clean.',
      'Look at: Something new',
    ])
    await page.find('[data-test=look-unheard_of]').trigger('click')
    expect(page.emitted('look')).toEqual([['unheard_of']])
  })

  it('lays both ways on one line of minutes', () => {
    const way = (minutes: number, n: number) => ({
      minutes,
      bill: 20,
      named_after: n,
      way: [0, 1, 2].map((k) => ({
        kind: 'look',
        data: {},
        text: `step ${k}`,
        showed: 'clean',
        minutes: 5 * (k + 1),
        before: 0.1 * k,
        after: 0.1 * k + 0.1,
      })),
    })
    const marks = {
      earned: 61,
      possible: 100,
      off: 3,
      off_for: ['1 hint −3'],
      belief: 0.4,
      parts: [{ part: 'fault', name: 'What is wrong', points: 18, earned: 5, reasons: ['No.'] }],
    }
    const judged = { ...way(40, 2), marks, expert: way(20, 3), answer: 'Low charge', solver: '5' }
    const page = mount(WaysPicture, { props: { judged } })
    expect(page.find('h2').text()).toBe('61 of 100: it was low charge')
    expect(page.findAll('figure').map((f) => f.findAll('circle').length)).toEqual([2, 3])
    expect(page.text()).toContain('1 hint −3')
  })

  it('opens a sheet as an exam, and closes it only when asked', async () => {
    const row = {
      paper_call_id: 1,
      position: 1,
      code: 'X',
      apprentice_id: 7,
      name: 'Ada',
      factor: 1,
      run_id: 9,
      began_at: null,
      finished_at: '2026-11-30T10:00:00Z',
      steps: 12,
      earned: 80,
      possible: 100,
      minutes: 64,
    }
    const opening = {
      mode: 'exam',
      minutes: 30,
      opened_at: '',
      closed: false,
      told: false,
      rows: [row, { ...row, position: 2, run_id: null, finished_at: null }],
    }
    const SCREEN = '/api/v1/sheets/{sheet_id}/screen'
    const spies = serve({
      GET: { [SCREEN]: { opening: null, playable: true, rubric: [] } },
      POST: { [SCREEN]: { opening, playable: true, rubric: [] } },
      PUT: { '/api/v1/sheets/{sheet_id}/screen/allowances': { opening, playable: true, rubric: [] } },
      DELETE: { [SCREEN]: { opening: { ...opening, closed: true }, playable: true, rubric: [] } },
    } as never)
    const page = mount(ScreenPanel, {
      props: { sheet: { id: 2 } as never },
      global: { stubs: { RouterLink: { template: '<a><slot /></a>' } } },
    })
    await flushPromises()
    await page.find('[data-test=exam]').setValue(true)
    await page.find('[data-test=screen-minutes]').setValue('30')
    await page.find('form').trigger('submit')
    await flushPromises()
    expect(asked(spies.POST, SCREEN)[0]!.body).toEqual({ mode: 'exam', minutes: 30 })
    expect(page.findAll('[data-test=screen-row]')).toHaveLength(1)
    expect(page.find('[data-test=screen-row]').text()).toMatch(/80\/100\s*1:04 h/)
    await page.find('select').setValue('1.5')
    expect(asked(spies.PUT, '/api/v1/sheets/{sheet_id}/screen/allowances')[0]!.body).toEqual({
      apprentice_id: 7,
      factor: 1.5,
    })
    await page.find('[data-test=close-screen]').trigger('click')
    expect(asked(spies.DELETE, SCREEN)).toHaveLength(0)
    question.value?.answer(true)
    await flushPromises()
    expect(asked(spies.DELETE, SCREEN)).toHaveLength(1)
    page.unmount()
  })

  it('tells minutes as a clock', () => {
    expect([clock(0), clock(9.4), clock(64.6), clock(200)]).toEqual(['0:00', '0:09', '1:05', '3:20'])
  })
})
