import { nextTick, ref, watch, type Ref } from 'vue'
import { useRoute } from 'vue-router'
import { api, ask, sentence } from '@/api/client'
import type { Bench } from './useBench'
import type { WhatIf } from './useWhatIf'

/** A student's call played again: its address brings the machine as it was found, and what was done to it. */
export function useReplay(bench: Bench, what: WhatIf, tab: Ref<string>): { failure: Ref<string> } {
  const route = useRoute()
  const failure = ref('')
  async function open(run_id: number): Promise<void> {
    try {
      const { name, found, steps } = await ask(
        api.GET('/api/v1/screen/runs/{run_id}/bench', { params: { path: { run_id } } }),
      )
      bench.load({
        ...found,
        faults: found.faults.map((f) => ({ ...f, severity: f.severity ?? 0 })),
        title: `${found.title}, as ${name} worked on it`,
        history: '',
        look_round: [],
        given_tests: [],
        given_readings: null,
        tags: ['replay'],
      })
      tab.value = 'what'
      // another machine on the bench clears what was tried on the one before
      await nextTick()
      await nextTick()
      what.steps.value = steps
      failure.value = ''
    } catch (error) {
      failure.value = sentence(error)
    }
  }
  watch(
    [() => route.query.run, bench.catalogue],
    ([id], before) => {
      if (route.path !== '/bench' || typeof id !== 'string' || !bench.catalogue.value) return
      if (before[0] !== id || !before[1]) void open(Number(id))
    },
    { immediate: true },
  )
  return { failure }
}
