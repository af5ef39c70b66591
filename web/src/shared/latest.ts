/** Runs one call at a time; of the values that come meanwhile only the last is kept. So nothing starves and the last value wins. */
export interface Latest<T> {
  push: (value: T) => void
  idle: () => boolean
}

export function latest<T>(run: (value: T) => Promise<void>): Latest<T> {
  let busy = false
  let waiting: { value: T } | null = null

  async function go(value: T): Promise<void> {
    busy = true
    try {
      await run(value)
    } finally {
      busy = false
      const next = waiting
      waiting = null
      if (next) void go(next.value)
    }
  }
  return {
    push(value) {
      if (busy) waiting = { value }
      else void go(value)
    },
    idle: () => !busy && waiting === null,
  }
}
