import { flushPromises, mount } from '@vue/test-utils'
import { afterEach, describe, expect, it, vi } from 'vitest'
import PasswordForm from '@/features/session/PasswordForm.vue'
import { user } from '@/shared/session'
import { asked, serve } from './server'

const USER = { login: 'teacher', name: 'T', role: 'instructor', school: 'S', time_zone: 'UTC' }

async function filled(again = 'tanager-pleat-7') {
  const page = mount(PasswordForm)
  for (const [name, text] of Object.entries({ old: 'before', new: 'tanager-pleat-7', again }))
    await page.find(`[name=${name}]`).setValue(text)
  return page
}

describe("one's own password", () => {
  afterEach(() => {
    user.value = null
    vi.restoreAllMocks()
  })

  it('is sent with the old one, and the fields are empty afterwards', async () => {
    const spies = serve({ PUT: { '/api/v1/session/password': { user: USER, csrf: 'new' } } })
    const page = await filled()
    await page.find('form').trigger('submit')
    await flushPromises()
    expect(asked(spies.PUT, '/api/v1/session/password')[0]?.body).toEqual({
      old: 'before',
      password: 'tanager-pleat-7',
    })
    expect(page.find('[data-test=changed]').exists()).toBe(true)
    expect(page.findAll('input').map((i) => (i.element as HTMLInputElement).value)).toEqual(['', '', ''])
  })

  it('is not sent where the two new ones differ', async () => {
    const spies = serve({})
    const page = await filled('tanager-pleat-8')
    await page.find('form').trigger('submit')
    await flushPromises()
    expect(page.find('.error').text()).toContain('not the same')
    expect(spies.PUT).not.toHaveBeenCalled()
  })

  it('names the field that was refused, and keeps what was typed', async () => {
    const message = 'password 15 characters is not accepted; allowed: one that is not easily guessed'
    const refused = () => Promise.resolve({ error: { error: { code: 'bad_input', field: 'password', message } } })
    serve({ PUT: { '/api/v1/session/password': refused } })
    const page = await filled()
    await page.find('form').trigger('submit')
    await flushPromises()
    expect(page.find('.error').text()).toBe(
      'New password: 15 characters is not accepted; allowed: one that is not easily guessed',
    )
    expect((page.find('[name=old]').element as HTMLInputElement).value).toBe('before')
  })
})
