import { computed, ref, watch, type ComputedRef, type Ref } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import { kept, units } from '@/shared/kept'
import { depthOf, severityAt } from '@/shared/circuit/circuit'

export interface PlantedFault {
  id: string
  depth: number
  cause: string | null
}
export interface Story {
  complaint: string
  history: string
  look_round: string
  turn: number
}
export interface BenchState {
  machine: string
  faults: PlantedFault[]
  weather: Record<string, number>
  altitude_ft: number
  instruments: string
  practice: string
  /** Tests and looks given with the call; readings given, null for the usual ones. */
  given: string[]
  readings: string[] | null
  title: string
  tags: string
  story: Story
}
export const BLANK: Story = { complaint: '', history: '', look_round: '', turn: 0 }
export interface PlantedRow {
  planted: PlantedFault
  kind: Schemas['FaultRow']
  severity: number
  marks: [number, string][]
}
export interface Planted {
  state: Ref<BenchState>
  catalogue: Ref<Schemas['CatalogueReply'] | null>
  machine: ComputedRef<Schemas['MachineRow'] | undefined>
  possible: ComputedRef<Schemas['FaultRow'][]>
  rows: ComputedRef<PlantedRow[]>
  body: ComputedRef<Schemas['BenchBody']>
  range: (f: Schemas['FaultRow']) => readonly [number, number]
  ready: Promise<void>
}

const LEVELS = ['mild', 'moderate', 'severe'] as const

/** The machine as it is planted, with its weather: what the bench and the work room share, kept in this browser. */
export function usePlanted(): Planted {
  const state = kept<BenchState>('bench.many', {
    machine: 'split-3t-r410a-txv',
    faults: [],
    weather: {},
    altitude_ft: 0,
    instruments: 'analogue',
    practice: 'plate_and_formula',
    given: [],
    readings: null,
    title: '',
    tags: '',
    story: { ...BLANK },
  })
  const catalogue = ref<Schemas['CatalogueReply'] | null>(null)
  const machine = computed(() => catalogue.value?.machines.find((m) => m.id === state.value.machine))
  const possible = computed(() =>
    (catalogue.value?.faults ?? [])
      .filter((f) => f.unit && f.machines.includes(state.value.machine))
      .map((f) => (machine.value?.receiver && f.with_receiver ? { ...f, ...f.with_receiver } : f))
      .map((f) => (machine.value?.application === 'heat_pump_heating' ? { ...f, name: f.name_in_heating } : f)),
  )
  const range = (f: Schemas['FaultRow']) => [f.fault_free ?? 0, f.limit ?? 0] as const
  const rows = computed(() =>
    state.value.faults.flatMap((planted) => {
      const kind = possible.value.find((f) => f.id === planted.id)
      if (!kind) return []
      const marks = LEVELS.map((level) => [depthOf(kind[level] ?? 0, ...range(kind)), level] as [number, string])
      return [{ planted, kind, severity: severityAt(planted.depth, ...range(kind)), marks }]
    }),
  )
  const body = computed<Schemas['BenchBody']>(() => ({
    machine: state.value.machine,
    altitude_ft: state.value.altitude_ft,
    instruments: state.value.instruments,
    practice: state.value.practice,
    units: units.value,
    outdoor_db_f: state.value.weather.outdoor_db_f ?? 95,
    return_db_f: null,
    return_wb_f: null,
    box_f: null,
    water_in_f: null,
    ...Object.fromEntries(
      (machine.value?.weather ?? []).map((w) => [w.field, state.value.weather[w.field] ?? w.rated]),
    ),
    faults: rows.value.map((r) => ({ id: r.planted.id, severity: r.severity, cause: r.planted.cause })),
  }))
  function fitWeather(): void {
    const now = state.value.weather
    const handles = machine.value?.weather ?? []
    // Weather that is no weather for this machine goes as a whole: half of a summer day is no winter day.
    const foreign = handles.some((w) => {
      const value = now[w.field]
      return value !== undefined && (value < w.low || value > w.high)
    })
    for (const w of handles) now[w.field] = foreign ? w.rated : (now[w.field] ?? w.rated)
  }
  watch(
    () => state.value.machine,
    () => {
      if (!catalogue.value) return
      state.value.faults = rows.value.map((r) => r.planted)
      fitWeather()
    },
  )
  watch(
    () => state.value.weather.return_db_f,
    (top) => {
      if (top !== undefined && (state.value.weather.return_wb_f ?? 0) > top) state.value.weather.return_wb_f = top
    },
  )
  const ready = ask(api.GET('/api/v1/catalogue')).then((found) => {
    catalogue.value = found
    if (!machine.value) state.value.machine = found.machines[0]?.id ?? ''
    fitWeather()
  })
  return { state, catalogue, machine, possible, rows, body, range, ready }
}
