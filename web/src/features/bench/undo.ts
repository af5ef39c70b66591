import { computed, nextTick, ref, watch, type ComputedRef, type Ref } from 'vue'
import { useLater } from '@/shared/later'

export interface Undo {
  canUndo: ComputedRef<boolean>
  canRedo: ComputedRef<boolean>
  undo: () => void
  redo: () => void
  settle: () => void
}

const REST_MS = 350
const MOST = 100

/** Undo and redo of a state: a pull on a slider is one step, taken when the hand rests. */
export function useUndo<T>(state: Ref<T>): Undo {
  const text = () => JSON.stringify(state.value)
  const past = ref<string[]>([]) as Ref<string[]>
  const future = ref<string[]>([]) as Ref<string[]>
  let now = text()
  const rest = useLater(REST_MS)
  let going = false

  function settle(): void {
    rest.cancel()
    const next = text()
    if (next === now) return
    past.value = [...past.value, now].slice(-MOST)
    future.value = []
    now = next
  }
  watch(
    state,
    () => {
      if (going) return
      rest.push(settle)
    },
    { deep: true },
  )
  function go(from: Ref<string[]>, to: Ref<string[]>): void {
    settle()
    const target = from.value.at(-1)
    if (target === undefined) return
    from.value = from.value.slice(0, -1)
    to.value = [...to.value, now]
    now = target
    going = true
    state.value = JSON.parse(target) as T
    void nextTick(() => (going = false))
  }
  return {
    canUndo: computed(() => past.value.length > 0),
    canRedo: computed(() => future.value.length > 0),
    undo: () => go(past, future),
    redo: () => go(future, past),
    settle,
  }
}
