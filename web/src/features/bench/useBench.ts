import { computed, ref, watch, type ComputedRef, type Ref } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import { depthOf } from './circuit'
import { usePlanted, type BenchState, type PlantedRow } from './planted'

export interface Bench {
  state: Ref<BenchState>
  reply: Ref<Schemas['BenchReply'] | null>
  proof: Ref<Schemas['ProofReply'] | null>
  proving: Ref<boolean>
  give: (test: string) => void
  withhold: (test: string) => void
  catalogue: Ref<Schemas['CatalogueReply'] | null>
  failure: Ref<string>
  machine: ComputedRef<Schemas['MachineRow'] | undefined>
  addable: ComputedRef<Schemas['FaultRow'][]>
  rows: ComputedRef<PlantedRow[]>
  body: ComputedRef<Schemas['BenchBody']>
  add: (id: string) => void
  remove: (id: string) => void
  clear: () => void
  load: (body: Schemas['ScenarioBody']) => void
}

/** The bench: planted state, and what the machine answers. An overtaken request is dropped; the last value wins. */
export function useBench(): Bench {
  const { state, catalogue, machine, possible, rows, body, range, ready } = usePlanted()
  const reply = ref<Schemas['BenchReply'] | null>(null)
  const failure = ref('')
  const proof = ref<Schemas['ProofReply'] | null>(null)
  const proving = ref(false)
  const addable = computed(() => possible.value.filter((f) => !state.value.faults.some((p) => p.id === f.id)))
  let running: AbortController | null = null

  async function solve(): Promise<void> {
    if (!machine.value) return
    running?.abort()
    const mine = (running = new AbortController())
    try {
      const found = await ask(api.POST('/api/v1/bench', { body: body.value, signal: mine.signal }))
      reply.value = found
      failure.value = ''
    } catch (error) {
      if (running === mine && !(error instanceof DOMException)) failure.value = (error as Error).message
    }
  }
  let asked: AbortController | null = null
  let waiting = 0
  /** The proof takes longer than the picture: it follows when the hand rests, and an overtaken one is dropped. */
  function proveSoon(): void {
    asked?.abort()
    window.clearTimeout(waiting)
    proving.value = true
    waiting = window.setTimeout(() => void prove(), 250)
  }
  async function prove(): Promise<void> {
    const mine = (asked = new AbortController())
    try {
      proof.value = await ask(api.POST('/api/v1/prove', { body: { ...body.value, given_readings: null, given_tests: given.value }, signal: mine.signal }))
    } catch (error) {
      if (asked === mine && !(error instanceof DOMException)) proof.value = null
    } finally {
      if (asked === mine) proving.value = false
    }
  }
  const given = computed(() => state.value.given.filter((t) => machine.value?.tests.some((x) => x.id === t)))
  function give(test: string): void {
    if (!state.value.given.includes(test)) state.value.given.push(test)
  }
  function withhold(test: string): void {
    state.value.given = state.value.given.filter((t) => t !== test)
  }
  function add(id: string): void {
    const kind = possible.value.find((f) => f.id === id)
    if (!kind || state.value.faults.some((p) => p.id === id)) return
    state.value.faults.push({ id, depth: depthOf(kind.moderate ?? 0, ...range(kind)), cause: kind.causes[0]?.id ?? null })
  }
  function remove(id: string): void {
    state.value.faults = state.value.faults.filter((p) => p.id !== id)
  }
  function clear(): void {
    state.value.faults = []
  }
  function load(scenario: Schemas['ScenarioBody']): void {
    const { outdoor_db_f, return_db_f, return_wb_f, altitude_ft, instruments, school } = scenario
    const faults = (scenario.faults ?? []).flatMap((planted) => {
      const kind = catalogue.value?.faults.find((f) => f.id === planted.id)
      if (!kind?.unit || planted.severity == null) return []
      return [{ id: kind.id, depth: depthOf(planted.severity, ...range(kind)), cause: planted.cause ?? kind.causes[0]?.id ?? null }]
    })
    state.value = { machine: scenario.machine, faults, weather: { outdoor_db_f, return_db_f, return_wb_f },
      altitude_ft: altitude_ft ?? 0, instruments: instruments ?? 'analogue', school: school ?? 'plate_and_formula', given: [...(scenario.given_tests ?? [])] }
  }
  watch(body, () => void solve())
  watch([body, () => given.value.join()], () => machine.value && proveSoon())
  void ready.then(() => {
    void solve()
    proveSoon()
  }).catch((error: Error) => (failure.value = error.message))
  return { state, reply, proof, proving, give, withhold, catalogue, failure, machine, addable, rows, body, add, remove, clear, load }
}
