import { flushPromises, mount } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import RequestPanel from '@/features/sheets/RequestPanel.vue'
import { asked, serve, type Sent } from './server'

const words = (text: string, part: string) => ({
  words: part,
  start: text.indexOf(part),
  end: text.indexOf(part) + part.length,
})
/** A server that knows calls, easy and charge, and nothing else. */
function reads(sent: Sent) {
  const { text } = sent.body as { text: string }
  const known: [string, string, string][] = [
    ['six calls', 'calls', '6 calls'],
    ['easy', 'levels', 'levels 1 to 2'],
    ['no undercharge', 'not faults', 'not: low charge'],
  ]
  const understood = known
    .filter(([part]) => text.includes(part))
    .map(([part, field, said]) => ({ ...words(text, part), field, value: 1, text: said }))
  const left = (part: string, nearest: string | null, why = '') =>
    text.includes(part) ? [{ ...words(text, part), nearest, why }] : []
  return {
    data: {
      brief: { calls: 6 },
      understood,
      not_understood: [...left('undrcharge', 'undercharge'), ...left('defrost', 'situation: Defrost')],
      impossible: left('mini splits', 'splits', 'not modeled'),
      notes: [],
    },
  }
}
function open(text = '') {
  localStorage.clear()
  const spies = serve({ POST: { '/api/v1/briefs/read': reads } })
  const page = mount(RequestPanel, { props: { busy: false } })
  const type = async (sentence: string) => {
    await page.find('textarea').setValue(sentence)
    await vi.advanceTimersByTimeAsync(400)
    await flushPromises()
  }
  const said = () => (page.find('textarea').element as HTMLTextAreaElement).value
  const submit = async () => {
    await page.find('form').trigger('submit')
    await flushPromises()
  }
  return { page, type, said, submit, requests: () => asked(spies.POST, '/api/v1/briefs/read'), text }
}
const chips = (page: ReturnType<typeof mount>) => page.findAll('[data-test=understood] li').map((li) => li.text())

describe('a request in words', () => {
  beforeEach(() => void vi.useFakeTimers())
  afterEach(() => void vi.useRealTimers())

  it('shows what was understood as it is typed, once a pause is made', async () => {
    const { page, type, requests } = open()
    await page.find('textarea').setValue('six')
    await page.find('textarea').setValue('six calls, easy, no undercharge')
    expect(requests()).toHaveLength(0)
    await type('six calls, easy, no undercharge')
    expect(requests()).toHaveLength(1)
    expect(chips(page)).toEqual(['6 calls×', 'levels 1 to 2×', 'not: low charge×'])
    expect(page.findAll('[data-test=understood] li')[2]?.classes()).toContain('not')
  })
  it('takes words out of the sentence', async () => {
    const { page, type, said } = open()
    await type('six calls, easy')
    await page.find('[aria-label="Remove “easy”"]').trigger('click')
    await flushPromises()
    expect(said()).toBe('six calls')
    expect(chips(page)).toEqual(['6 calls×'])
  })
  it('builds nothing while something is left, and asks with the nearest', async () => {
    const { page, type, said, submit } = open()
    await type('six calls, undrcharge')
    await submit()
    expect(page.emitted('build')).toBeUndefined()
    expect(page.find('[role=alert]').text()).toContain('Nothing is built yet')
    await page.find('.left .to').trigger('click')
    await flushPromises()
    expect(said()).toBe('six calls, undercharge')
    expect(page.find('[data-test=left]').exists()).toBe(false)
    await submit()
    expect(page.emitted('build')).toEqual([[{ calls: 6 }]])
  })
  it('says what cannot be had and offers what can', async () => {
    const { page, type, said } = open()
    await type('six calls, mini splits')
    expect(page.find('[data-test=left]').text()).toContain('mini splits: not modeled')
    await page.find('.left .out').trigger('click')
    await flushPromises()
    expect(said()).toBe('six calls')
  })
  it('leads to the situations where there is one', async () => {
    const { page, type } = open()
    await type('defrost')
    await page.find('.left .to').trigger('click')
    expect(page.emitted('situations')).toHaveLength(1)
  })
  it('keeps the sentence, and reads it again after a reload', async () => {
    const first = open()
    await first.type('six calls')
    first.page.unmount()
    serve({ POST: { '/api/v1/briefs/read': reads } })
    const again = mount(RequestPanel, { props: { busy: false } })
    await flushPromises()
    expect(chips(again)).toEqual(['6 calls×'])
  })
})
