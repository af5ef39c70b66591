import { ref, watch, type Ref } from 'vue'

/** A ref that survives a reload and an expired log-in: kept in this browser under `key`. */
export function kept<T>(key: string, initial: T): Ref<T> {
  const name = `wolfsbane.${key}`
  const value = ref(initial) as Ref<T>
  try {
    const stored = localStorage.getItem(name)
    if (stored !== null) {
      const found = JSON.parse(stored) as T
      const record = (v: unknown) => typeof v === 'object' && v !== null && !Array.isArray(v)
      // What was stored by an older page lacks newer fields: they start from the default.
      value.value = record(initial) && record(found) ? { ...initial, ...found } : found
    }
  } catch {
    localStorage.removeItem(name)
  }
  watch(value, (now) => localStorage.setItem(name, JSON.stringify(now)), { deep: true })
  return value
}

export function forget(key: string): void {
  localStorage.removeItem(`wolfsbane.${key}`)
}

export type Units = 'us' | 'si'
/** The units of the whole application. */
export const units = kept<Units>('units', 'us')
