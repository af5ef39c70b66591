import { computed, ref, watch, type ComputedRef, type Ref } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import { kept, units } from '@/shared/kept'
import { depthOf, severityAt } from './circuit'

export interface BenchState {
  machine: string; fault: string; depth: number
  outdoor_db_f: number; return_db_f: number; return_wb_f: number; altitude_ft: number; instruments: string
}
export interface Bench {
  state: Ref<BenchState>
  reply: Ref<Schemas['BenchReply'] | null>
  catalogue: Ref<Schemas['CatalogueReply'] | null>
  failure: Ref<string>
  fault: ComputedRef<Schemas['FaultRow'] | undefined>
  faults: ComputedRef<Schemas['FaultRow'][]>
  machine: ComputedRef<Schemas['MachineRow'] | undefined>
  severity: ComputedRef<number | null>
  marks: ComputedRef<Record<number, string>>
  plant: (id: string) => void
  load: (body: Schemas['ScenarioBody']) => void
}

/** The bench: planted state, and what the machine answers. An overtaken request is dropped; the last value wins. */
export function useBench(): Bench {
  const state = kept<BenchState>('bench', {
    machine: 'split-3t-r410a-txv', fault: 'none', depth: 0, outdoor_db_f: 95, return_db_f: 80, return_wb_f: 67, altitude_ft: 0, instruments: 'analogue',
  })
  const reply = ref<Schemas['BenchReply'] | null>(null)
  const catalogue = ref<Schemas['CatalogueReply'] | null>(null)
  const failure = ref('')
  const machine = computed(() => catalogue.value?.machines.find((m) => m.id === state.value.machine))
  const faults = computed(() => catalogue.value?.faults.filter((f) => machine.value && f.metering.includes(machine.value.metering)) ?? [])
  const fault = computed(() => faults.value.find((f) => f.id === state.value.fault))
  const range = (f: Schemas['FaultRow']) => [f.sound ?? 0, f.limit ?? 0] as const
  const severity = computed(() => (fault.value?.unit ? severityAt(state.value.depth, ...range(fault.value)) : null))
  const marks = computed(() => {
    const f = fault.value
    if (!f?.unit) return {}
    return Object.fromEntries((['mild', 'moderate', 'severe'] as const).map((level) => [depthOf(f[level] ?? 0, ...range(f)), level]))
  })
  let running: AbortController | null = null

  async function solve(): Promise<void> {
    if (!fault.value) return
    running?.abort()
    const mine = (running = new AbortController())
    const { machine: id, fault: faultId, depth: _depth, ...weather } = state.value
    try {
      const found = await ask(api.POST('/api/v1/bench', {
        body: { machine: id, fault: faultId, severity: severity.value, units: units.value, ...weather }, signal: mine.signal,
      }))
      reply.value = found
      failure.value = ''
    } catch (error) {
      if (running === mine && !(error instanceof DOMException)) failure.value = (error as Error).message
    }
  }
  function plant(id: string): void {
    state.value.fault = id
    const f = faults.value.find((row) => row.id === id)
    state.value.depth = f?.unit ? depthOf(f.moderate ?? 0, ...range(f)) : 0
  }
  function load(body: Schemas['ScenarioBody']): void {
    const f = catalogue.value?.faults.find((row) => row.id === body.fault)
    const depth = f?.unit && body.severity != null ? depthOf(body.severity, ...range(f)) : 0
    const { outdoor_db_f, return_db_f, return_wb_f, altitude_ft, instruments } = body
    state.value = { machine: body.machine, fault: body.fault, depth, outdoor_db_f, return_db_f, return_wb_f, altitude_ft, instruments }
  }
  watch(() => state.value.machine, () => {
    if (catalogue.value && !fault.value) plant('none')
  })
  watch(() => state.value.return_db_f, (top) => {
    if (state.value.return_wb_f > top) state.value.return_wb_f = top
  })
  watch([state, units], () => void solve(), { deep: true })
  void ask(api.GET('/api/v1/catalogue')).then((found) => {
    catalogue.value = found
    if (!machine.value) state.value.machine = found.machines[0]?.id ?? ''
    if (!fault.value) plant('none')
    void solve()
  }).catch((error: Error) => (failure.value = error.message))
  return { state, reply, catalogue, failure, fault, faults, machine, severity, marks, plant, load }
}
