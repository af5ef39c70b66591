import { mount, flushPromises } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { defineComponent, h, ref, type Ref } from 'vue'
import { useAhead } from '@/features/sheets/ahead'
import { asked, serve } from './server'

const PATH = '/api/v1/sheets/{sheet_id}/ahead'
const state = (drawn: number, problem: string | null = null) => ({ data: { drawn, of: 4, problem } })

function shown(saved: Ref<boolean>) {
  return mount(
    defineComponent(() => {
      const found = useAhead(7, saved)
      return () => h('p', found.value ? `${found.value.drawn} of ${found.value.of} ${found.value.problem ?? ''}` : '')
    }),
  )
}

describe('a draft that is drawn ahead', () => {
  beforeEach(() => vi.useFakeTimers())
  afterEach(() => {
    vi.useRealTimers()
    vi.restoreAllMocks()
  })

  it('asks to be drawn when it is opened, and how far it is until it is drawn', async () => {
    let drawn = 0
    const spies = serve({ POST: { [PATH]: state(0).data }, GET: { [PATH]: () => state((drawn += 2)) } })
    const page = shown(ref(true))
    await flushPromises()
    expect(page.text()).toBe('0 of 4')
    await vi.advanceTimersByTimeAsync(1500)
    expect(page.text()).toBe('2 of 4')
    await vi.advanceTimersByTimeAsync(1500)
    expect(page.text()).toBe('4 of 4')
    await vi.advanceTimersByTimeAsync(30_000)
    expect([asked(spies.POST, PATH).length, asked(spies.GET, PATH).length]).toEqual([1, 2])
  })
  it('says nothing about what the server does not have yet, and asks again once it has', async () => {
    const spies = serve({ POST: { [PATH]: state(4).data }, GET: { [PATH]: state(1) } })
    const saved = ref(true)
    const page = shown(saved)
    await flushPromises()
    saved.value = false
    await flushPromises()
    expect(page.text()).toBe('')
    await vi.advanceTimersByTimeAsync(30_000)
    expect(asked(spies.GET, PATH)).toEqual([])
    saved.value = true
    await flushPromises()
    expect(asked(spies.GET, PATH).length).toBe(1)
  })
  it('goes on when the line was lost, and stops at what cannot be drawn and when the page is left', async () => {
    const answers = [{ error: { error: 'gone' } }, state(3), state(3, 'call 2: no fair variant'), state(4)]
    const spies = serve({ POST: { [PATH]: () => answers.shift() }, GET: { [PATH]: () => answers.shift() } })
    const page = shown(ref(true))
    await flushPromises()
    expect(page.text()).toBe('')
    await vi.advanceTimersByTimeAsync(3000)
    expect(page.text()).toBe('3 of 4 call 2: no fair variant')
    await vi.advanceTimersByTimeAsync(30_000)
    expect(asked(spies.GET, PATH).length).toBe(2)
    page.unmount()
    const other = shown(ref(true))
    other.unmount()
    await vi.advanceTimersByTimeAsync(30_000)
    expect(asked(spies.GET, PATH).length).toBe(2)
  })
})
