import { flushPromises, mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import AddPanel from '@/features/sheets/AddPanel.vue'
import { asked, serve, type Sent } from './server'

const PLAN = {
  brief: { title: 'Friday', calls: 3 },
  ladder: [{ rung: 1, level: 2, skill: 'undercharge', minutes: 7, title: 'Undercharge' }],
  drills: [{ kind: 'dial', items: 20, minutes: 30, title: 'Dials' }],
  minutes: 37,
  note: 'No fault was as hard as level 5.',
}

const UNDERSTOOD = { understood: [], not_understood: [], impossible: [], notes: [] }

function open(found: object, plan: (sent: Sent) => unknown = () => ({ data: PLAN })) {
  const spies = serve({
    GET: { '/api/v1/scenarios': { scenarios: [] } },
    POST: { '/api/v1/briefs/read': { ...UNDERSTOOD, ...found }, '/api/v1/briefs/plan': plan },
  })
  const page = mount(AddPanel, {
    props: { catalogue: null, title: 'Friday' },
    global: { stubs: { RouterLink: true } },
  })
  const planned = () => asked(spies.POST, '/api/v1/briefs/plan').map((sent) => (sent.body as { brief: object }).brief)
  return { page, planned }
}
async function say(page: ReturnType<typeof mount>, sentence: string) {
  await page.find('textarea').setValue(sentence)
  await page.find('form').trigger('submit')
  await flushPromises()
}

describe('adding calls from a brief', () => {
  it('plans what the sentence was read as, and as usual what it does not name', async () => {
    const { page, planned } = open({
      brief: { calls: 4, fault_free_share: 0.25, faults: ['undercharge'], levels: [2, 3] },
    })
    await say(page, 'four calls, one with nothing wrong')
    expect(planned()).toEqual([
      {
        title: 'Friday',
        calls: 4,
        levels: [2, 3],
        fault_free_share: 0.25,
        two_faults: 0,
        drills: [],
        units: 'us',
        faults: ['undercharge'],
      },
    ])
  })
  it('puts drills first, then the rungs with the brief they came from', async () => {
    const { page } = open({ brief: { calls: 1 } })
    await say(page, 'one call and twenty dials')
    expect(page.find('[data-test=plan-note]').text()).toContain('level 5')
    await page.find('[data-test=take-plan]').trigger('click')
    const [items] = page.emitted('add')?.[0] as [{ kind: string; items?: number; rung?: object; brief: object }[]]
    expect(items.map((i) => [i.kind, i.items ?? null, i.rung ?? null])).toEqual([
      ['drill', 12, null],
      ['rung', null, { number: 1, level: 2, skill: 'undercharge' }],
    ])
    expect(items.map((i) => i.brief)).toEqual([PLAN.brief, PLAN.brief])
    expect(page.find('[data-test=plan]').exists()).toBe(false)
  })
  it('keeps the way of a rung: a second visit stays one on the sheet', async () => {
    const visit = { ...PLAN.ladder[0], skill: 'dirty_condenser+undercharge', way: 'second_visit' }
    const read = { brief: { calls: 2, second_visits: 1, instrument_faults: 1 } }
    const { page, planned } = open(read, () => ({ data: { ...PLAN, drills: [], ladder: [visit] } }))
    await say(page, 'two calls, one second visit, one bad gauge')
    expect(planned()[0]).toMatchObject({ calls: 2, second_visits: 1, instrument_faults: 1 })
    await page.find('[data-test=take-plan]').trigger('click')
    const [items] = page.emitted('add')?.[0] as [{ rung: { way: string; skill: string } }[]]
    expect(items.map((i) => [i.rung.way, i.rung.skill])).toEqual([['second_visit', 'dirty_condenser+undercharge']])
  })
  it('says why a plan cannot be met and keeps the brief', async () => {
    const { page } = open({ brief: { calls: 9 } }, () => ({
      error: { error: { code: 'no_variant', message: 'No fair call of level 5 here.', field: null } },
    }))
    await say(page, 'nine calls')
    expect(page.text()).toContain('No fair call of level 5 here.')
    expect(JSON.parse(localStorage.getItem('wolfsbane.sheet.brief') ?? '{}')).toMatchObject({ calls: 9 })
  })
  it('shows the first calls while the others are looked for, and stops when asked', async () => {
    const answers: ((value: object) => void)[] = []
    const { page } = open({ brief: { calls: 3 } }, () => new Promise((done) => answers.push(done)))
    const answer = async (data: object) => {
      answers.shift()?.({ data })
      await flushPromises()
    }
    await say(page, 'three calls')
    expect(page.find('[data-test=planning]').text()).toContain('Building call 1 of 3')
    await answer({ ...PLAN, of: 3, so_far: { found: 1 } })
    expect(page.find('[data-test=planning]').text()).toContain('Building call 2 of 3')
    expect(page.find('[data-test=plan]').text()).toContain('Undercharge')
    expect(page.find('[data-test=take-plan]').exists()).toBe(false)
    await answer({ ...PLAN, of: 1, so_far: null })
    expect(page.find('[data-test=planning]').exists()).toBe(false)
    expect(page.find('[data-test=take-plan]').exists()).toBe(true)
    expect(answers).toHaveLength(0)
  })
  it('stops looking at once, keeps the sentence and says nothing of a failure', async () => {
    const { page, planned } = open(
      { brief: { calls: 3 } },
      (sent) =>
        new Promise((_, reject) => {
          const { signal } = sent as Sent & { signal: AbortSignal }
          signal.addEventListener('abort', () => reject(new DOMException('stopped', 'AbortError')))
        }),
    )
    await say(page, 'three calls')
    await page.find('[data-test=stop-plan]').trigger('click')
    await flushPromises()
    expect(page.find('[data-test=planning]').exists() || page.find('[data-test=plan]').exists()).toBe(false)
    expect(page.find('.el-alert, [role=alert]').exists()).toBe(false)
    expect((page.find('textarea').element as HTMLTextAreaElement).value).toBe('three calls')
    expect(planned()).toHaveLength(1)
  })
})
