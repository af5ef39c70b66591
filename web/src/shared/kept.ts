import { ref, watch, type Ref } from 'vue'
import { store } from './store'

/** A ref that survives a reload and an expired log-in: kept in this browser under `key` until its account logs out. */
export function kept<T>(key: string, initial: T): Ref<T> {
  const value = ref(initial) as Ref<T>
  try {
    const stored = store.get(key)
    if (stored !== null) {
      const found = JSON.parse(stored) as T
      const record = (v: unknown) => typeof v === 'object' && v !== null && !Array.isArray(v)
      // What was stored by an older page lacks newer fields: they start from the default.
      value.value = record(initial) && record(found) ? { ...initial, ...found } : found
    }
  } catch {
    store.remove(key)
  }
  watch(value, (now) => store.set(key, JSON.stringify(now)), { deep: true })
  return value
}

export function forget(key: string): void {
  store.remove(key)
}

export type Units = 'us' | 'si'
/** The units of the whole application. */
export const units = kept<Units>('units', 'us')
