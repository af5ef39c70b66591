import { computed, nextTick, onScopeDispose, ref, watch, type ComputedRef, type Ref } from 'vue'
import { api, ask, FailedRequest, type Schemas, sentence } from '@/api/client'
import { latest } from '@/shared/latest'
import { useLater } from '@/shared/later'
import { depthOf } from '@/shared/circuit/circuit'
import { BLANK, usePlanted, type BenchState, type PlantedRow } from '@/shared/planted'
import { useUndo, type Undo } from './undo'

/** Something more to give with a call: a reading, a look or a test. */
export interface Step {
  kind: string
  id: string
}
export interface Bench {
  state: Ref<BenchState>
  reply: Ref<Schemas['BenchReply'] | null>
  proof: Ref<Schemas['ProofReply'] | null>
  proving: Ref<boolean>
  give: (step: Step) => void
  withhold: (test: string) => void
  /** Ids of the readings the apprentice gets. */
  shown: ComputedRef<string[]>
  toggle: (reading: string) => void
  texts: ComputedRef<Record<string, string>>
  names: ComputedRef<Record<string, string>>
  catalogue: Ref<Schemas['CatalogueReply'] | null>
  failure: Ref<string>
  machine: ComputedRef<Schemas['MachineRow'] | undefined>
  addable: ComputedRef<Schemas['FaultRow'][]>
  rows: ComputedRef<PlantedRow[]>
  body: ComputedRef<Schemas['BenchBody']>
  add: (id: string) => void
  remove: (id: string) => void
  clear: () => void
  plantSet: (faults: { id: string; severity: number }[]) => void
  setWeather: (values: Record<string, number>) => void
  load: (made: Loaded) => void
  scenario: () => Schemas['ScenarioBody']
  fresh: () => void
  history: Undo
}

/** What a bench is set from: a scenario of the library, or a call somebody played. */
export type Loaded = Pick<
  Schemas['ScenarioRow']['body'],
  | 'machine'
  | 'faults'
  | 'outdoor_db_f'
  | 'return_db_f'
  | 'return_wb_f'
  | 'box_f'
  | 'water_in_f'
  | 'altitude_ft'
  | 'instruments'
  | 'practice'
  | 'given_tests'
  | 'given_readings'
  | 'title'
  | 'tags'
  | 'complaint'
  | 'history'
  | 'look_round'
>

/** One solve of the bench, and when the hand moved that asked for it. */
interface Move {
  body: Schemas['BenchBody']
  at: number
}
const DEFAULT_PRACTICE = 'plate_and_formula'

/** Tell the browser how long a move took until it was painted; `tools/slider_latency.py` reads it. */
function measure(at: number): void {
  requestAnimationFrame(() => {
    const channel = new MessageChannel()
    channel.port1.onmessage = () => {
      if (performance.getEntriesByName('bench-move').length > 400) performance.clearMeasures('bench-move')
      performance.measure('bench-move', { start: at, end: performance.now() })
    }
    channel.port2.postMessage(null)
  })
}

/** The bench: planted state, and what the machine answers. One solve runs at a time; of those that wait the last one wins. */
export function useBench(): Bench {
  const { state, catalogue, machine, possible, rows, body, range, ready } = usePlanted()
  const history = useUndo(state)
  const reply = ref<Schemas['BenchReply'] | null>(null)
  const failure = ref('')
  const proof = ref<Schemas['ProofReply'] | null>(null)
  const proving = ref(false)
  const addable = computed(() => possible.value.filter((f) => !state.value.faults.some((p) => p.id === f.id)))

  const solve = latest<Move>(async ({ body: asked, at }) => {
    try {
      reply.value = await ask(api.POST('/api/v1/bench', { body: asked }))
      failure.value = ''
      await nextTick()
      measure(at)
    } catch (error) {
      failure.value = sentence(error)
    }
  })
  const left = new AbortController()
  const rest = useLater(250)
  const again = useLater(5000)
  let wanted = 0
  const proofs = latest<Schemas['ProveBody']>(prove)
  /**
   * The proof takes longer than the picture: it follows when the hand rests. One is worked at at a time, however fast
   * the hand moves, and of those that wait the last one wins: a server that is slow is not sent more than it can do.
   */
  function proveSoon(): void {
    proving.value = true
    wanted += 1
    rest.push(() => proofs.push({ ...body.value, given_readings: state.value.readings, given_tests: given.value }))
  }
  async function prove(asked: Schemas['ProveBody']): Promise<void> {
    const mine = wanted
    let made: Schemas['ProofReply'] | null = null
    try {
      made = await ask(api.POST('/api/v1/prove', { body: asked, signal: left.signal }))
    } catch (error) {
      if (left.signal.aborted) return
      if (error instanceof FailedRequest && (error.code === 'too_many' || error.code === 'busy')) {
        if (mine === wanted) again.push(() => proofs.push(asked))
        return
      }
    }
    if (mine !== wanted) return
    proof.value = made
    proving.value = false
  }
  const given = computed(() => state.value.given.filter((t) => machine.value?.tests.some((x) => x.id === t)))
  const points = computed(() => machine.value?.points ?? [])
  const shown = computed(() =>
    points.value
      .filter((p) => (state.value.readings === null ? p.usual : state.value.readings.includes(p.id)))
      .map((p) => p.id),
  )
  const names = computed(() => Object.fromEntries(points.value.map((p) => [p.id, p.name])))
  const texts = computed(() => Object.fromEntries((reply.value?.readings ?? []).map((r) => [r.id, r.now.text])))
  function toggle(reading: string): void {
    history.settle()
    const now = shown.value.includes(reading) ? shown.value.filter((id) => id !== reading) : [...shown.value, reading]
    const usual = points.value.filter((p) => p.usual).map((p) => p.id)
    const same = now.length === usual.length && usual.every((id) => now.includes(id))
    state.value.readings = same ? null : points.value.map((p) => p.id).filter((id) => now.includes(id))
  }
  /** Some tests go by the name of a reading: what a step asks for is said by its kind. */
  function give({ kind, id }: Step): void {
    if (kind === 'reading') {
      if (!shown.value.includes(id)) toggle(id)
    } else if (!state.value.given.includes(id)) state.value.given.push(id)
  }
  function withhold(test: string): void {
    state.value.given = state.value.given.filter((t) => t !== test)
  }
  function planted(id: string, severity?: number | null, cause?: string | null) {
    const kind = possible.value.find((f) => f.id === id)
    return kind
      ? [
          {
            id,
            depth: depthOf(severity ?? kind.moderate ?? 0, ...range(kind)),
            cause: cause ?? kind.causes[0]?.id ?? null,
          },
        ]
      : []
  }
  function add(id: string): void {
    history.settle()
    if (!state.value.faults.some((p) => p.id === id)) state.value.faults.push(...planted(id))
  }
  function remove(id: string): void {
    history.settle()
    state.value.faults = state.value.faults.filter((p) => p.id !== id)
  }
  function clear(): void {
    history.settle()
    state.value.faults = []
  }
  function plantSet(faults: { id: string; severity: number }[]): void {
    history.settle()
    state.value.faults = faults.flatMap((f) => planted(f.id, f.severity))
  }
  function setWeather(values: Record<string, number>): void {
    history.settle()
    state.value.weather = { ...state.value.weather, ...values }
  }
  function fresh(): void {
    history.settle()
    state.value = { ...state.value, faults: [], given: [], readings: null, title: '', tags: '', story: { ...BLANK } }
  }
  function load(made: Loaded): void {
    history.settle()
    const faults = made.faults.flatMap((f) => {
      const kind = catalogue.value?.faults.find((k) => k.id === f.id)
      if (!kind?.unit || typeof f.severity !== 'number') return []
      return [{ id: kind.id, depth: depthOf(f.severity, ...range(kind)), cause: f.cause ?? kind.causes[0]?.id ?? null }]
    })
    const weather = Object.fromEntries(
      (['outdoor_db_f', 'return_db_f', 'return_wb_f', 'box_f', 'water_in_f'] as const).flatMap((k) =>
        made[k] == null ? [] : [[k, made[k]]],
      ),
    )
    state.value = {
      machine: made.machine,
      faults,
      weather,
      altitude_ft: made.altitude_ft,
      instruments: made.instruments,
      practice: made.practice,
      given: [...made.given_tests],
      readings: made.given_readings ?? null,
      title: made.title,
      tags: made.tags.join(', '),
      story: { complaint: made.complaint, history: made.history, look_round: made.look_round.join('\n'), turn: 0 },
    }
  }
  /** The scenario as it would be saved. */
  function scenario(): Schemas['ScenarioBody'] {
    const { story, title, tags, readings } = state.value
    const {
      machine: id,
      faults,
      practice,
      instruments,
      altitude_ft,
      outdoor_db_f,
      return_db_f,
      return_wb_f,
      box_f,
      water_in_f,
    } = body.value
    return {
      title,
      machine: id,
      faults,
      fault: null,
      severity: null,
      practice,
      instruments,
      altitude_ft,
      outdoor_db_f,
      return_db_f,
      return_wb_f,
      box_f,
      water_in_f,
      given_tests: given.value,
      given_readings: readings,
      complaint: story.complaint.trim(),
      history: story.history.trim(),
      look_round: story.look_round
        .split('\n')
        .map((line) => line.trim())
        .filter(Boolean),
      tags: tags
        .split(',')
        .map((t) => t.trim())
        .filter(Boolean),
      spread_outdoor_df: 6,
      spread_return_df: 3,
      spread_depth_pct: 15,
    }
  }
  // A bench that is left asks for nothing more.
  onScopeDispose(() => left.abort())
  watch(body, (now) => machine.value && solve.push({ body: now, at: performance.now() }))
  watch([body, () => given.value.join(), () => state.value.readings?.join()], () => machine.value && proveSoon())
  void ready
    .then(() => {
      if (!catalogue.value?.practices.some((s) => s.id === state.value.practice))
        state.value.practice = DEFAULT_PRACTICE
      solve.push({ body: body.value, at: performance.now() })
      proveSoon()
      history.settle()
    })
    .catch((error: Error) => (failure.value = error.message))
  return {
    state,
    reply,
    proof,
    proving,
    give,
    withhold,
    shown,
    toggle,
    texts,
    names,
    catalogue,
    failure,
    machine,
    addable,
    rows,
    body,
    add,
    remove,
    clear,
    plantSet,
    setWeather,
    load,
    scenario,
    fresh,
    history,
  }
}
