import { flushPromises, mount } from '@vue/test-utils'
import { afterEach, describe, expect, it, vi } from 'vitest'
import AccountsPage from '@/features/accounts/AccountsPage.vue'
import LoginPage from '@/features/session/LoginPage.vue'
import PlacesCard from '@/features/session/PlacesCard.vue'
import ProviderCard from '@/features/session/ProviderCard.vue'
import SecondFactor from '@/features/session/SecondFactor.vue'
import WelcomePage from '@/features/session/WelcomePage.vue'
import { question } from '@/shared/asking'
import { provider, user } from '@/shared/session'
import { asked, serve } from './server'

const ME = {
  login: 'teacher',
  name: 'T',
  role: 'instructor',
  school: 'S',
  time_zone: 'UTC',
  must_change: false,
  totp: false,
  language: 'en' as const,
}
const refused =
  (code: string, message: string, field: string | null = null) =>
  () =>
    Promise.resolve({ error: { error: { code, message, field } } })
const row = (more = {}) => ({
  id: 4,
  login: 'ossian',
  name: 'Ossian Pell',
  role: 'assistant',
  disabled: false,
  totp: true,
  code_until: null,
  seen_at: '2026-11-30T10:00:00Z',
  apprentice: null,
  ...more,
})
afterEach(() => {
  user.value = null
  vi.restoreAllMocks()
  window.location.hash = ''
})

describe('accounts', () => {
  async function shown(post: object) {
    user.value = ME
    const spies = serve({
      GET: { '/api/v1/accounts': { accounts: [row()] }, '/api/v1/school/trail': { rows: [] } },
      POST: post as never,
    })
    const page = mount(AccountsPage, { global: { stubs: { RouterLink: true, Teleport: true } } })
    await flushPromises()
    return { page, spies }
  }

  it('invites somebody without a password, and shows the code once', async () => {
    const { page, spies } = await shown({ '/api/v1/accounts': row({ code: 'AAAA-BBBB-CCCC' }) })
    const [name, login] = page.findAll('form input')
    await name!.setValue('Ossian Pell')
    await login!.setValue('ossian')
    await page.find('form').trigger('submit')
    await flushPromises()
    expect(asked(spies.POST, '/api/v1/accounts')[0]?.body).toEqual({
      login: 'ossian',
      name: 'Ossian Pell',
      role: 'assistant',
      password: null,
    })
    expect(page.find('[data-test=code]').text()).toBe('AAAA-BBBB-CCCC')
    expect(page.find('[data-test=slips]').text()).toContain('within 14 days')
  })

  it('asks before a password stops working, and does nothing where the answer is no', async () => {
    const { page, spies } = await shown({ '/api/v1/accounts/{account_id}/code': row({ code: 'DDDD-EEEE-FFFF' }) })
    await page.find('[data-test=code-for]').trigger('click')
    expect(question.value?.lines.join(' ')).toContain('second factor is turned off')
    question.value?.answer(false)
    await flushPromises()
    expect(spies.POST).not.toHaveBeenCalled()
    await page.find('[data-test=code-for]').trigger('click')
    question.value?.answer(true)
    await flushPromises()
    expect(page.find('[data-test=code]').text()).toBe('DDDD-EEEE-FFFF')
    expect(page.find('[data-test=slips]').text()).toContain('within 2 days')
  })
})

describe('the log-in', () => {
  async function door(post: object, asks = false) {
    const spies = serve({
      GET: { '/api/v1/session': { user: null, csrf: 'x', asks_school: asks } },
      POST: { '/api/v1/session': post } as never,
    })
    const page = mount(LoginPage, { props: { again: false } })
    await page.find('[name=login]').setValue('teacher')
    await page.find('[name=password]').setValue('violet')
    await page.find('form').trigger('submit')
    await flushPromises()
    return { page, spies }
  }

  it('asks for the code of the second factor only when the server does, and sends it with the rest', async () => {
    const { page, spies } = await door(refused('code_needed', 'give the code', 'code'))
    expect(page.find('.error').exists()).toBe(false)
    await page.find('[name=code]').setValue('123456')
    await page.find('form').trigger('submit')
    await flushPromises()
    expect(asked(spies.POST, '/api/v1/session')[1]?.body).toEqual({
      login: 'teacher',
      password: 'violet',
      school: '',
      code: '123456',
    })
  })

  it('asks for the school where several share the server', async () => {
    const { page } = await door(refused('wrong_login', 'no match'), true)
    expect(page.find('[name=school]').exists()).toBe(true)
    expect(page.find('.error').text()).toBe('no match')
  })
})

describe("the school's own log-in", () => {
  it('is offered where there is one, and says why it sent somebody back', async () => {
    provider.value = 'Harrowmere log-in'
    window.location.hash = '#provider_unknown'
    serve({})
    const page = mount(LoginPage, { props: { again: false } })
    expect(page.find('[data-test=provider]').text()).toBe('Log in with Harrowmere log-in')
    expect(page.find('.error').text()).toContain('Nobody here has linked that log-in')
    provider.value = ''
  })

  it('is linked and unlinked under the name, and not shown where there is none', async () => {
    const state = (there: boolean, linked: boolean) => ({ there, linked })
    const spies = serve({
      GET: { '/api/v1/session/provider/linked': state(true, true) },
      DELETE: { '/api/v1/session/provider/linked': state(true, false) },
    })
    const page = mount(ProviderCard)
    await flushPromises()
    await page.find('button').trigger('click')
    await flushPromises()
    expect(spies.DELETE).toHaveBeenCalledOnce()
    expect(page.find('[data-test=link]').attributes('href')).toBe('/api/v1/session/provider?link=true')
    vi.restoreAllMocks()
    serve({ GET: { '/api/v1/session/provider/linked': state(false, false) } })
    const none = mount(ProviderCard)
    await flushPromises()
    expect(none.find('section').exists()).toBe(false)
  })
})

describe('a one-time code', () => {
  it('comes from the link, names its owner, and is not used while the passwords differ', async () => {
    window.location.hash = '#AAAA-BBBB-CCCC'
    const spies = serve({
      GET: { '/api/v1/session': { user: null, csrf: 'x' } },
      POST: { '/api/v1/session/welcome': { login: 'ada.quill', name: 'Ada Quill', school: 'S' } },
    })
    const page = mount(WelcomePage)
    await flushPromises()
    expect(asked(spies.POST, '/api/v1/session/welcome')[0]?.body).toEqual({ code: 'AAAA-BBBB-CCCC' })
    expect(page.find('[data-test=whose]').text()).toContain('ada.quill')
    await page.find('[name=new]').setValue('tanager-pleat-7')
    await page.find('[name=again]').setValue('tanager-pleat-8')
    await page.find('form').trigger('submit')
    await flushPromises()
    expect(page.find('.error').text()).toContain('not the same')
    expect(spies.PUT).not.toHaveBeenCalled()
  })

  it('that fits nothing can be typed again', async () => {
    window.location.hash = '#AAAA'
    serve({
      GET: { '/api/v1/session': { user: null, csrf: 'x' } },
      POST: { '/api/v1/session/welcome': refused('no_code', 'this code was used', 'code') },
    })
    const page = mount(WelcomePage)
    await flushPromises()
    expect(page.find('.error').text()).toBe('this code was used')
    expect((page.find('[name=code]').element as HTMLInputElement).value).toBe('AAAA')
  })
})

describe("one's own account", () => {
  it('turns the second factor on by a code of it and shows the recovery codes', async () => {
    user.value = ME
    const spies = serve({
      POST: { '/api/v1/session/second-factor': { secret: 'ABCDEFGH', address: 'otpauth://x', picture: 'data:,x' } },
      PUT: { '/api/v1/session/second-factor': { codes: ['AAAA-1', 'BBBB-2'] } },
    })
    const page = mount(SecondFactor)
    await page.find('[name=for-factor]').setValue('violet')
    await page.find('form').trigger('submit')
    await flushPromises()
    expect(page.find('.key').text()).toBe('ABCD EFGH')
    await page.find('[name=totp]').setValue('123456')
    await page.find('form').trigger('submit')
    await flushPromises()
    expect(asked(spies.PUT, '/api/v1/session/second-factor')[0]?.body).toEqual({ code: '123456' })
    expect(page.findAll('[data-test=recovery] li').map((l) => l.text())).toEqual(['AAAA-1', 'BBBB-2'])
    expect(user.value?.totp).toBe(true)
  })

  it('lists where one is logged in and ends the others', async () => {
    const place = (id: number, here: boolean) => ({
      id,
      here,
      began_at: '2026-11-30T10:00:00Z',
      seen_at: '2026-11-30T10:00:00Z',
      address: '',
      browser: here ? 'Firefox on Linux' : '',
    })
    const spies = serve({
      GET: { '/api/v1/session/places': { places: [place(1, true), place(2, false)] } },
      DELETE: { '/api/v1/session/places': { places: [place(1, true)] } },
    })
    const page = mount(PlacesCard)
    await flushPromises()
    expect(page.findAll('[data-test=place]')).toHaveLength(2)
    await page.find('[data-test=end-others]').trigger('click')
    await flushPromises()
    expect(spies.DELETE).toHaveBeenCalledOnce()
    expect(page.findAll('[data-test=place]')).toHaveLength(1)
  })
})
