import { flushPromises, mount, type VueWrapper } from '@vue/test-utils'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import FeedbackPage from '@/features/marking/FeedbackPage.vue'
import MarkingPage from '@/features/marking/MarkingPage.vue'
import HistoryPanel from '@/features/sheets/HistoryPanel.vue'
import PrintPanel from '@/features/sheets/PrintPanel.vue'
import ResultsPanel from '@/features/sheets/ResultsPanel.vue'
import SheetPage from '@/features/sheets/SheetPage.vue'
import { useFailing } from '@/shared/failing'
import { user } from '@/shared/session'

vi.mock('vue-router', () => ({
  useRouter: () => ({ push: vi.fn(), replace: vi.fn(() => Promise.resolve()) }),
  useRoute: () => ({ params: { code: 'ABC234', id: '7' }, query: {} }),
}))

/** The client keeps the fetch it finds when it is made: it gets one that asks ours each time. */
const wire = vi.hoisted(() => {
  const held: { answer: (request: Request) => Promise<Response> } = {
    answer: () => Promise.reject(new Error('nothing answers')),
  }
  globalThis.fetch = ((request: Request) => held.answer(request)) as typeof fetch
  return held
})

type Call = { method: string; path: string; body: unknown }
let calls: Call[] = []
let replies: Record<string, unknown> = {}

/** Answers by "METHOD path"; what is not there is a 404 with a sentence. */
beforeEach(() => {
  calls = []
  replies = {}
  localStorage.clear()
  user.value = { name: 'Maren Holloway', login: 'maren', role: 'instructor', practice: 'A practice' } as never
  wire.answer = async (request) => {
    const path = new URL(request.url).pathname.replace('/api/v1', '')
    const text = request.method === 'GET' ? '' : await request.text()
    calls.push({ method: request.method, path, body: text ? JSON.parse(text) : null })
    const reply = replies[`${request.method} ${path}`]
    const body = typeof reply === 'function' ? (reply as (b: unknown) => unknown)(calls.at(-1)?.body) : reply
    return new Response(JSON.stringify(body ?? { error: { message: `no ${path} here` } }), {
      status: body === undefined ? 404 : 200,
      headers: { 'Content-Type': 'application/json' },
    })
  }
})

const links = { RouterLink: { props: ['to'], template: '<a :href="to"><slot /></a>' } }
async function shown(component: object, props: Record<string, unknown> = {}): Promise<VueWrapper> {
  const page = mount(component, { props, global: { stubs: links }, attachTo: document.body })
  await flushPromises()
  return page as VueWrapper
}

const question = (id: string, more: object = {}) => ({
  id,
  text: id,
  kind: 'difference',
  unit: '°F',
  points: 1,
  raw: '',
  key: '10.0',
  revision: 0,
  writer: null,
  ...more,
})
const mark = (id: string, more: object = {}) => ({
  question: id,
  points: 1,
  earned: 1,
  code: 'right',
  text: 'Right.',
  suggested: null,
  overridden: false,
  ...more,
})
function paper(marks: object[] = []): Record<string, unknown> {
  const call = {
    position: 1,
    title: 'Undercharge',
    complaint: '',
    readings: [],
    choices: {},
    marks,
    earned: marks.length,
    possible: 3,
    waits: false,
    answered: marks.length > 0,
    rig: false,
    measured: false,
    questions: [
      question('superheat'),
      question('superheat_verdict', { kind: 'verdict', unit: null, key: 'right' }),
      question('because', { kind: 'text', unit: null, key: '' }),
    ],
  }
  return {
    code: 'ABC234',
    name: 'Ada Quill',
    attempt: 1,
    sheet_id: 1,
    apprentice_id: 1,
    sheet_title: 'Friday',
    calls: [call],
    earned: marks.length,
    possible: 3,
  }
}

describe('marking with the keyboard alone', () => {
  async function say(page: VueWrapper, text: string): Promise<string> {
    const line = page.find<HTMLInputElement>('[name=quick]')
    await line.setValue(text)
    await line.trigger('keydown', { key: 'Enter' })
    await flushPromises()
    return page.find('.said').text()
  }
  it('takes all as key, changes what differs, and sends it with the revisions that were seen', async () => {
    replies['GET /papers/ABC234'] = paper()
    replies['PUT /papers/ABC234/answers'] = paper([
      mark('superheat'),
      mark('superheat_verdict'),
      mark('because', { code: 'to_confirm', earned: 0, suggested: 1 }),
    ])
    const page = await shown(MarkingPage)
    expect(await say(page, 'k')).toContain('All as key')
    expect(await say(page, '1 12,5')).toBe('1 · superheat: 12,5')
    expect(await say(page, '2 h')).toContain('high')
    expect(await say(page, '9 h')).toContain('no question 9')
    expect(await say(page, '1 !1')).toContain('points and a reason')
    await say(page, '')
    expect(calls.at(-1)).toEqual({
      method: 'PUT',
      path: '/papers/ABC234/answers',
      body: {
        call: 1,
        answers: { superheat: '12,5', superheat_verdict: 'high', because: '' },
        base: { superheat: 0, superheat_verdict: 0, because: 0 },
      },
    })
    page.unmount()
  })
  it('confirms what is suggested, marks against the rubric with a reason and goes back to it', async () => {
    const marks = [
      mark('superheat', { earned: 0 }),
      mark('superheat_verdict'),
      mark('because', { code: 'to_confirm', earned: 0, suggested: 1 }),
    ]
    replies['GET /papers/ABC234'] = paper(marks)
    replies['PUT /papers/ABC234/override'] = paper(marks)
    const page = await shown(MarkingPage)
    await page.findAll('.calls button')[0]?.trigger('click')
    expect(await say(page, 'c')).toBe('Confirmed: 1.')
    expect(calls.at(-1)?.body).toEqual({ call: 1, question: 'because', earned: 1, reason: '' })
    await say(page, '1 !1 seen at the rig')
    expect(calls.at(-1)?.body).toEqual({ call: 1, question: 'superheat', earned: 1, reason: 'seen at the rig' })
    await say(page, '1 !')
    expect(calls.at(-1)?.body).toEqual({ call: 1, question: 'superheat', earned: null, reason: 'back to the rubric' })
    page.unmount()
  })
  it('leaves marks against the rubric to an instructor', async () => {
    user.value = { ...user.value, role: 'assistant' } as never
    replies['GET /papers/ABC234'] = paper([mark('superheat')])
    const page = await shown(MarkingPage)
    const before = calls.length
    expect(await say(page, '1 !0 because')).toContain('Only an instructor')
    expect(await say(page, 'c')).toContain('Only an instructor')
    expect(calls.length).toBe(before)
    page.unmount()
  })
  it('keeps what is typed when the server does not take it', async () => {
    replies['GET /papers/ABC234'] = paper()
    const page = await shown(MarkingPage)
    await say(page, '1 14')
    await say(page, '')
    expect(page.find('[role=alert]').text()).toContain('no /papers/ABC234/answers here')
    expect(page.find<HTMLInputElement>('#superheat').element.value).toBe('14')
    expect(JSON.stringify(localStorage)).toContain('14')
    page.unmount()
  })
})

describe('feedback', () => {
  const row = (more: object) => ({
    question: 'x',
    text: 'Superheat',
    own: '16',
    unit: '°F',
    expected: '19.0',
    differs: false,
    earned: 1,
    points: 1,
    why: 'Right from your own ring.',
    again: '',
    excluded: false,
    right: null,
    ...more,
  })
  it('tells right from wrong where a question is excluded, and shows what was read', async () => {
    const out = { earned: 0, points: 0, excluded: true, why: '' }
    const rows = [row({ ...out, right: true }), row({ ...out, question: 'y', own: '', right: false })]
    replies['GET /papers/ABC234/feedback'] = {
      code: 'ABC234',
      name: 'Ada Quill',
      sheet_title: 'Friday',
      earned: 0,
      possible: 0,
      next: null,
      calls: [
        {
          position: 1,
          title: 'Undercharge',
          earned: 0,
          possible: 0,
          hazard: '',
          shown: [{ label: 'Suction pressure', text: '118 psig' }],
          steps: [{ step: 'a', name: 'Work out', rows }],
        },
      ],
    }
    const page = await shown(FeedbackPage)
    const lines = page.findAll('.line')
    expect(lines.map((l) => [l.find('.sign').text(), l.find('.exp').exists()])).toEqual([
      ['✓', false],
      ['✗', true],
    ])
    expect(lines.every((l) => l.classes().includes('excluded') && l.text().includes('Excluded from the score'))).toBe(
      true,
    )
    expect(page.find('.shown').text()).toContain('118 psig')
  })
  it('shows what was expected and why where a number is lost or follows from an earlier slip, and nothing more', async () => {
    const rows = [
      row({}),
      row({ question: 'y', differs: true }),
      row({ question: 'z', earned: 0, why: 'Swapped.', again: 'Large cold line: superheat.' }),
    ]
    replies['GET /papers/ABC234/feedback'] = {
      code: 'ABC234',
      name: 'Ada Quill',
      sheet_title: 'Friday',
      earned: 2,
      possible: 3,
      next: { level: 2, reason: 'One level up.' },
      calls: [
        {
          position: 1,
          title: 'Undercharge',
          earned: 2,
          possible: 3,
          hazard: '',
          shown: [],
          steps: [{ step: 'a', name: 'Work out', rows }],
        },
      ],
    }
    const page = await shown(FeedbackPage)
    const lines = page.findAll('.line').map((l) => l.text())
    expect(lines[0]).not.toContain('19.0')
    expect(lines[1]).toContain('19.0')
    expect(lines[1]).toContain('own ring')
    expect(lines[2]).toContain('Large cold line')
    expect(page.text()).toContain('One level up. Level 2.')
  })
  it('asks for one’s own papers only where an apprentice looks', async () => {
    user.value = { ...user.value, role: 'apprentice' } as never
    const page = await shown(FeedbackPage)
    expect(calls.map((c) => c.path)).toEqual(['/mine/ABC234'])
    expect(page.find('[role=alert]').text()).toContain('no /mine/ABC234 here')
  })
})

describe('the page of a sheet', () => {
  const sheet = {
    id: 7,
    class_id: 3,
    papers: 24,
    marked: 2,
    items: [{ kind: 'scenario', data: { asked: { tests: ['pump_down'] } } }],
    at_hand: ['packet'],
    printing: null,
  }
  it('links what is at hand and offers to print the rest in the background', async () => {
    replies['GET /classes/3'] = {
      people: [
        { id: 1, name: 'Ada Quill', gone: false },
        { id: 2, name: 'Late Comer', gone: false },
      ],
    }
    replies['GET /sheets/7/results'] = {
      rows: [{ code: 'ABC234', name: 'Ada Quill', attempt: 1, apprentice_id: 1 }],
      misses: [],
    }
    const page = await shown(PrintPanel, { sheet })
    expect(page.find('a[href$="/documents/packet"]').exists()).toBe(true)
    expect(page.find('a[href$="/documents/key"]').exists()).toBe(false)
    await page.find('[data-test=print-key]').trigger('click')
    expect(page.emitted('print')).toEqual([[['key']]])
    expect(page.find('.late').text()).toContain('Late Comer')
    expect(page.text()).not.toContain('Rig setup cards')
    expect(page.text()).toContain('Sealed results')
    expect(page.find('.rotation').exists()).toBe(false)
  })
  it('links what is printed while the rest still is, for whoever teaches', async () => {
    replies['GET /sheets/7'] = {
      ...sheet,
      title: 'Friday',
      status: 'building',
      done: 132,
      total: 144,
      created_at: '2026-11-27T10:00:00Z',
    }
    const page = await shown(SheetPage)
    const printed = page.findAll('[data-test=printed-so-far] a')
    expect(printed.map((a) => [a.text(), a.attributes('href')])).toEqual([
      ['Packet', '/api/v1/sheets/7/documents/packet'],
    ])
    expect(page.find('.doors').exists()).toBe(false)
    page.unmount()
    user.value = { ...user.value, role: 'assistant' } as never
    const helped = await shown(SheetPage)
    expect(helped.find('[data-test=printed-so-far]').exists()).toBe(false)
    helped.unmount()
  })
  it('tells what was done without the bulk of answers, and with it when asked', async () => {
    const entry = (id: number, action: string, more: object = {}) => ({
      id,
      at: '2026-11-27T10:00:00Z',
      action,
      position: 1,
      question_id: null,
      before: null,
      after: null,
      reason: '',
      writer: 'Maren',
      code: 'ABC234',
      name: 'Ada',
      ...more,
    })
    replies['GET /sheets/7/audit'] = {
      entries: [
        entry(1, 'answers'),
        entry(2, 'answers'),
        entry(3, 'override', {
          question_id: 'superheat_verdict',
          before: { earned: 0 },
          after: { earned: 1 },
          reason: 'smudged',
        }),
      ],
    }
    const page = await shown(HistoryPanel, { sheetId: 7 })
    expect(page.findAll('tbody tr').length).toBe(1)
    expect(page.find('tbody').text()).toContain('superheat verdict')
    expect(page.text()).toContain('typed answers (2)')
    await page.find('input[type=checkbox]').setValue(true)
    expect(page.findAll('tbody tr').length).toBe(3)
  })
  it('says beside each call what it is worth', async () => {
    const cell = (position: number, earned: number, possible: number) => ({ position, earned, possible, marked: true })
    replies['GET /sheets/7/results'] = {
      rows: [
        {
          code: 'A',
          name: 'Ada',
          attempt: 1,
          apprentice_id: 1,
          marked: true,
          to_confirm: 0,
          earned: 30,
          possible: 41,
          cells: [cell(1, 10, 20), cell(2, 20, 21)],
        },
      ],
      misses: [],
    }
    const page = await shown(ResultsPanel, { sheet })
    expect(page.find('thead').text()).toContain('Call 1 20 points')
    expect(page.find('thead').text()).toContain('Call 2 21 points')
  })
  it('tells a whole paper from a half one and from one that nobody marked', async () => {
    const person = (code: string, done: boolean[]) => ({
      code,
      name: code,
      attempt: 1,
      apprentice_id: 1,
      marked: done.some(Boolean),
      to_confirm: 0,
      earned: 10,
      possible: 40,
      cells: done.map((marked, i) => ({ position: i + 1, earned: marked ? 10 : 0, possible: 20, marked })),
    })
    replies['GET /sheets/7/results'] = {
      rows: [person('A', [true, true]), person('B', [true, false]), person('C', [false, false])],
      misses: [],
    }
    const page = await shown(ResultsPanel, { sheet })
    expect(page.findAll('tbody tr').map((row) => row.findAll('td').at(-1)?.text())).toEqual([
      '10/40',
      '10/401 of 2 calls marked',
      'not yet',
    ])
  })
})

describe('work that may fail', () => {
  it('keeps the sentence until the next try, and says while it is busy', async () => {
    const { failure, busy, attempt } = useFailing()
    const run = attempt(async () => {
      throw new Error('no')
    })
    expect(busy.value).toBe(true)
    await run
    expect([failure.value, busy.value]).toEqual(['no', false])
    await attempt(async () => undefined)
    expect(failure.value).toBe('')
  })
})
