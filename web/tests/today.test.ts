import { flushPromises, mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import TodayPage from '@/features/today/TodayPage.vue'
import { asked, serve } from './server'

const sheet = (id: number, title: string, more: object = {}) => ({
  id,
  title,
  class_name: 'Firsts',
  papers: 12,
  marked: 0,
  ...more,
})
const NOTHING = {
  drafts: [],
  building: [],
  to_print: [],
  to_mark: [],
  to_release: [],
  next_weeks: [],
  rigs: [],
  first_steps: [],
  starter: false,
}
const LINK = { props: ['to'], template: '<a :href="to"><slot /></a>' }

async function open(today: object) {
  const spies = serve({
    GET: { '/api/v1/today': { ...NOTHING, ...today } },
    POST: { '/api/v1/courses/{course_id}/drafts': { sheets: [{ id: 31, title: 'Week 3' }] } },
  })
  const page = mount(TodayPage, {
    global: {
      stubs: { RouterLink: LINK },
    },
  })
  await flushPromises()
  return { page, spies }
}

describe('today', () => {
  it('shows each thing that waits, one click away', async () => {
    const { page } = await open({
      to_mark: [sheet(1, 'Week 9', { marked: 9 })],
      to_release: [sheet(2, 'Week 8', { marked: 12 })],
      to_print: [sheet(3, 'Week 10')],
      drafts: [sheet(4, 'Week 11')],
    })
    const cards = Object.fromEntries(
      page.findAll('section').map((card) => [card.attributes('aria-label'), card.text().replace(/\s+/g, ' ')]),
    )
    expect(Object.keys(cards)).toEqual(['Papers to mark', 'Feedback to release', 'Packets to print', 'Drafts'])
    expect(cards['Papers to mark']).toContain('3 of 12 left')
    expect(cards['Feedback to release']).toContain('all 12 marked')
    expect(page.findAll('section a').map((a) => a.attributes('href'))).toEqual([
      '/sheets/1',
      '/marking',
      '/sheets/2',
      '/sheets/3',
      '/api/v1/sheets/3/documents/packet',
      '/sheets/4',
    ])
  })
  it('says so where nothing waits', async () => {
    const { page } = await open({})
    expect(page.text()).toContain('Nothing is waiting')
    expect(page.find('section').exists()).toBe(false)
  })
  it('drafts the next week of a course with one click', async () => {
    const week = {
      class_id: 3,
      class_name: 'Firsts',
      course_id: 'cooling',
      course: 'Cooling',
      week: 3,
      title: 'Charge',
    }
    const { page, spies } = await open({ next_weeks: [week] })
    expect(page.text()).toContain('Week 3: Charge')
    await page.find('button').trigger('click')
    await flushPromises()
    const [sent] = asked(spies.POST, '/api/v1/courses/{course_id}/drafts')
    expect([sent?.params.path, sent?.body]).toEqual([
      { course_id: 'cooling' },
      { class_id: 3, units: 'us', weeks: [3] },
    ])
  })
  it('leads a new school to its first sheet, until somebody leaves the guide', async () => {
    const first_steps = ['class', 'sheet', 'look', 'issue', 'mark'].map((id, n) => ({ id, done: n < 2, sheet_id: 7 }))
    const { page } = await open({ first_steps, starter: false })
    const guide = page.find('[data-test=first-day]')
    expect(guide.findAll('li.done')).toHaveLength(2)
    expect(guide.findAll('a').map((a) => [a.text(), a.attributes('href')])).toEqual([['Preview', '/sheets/7']])
    expect(page.text()).not.toContain('Nothing is waiting')
    await page.find('[data-test=leave-guide]').trigger('click')
    expect(page.find('[data-test=first-day]').exists()).toBe(false)
    expect(page.text()).toContain('Show the first-sheet guide')
  })
})
