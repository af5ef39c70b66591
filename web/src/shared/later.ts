import { getCurrentScope, onScopeDispose } from 'vue'

/** Work that waits until nothing has been asked for `ms`; whoever leaves the page takes it along. */
export interface Later {
  push: (work: () => void) => void
  cancel: () => void
}

export function useLater(ms: number): Later {
  let timer = 0
  function cancel(): void {
    window.clearTimeout(timer)
  }
  function push(work: () => void): void {
    cancel()
    timer = window.setTimeout(work, ms)
  }
  if (getCurrentScope()) onScopeDispose(cancel)
  return { push, cancel }
}
