/** Whether the hand keeps moving something. */
import { ref, watch, type Ref } from 'vue'
import { useLater } from '@/shared/later'

/** The hand keeps moving where two moves are not further apart than this, ms. */
const APART = 400

/**
 * True from the second of two moves that follow one another closely until the hand rests. An animation would
 * only lag behind then, and drawing its frames takes the time the next picture needs.
 */
export function useMoving(moved: () => unknown): Ref<boolean> {
  const moving = ref(false)
  const rest = useLater(APART)
  let last = -Infinity
  watch(moved, () => {
    const now = performance.now()
    if (now - last < APART) moving.value = true
    last = now
    rest.push(() => (moving.value = false))
  })
  return moving
}
