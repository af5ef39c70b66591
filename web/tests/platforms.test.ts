import { flushPromises, mount } from '@vue/test-utils'
import { afterEach, describe, expect, it, vi } from 'vitest'
import JoinPage from '@/features/platforms/JoinPage.vue'
import PlatformsPage from '@/features/platforms/PlatformsPage.vue'
import PointsCard from '@/features/sheets/PointsCard.vue'
import { user } from '@/shared/session'
import { asked, serve } from './server'

const push = vi.fn()
vi.mock('vue-router', () => ({ useRoute: () => ({ query: { course: '7' } }), useRouter: () => ({ push }) }))
const ME = {
  login: 't',
  name: 'T. Orrel',
  role: 'instructor',
  school: 'S',
  time_zone: 'UTC',
  must_change: false,
  totp: false,
  language: 'en' as const,
}
const COURSE = {
  id: 7,
  platform: 'Harrow courses',
  title: 'HVAC 201',
  class_id: null,
  class_name: null,
  lists_names: true,
  takes_points: true,
  names_at: null,
  people: 0,
}
const listed = (more = {}) => ({
  addresses: {
    start: 'https://ours.example/start',
    launch: 'https://ours.example/launch',
    keys: 'https://ours.example/keys',
  },
  platforms: [],
  courses: [],
  ...more,
})
const stubs = { RouterLink: true, Teleport: true }
afterEach(() => {
  user.value = null
  vi.restoreAllMocks()
  vi.useRealTimers()
})

describe('learning platforms', () => {
  async function shown(list: object, more: object = {}) {
    const spies = serve({
      GET: { '/api/v1/lti/platforms': list, '/api/v1/classes': { classes: [{ id: 3, name: 'Firsts', term: '' }] } },
      ...more,
    } as never)
    const page = mount(PlatformsPage, { global: { stubs } })
    await flushPromises()
    return { page, spies }
  }

  it('opens the form where there is none, and sends every deployment', async () => {
    const { page, spies } = await shown(listed(), { POST: { '/api/v1/lti/platforms': listed({ courses: [COURSE] }) } })
    const values = { name: 'Harrow', issuer: 'https://theirs.example', client_id: 'c', deployments: 'd-1, d-2 d-3' }
    const more = {
      login_url: 'https://theirs.example/l',
      token_url: 'https://theirs.example/t',
      keys_url: 'https://theirs.example/k',
    }
    for (const [name, value] of Object.entries({ ...values, ...more })) {
      await page.find(`input[name=${name}]`).setValue(value)
    }
    await page.find('form').trigger('submit')
    await flushPromises()
    expect(asked(spies.POST, '/api/v1/lti/platforms')[0]!.body).toEqual({
      ...values,
      ...more,
      deployments: ['d-1', 'd-2', 'd-3'],
    })
    expect(page.find('form').exists()).toBe(false)
    expect(page.find('[data-test=course]').classes()).toContain('now')
  })

  it('says which class a course is, and takes the names in after that', async () => {
    const joined = listed({ courses: [{ ...COURSE, class_id: 3 }] })
    const { page, spies } = await shown(listed({ platforms: [], courses: [COURSE] }), {
      PUT: { '/api/v1/lti/courses/{platform_course_id}': joined },
      POST: { '/api/v1/lti/courses/{platform_course_id}/names': { added: 2, there: 1, left: 0 } },
    })
    expect(page.find('[data-test=names]').attributes('disabled')).toBeDefined()
    await page.find('select').setValue('new')
    await flushPromises()
    expect(asked(spies.PUT, '/api/v1/lti/courses/{platform_course_id}')[0]!.body).toEqual({ class_id: null, new: true })
    await page.find('[data-test=names]').trigger('click')
    await flushPromises()
    expect(page.find('[role=status]').text()).toBe('HVAC 201: 2 added, 1 were there, 0 left.')
  })

  it('links an account only when asked to', async () => {
    user.value = ME
    const spies = serve({
      GET: { '/api/v1/lti/waiting': { platform: 'Harrow courses', course: 'HVAC 201', name: 'Ada' } },
      POST: { '/api/v1/lti/join': { course_id: 7 } },
    } as never)
    const page = mount(JoinPage, { global: { stubs } })
    await flushPromises()
    expect(page.text()).toContain('You came from HVAC 201 on Harrow courses as Ada')
    expect(spies.POST).not.toHaveBeenCalled()
    await page.find('[data-test=join]').trigger('click')
    await flushPromises()
    expect(push).toHaveBeenCalledWith('/platforms?course=7')
  })

  it('shows points that were sent and who got none, and asks again while some wait', async () => {
    vi.useFakeTimers()
    const row = { name: 'Bo Fenn', earned: 5, possible: 10, sent_at: null, problem: null }
    let reply: object = { platforms: ['Harrow courses'], rows: [row], waiting: 1 }
    serve({
      GET: { '/api/v1/sheets/{sheet_id}/points': () => Promise.resolve({ data: reply }) },
      POST: { '/api/v1/sheets/{sheet_id}/points': reply },
    } as never)
    const page = mount(PointsCard, { props: { sheet: 4, sends: true } })
    await flushPromises()
    expect(page.find('[role=status]').text()).toBe('Sending 1…')
    reply = {
      platforms: ['Harrow courses'],
      rows: [
        { ...row, sent_at: '2026-11-30T10:00:00Z' },
        { ...row, name: 'Cy', problem: "is not in the platform's course" },
      ],
      waiting: 0,
    }
    vi.advanceTimersByTime(2100)
    await flushPromises()
    expect(page.find('[data-test=sent]').text()).toContain('1 sent')
    expect(page.find('li').text()).toBe("Cy is not in the platform's course")
  })

  it('is not there for a class without a platform', async () => {
    serve({ GET: { '/api/v1/sheets/{sheet_id}/points': { platforms: [], rows: [], waiting: 0 } } } as never)
    const page = mount(PointsCard, { props: { sheet: 4, sends: true } })
    await flushPromises()
    expect(page.find('section').exists()).toBe(false)
  })
})
