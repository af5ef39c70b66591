import { computed, ref, watch, type ComputedRef, type Ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, ask, type Schemas, sentence } from '@/api/client'
import { kept } from '@/shared/kept'
import type { Bench } from './useBench'

type Spreads = Pick<Schemas['ScenarioBody'], 'spread_outdoor_df' | 'spread_return_df' | 'spread_depth_pct'>
export interface Opened extends Spreads {
  id: number
  version: number
  mine: boolean
}
export interface Saving {
  opened: ComputedRef<Opened | null>
  busy: Ref<boolean>
  said: Ref<string>
  failure: Ref<string>
  save: () => Promise<void>
  saveNew: () => Promise<void>
  start: () => void
}

/** The scenario on the bench: opened from the library by its address, saved as its next version or as a new one. */
export function useSaving(bench: Bench): Saving {
  const held = kept<{ now: Opened | null }>('bench.opened', { now: null })
  const busy = ref(false)
  const said = ref('')
  const failure = ref('')
  const route = useRoute()
  const router = useRouter()

  function hold(row: Schemas['ScenarioRow']): void {
    const { spread_outdoor_df, spread_return_df, spread_depth_pct } = row.body
    held.value = {
      now: { id: row.id, version: row.version, mine: row.mine, spread_outdoor_df, spread_return_df, spread_depth_pct },
    }
  }
  async function open(id: number): Promise<void> {
    try {
      const row = await ask(api.GET('/api/v1/scenarios/{scenario_id}', { params: { path: { scenario_id: id } } }))
      bench.load(row.body)
      hold(row)
      failure.value = said.value = ''
    } catch (error) {
      failure.value = sentence(error)
    }
  }
  async function keep(next: Opened | null): Promise<void> {
    busy.value = true
    said.value = failure.value = ''
    const spreads = held.value.now
      ? {
          spread_outdoor_df: held.value.now.spread_outdoor_df,
          spread_return_df: held.value.now.spread_return_df,
          spread_depth_pct: held.value.now.spread_depth_pct,
        }
      : {}
    const body = { ...bench.scenario(), ...spreads }
    try {
      const row = await ask(
        next
          ? api.PUT('/api/v1/scenarios/{scenario_id}', { params: { path: { scenario_id: next.id } }, body })
          : api.POST('/api/v1/scenarios', { body }),
      )
      hold(row)
      said.value = row.version > 1 ? `Saved, version ${row.version}.` : 'Saved.'
      await router.replace(`/bench?scenario=${row.id}`)
    } catch (error) {
      failure.value = sentence(error)
    } finally {
      busy.value = false
    }
  }
  function start(): void {
    held.value = { now: null }
    said.value = failure.value = ''
    bench.fresh()
    void router.replace('/bench')
  }
  watch(
    [() => route.query.scenario, bench.catalogue],
    ([id], before) => {
      if (route.path !== '/bench' || typeof id !== 'string' || !bench.catalogue.value) return
      // A reload keeps what was changed since; only another address, or the first visit to it, loads the stored version.
      if (held.value.now?.id !== Number(id) || (before[0] !== undefined && before[0] !== id)) void open(Number(id))
    },
    { immediate: true },
  )
  watch(bench.state, () => (said.value = ''), { deep: true })
  return {
    opened: computed(() => held.value.now),
    busy,
    said,
    failure,
    save: () => keep(held.value.now?.mine ? held.value.now : null),
    saveNew: () => keep(null),
    start,
  }
}
