import { sentence } from '@/api/client'
import { ref, type Ref } from 'vue'

/** Runs work and keeps what went wrong as a sentence to show, empty while all is well. */
export interface Failing {
  failure: Ref<string>
  busy: Ref<boolean>
  attempt: (work: () => Promise<void>) => Promise<void>
}

export function useFailing(): Failing {
  const failure = ref('')
  const busy = ref(false)
  async function attempt(work: () => Promise<void>): Promise<void> {
    busy.value = true
    failure.value = ''
    try {
      await work()
    } catch (error) {
      failure.value = sentence(error)
    } finally {
      busy.value = false
    }
  }
  return { failure, busy, attempt }
}
