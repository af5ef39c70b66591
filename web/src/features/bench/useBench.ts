import { computed, ref, watch, type ComputedRef, type Ref } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import { kept, units } from '@/shared/kept'
import { depthOf, severityAt } from './circuit'

export interface Planted { id: string; depth: number; cause: string | null }
export interface BenchState {
  machine: string; faults: Planted[]; weather: Record<string, number>; altitude_ft: number; instruments: string; school: string
  given: string[]
}
export interface PlantedRow { planted: Planted; kind: Schemas['FaultRow']; severity: number; marks: [number, string][] }
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

const LEVELS = ['mild', 'moderate', 'severe'] as const

/** The bench: planted state, and what the machine answers. An overtaken request is dropped; the last value wins. */
export function useBench(): Bench {
  const state = kept<BenchState>('bench.many', {
    machine: 'split-3t-r410a-txv', faults: [], weather: {}, altitude_ft: 0, instruments: 'analogue', school: 'plate_and_formula',
    given: [],
  })
  state.value.given ??= []
  const reply = ref<Schemas['BenchReply'] | null>(null)
  const catalogue = ref<Schemas['CatalogueReply'] | null>(null)
  const failure = ref('')
  const proof = ref<Schemas['ProofReply'] | null>(null)
  const proving = ref(false)
  const machine = computed(() => catalogue.value?.machines.find((m) => m.id === state.value.machine))
  const possible = computed(() => catalogue.value?.faults.filter((f) => f.unit && f.machines.includes(state.value.machine)) ?? [])
  const addable = computed(() => possible.value.filter((f) => !state.value.faults.some((p) => p.id === f.id)))
  const range = (f: Schemas['FaultRow']) => [f.sound ?? 0, f.limit ?? 0] as const
  const rows = computed(() => state.value.faults.flatMap((planted) => {
    const kind = possible.value.find((f) => f.id === planted.id)
    if (!kind) return []
    const marks = LEVELS.map((level) => [depthOf(kind[level] ?? 0, ...range(kind)), level] as [number, string])
    return [{ planted, kind, severity: severityAt(planted.depth, ...range(kind)), marks }]
  }))
  const body = computed<Schemas['BenchBody']>(() => ({
    machine: state.value.machine, altitude_ft: state.value.altitude_ft, instruments: state.value.instruments,
    school: state.value.school, units: units.value,
    outdoor_db_f: state.value.weather.outdoor_db_f ?? 95, return_db_f: null, return_wb_f: null, box_f: null, water_in_f: null,
    ...Object.fromEntries((machine.value?.weather ?? []).map((w) => [w.field, state.value.weather[w.field] ?? w.rated])),
    faults: rows.value.map((r) => ({ id: r.planted.id, severity: r.severity, cause: r.planted.cause })),
  }))
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
  function fitWeather(): void {
    const now = state.value.weather
    for (const w of machine.value?.weather ?? []) {
      const value = now[w.field]
      now[w.field] = value === undefined || value < w.low || value > w.high ? w.rated : value
    }
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
  watch(() => state.value.machine, () => {
    if (!catalogue.value) return
    state.value.faults = rows.value.map((r) => r.planted)
    fitWeather()
  })
  watch(() => state.value.weather.return_db_f, (top) => {
    if (top !== undefined && (state.value.weather.return_wb_f ?? 0) > top) state.value.weather.return_wb_f = top
  })
  watch(body, () => void solve())
  watch([body, () => given.value.join()], () => machine.value && proveSoon())
  void ask(api.GET('/api/v1/catalogue')).then((found) => {
    catalogue.value = found
    if (!machine.value) state.value.machine = found.machines[0]?.id ?? ''
    fitWeather()
    void solve()
    proveSoon()
  }).catch((error: Error) => (failure.value = error.message))
  return { state, reply, proof, proving, give, withhold, catalogue, failure, machine, addable, rows, body, add, remove, clear, load }
}
