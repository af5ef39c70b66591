import { effectScope, nextTick, ref } from 'vue'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { useMoving } from '@/features/bench/moving'

describe('a hand that keeps moving a slider', () => {
  beforeEach(() => vi.useFakeTimers())
  afterEach(() => vi.useRealTimers())

  it('is told from a single move, and rests once nothing has moved for a while', async () => {
    const value = ref(0)
    const scope = effectScope()
    const moving = scope.run(() => useMoving(() => value.value))!
    async function move(after: number): Promise<boolean> {
      await vi.advanceTimersByTimeAsync(after)
      value.value += 1
      await nextTick()
      return moving.value
    }
    expect([await move(0), await move(500), await move(900)]).toEqual([false, false, false])
    expect([await move(60), await move(390)]).toEqual([true, true])
    await vi.advanceTimersByTimeAsync(399)
    expect(moving.value).toBe(true)
    await vi.advanceTimersByTimeAsync(1)
    expect(moving.value).toBe(false)
    expect([await move(100), await move(60)]).toEqual([false, true])
    scope.stop()
    await vi.advanceTimersByTimeAsync(1000)
    expect(moving.value).toBe(true)
  })
})
