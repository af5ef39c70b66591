import { computed, ref, watch, type ComputedRef, type Ref } from 'vue'
import { api, ask, type Schemas, sentence } from '@/api/client'
import type { Acting, Done } from '@/shared/acting'
import { usePlanted, type Planted } from '@/shared/planted'
import { kept, units } from '@/shared/kept'

/** A room that answers to the machine; start and set in the units shown, null as the conditions say. */
export interface LivingRoom {
  lives: boolean
  start: number | null
  set: number | null
  door: string
  troubles: string[]
}
const HELD: LivingRoom = { lives: false, start: null, set: null, door: 'usual', troubles: [] }

export interface Work extends Planted, Acting {
  drift: Ref<{ outdoor: number; room: number }>
  room: Ref<LivingRoom>
  doors: Ref<string[]>
  troubles: Ref<Schemas['TroubleRow'][]>
  reply: Ref<Schemas['ActReply'] | null>
  plan: Ref<Schemas['PlanReply'] | null>
  failure: Ref<string>
  playPlan: () => void
  planted: ComputedRef<string>
}

/** Working on the bench's machine: the steps are kept, and the whole script is played again after each change. */
export function useWork(): Work {
  const base = usePlanted()
  const steps = kept<Done[]>('work.steps', [])
  const drift = kept('work.drift', { outdoor: 0, room: 0 })
  const room = kept<LivingRoom>('work.room', { ...HELD })
  const doors = ref<string[]>([])
  const troubles = ref<Schemas['TroubleRow'][]>([])
  const actions = ref<Schemas['ActionRow'][]>([])
  const reply = ref<Schemas['ActReply'] | null>(null)
  const plan = ref<Schemas['PlanReply'] | null>(null)
  const busy = ref(false)
  const failure = ref('')
  const planted = computed(() => base.rows.value.map((r) => r.kind.name).join(' with ') || 'no fault set')
  let running: AbortController | null = null

  async function play(): Promise<void> {
    running?.abort()
    const mine = (running = new AbortController())
    busy.value = true
    try {
      const body = {
        ...base.body.value,
        steps: steps.value,
        outdoor_per_h: drift.value.outdoor || 0,
        return_per_h: drift.value.room || 0,
        frames: false,
        room: asked(),
      }
      reply.value = await ask(api.POST('/api/v1/act', { body, signal: mine.signal }))
      failure.value = ''
    } catch (error) {
      if (running === mine && !(error instanceof DOMException)) failure.value = sentence(error)
    } finally {
      if (running === mine) busy.value = false
    }
  }
  /** The room as the server is asked for it: nothing where conditions are held, no trouble that this machine cannot have. */
  function asked(): Schemas['RoomBody'] | null {
    const { lives, start, set, door, troubles: chosen } = room.value
    if (!lives) return null
    const known = new Set(troubles.value.map((t) => t.id))
    const number = (v: number | null) => (typeof v === 'number' && Number.isFinite(v) ? v : null)
    return { start: number(start), set: number(set), door, troubles: chosen.filter((id) => known.has(id)) }
  }
  async function ask_plan(): Promise<void> {
    try {
      plan.value = await ask(api.POST('/api/v1/plan', { body: base.body.value }))
    } catch (error) {
      failure.value = sentence(error)
    }
  }
  async function list(): Promise<void> {
    const path = { machine_id: base.state.value.machine }
    const found = await ask(
      api.GET('/api/v1/actions/{machine_id}', { params: { path, query: { units: units.value } } }),
    )
    actions.value = found.actions
    doors.value = found.doors
    troubles.value = found.troubles
  }
  function act(action: string, given: Done['arguments'] = {}): void {
    steps.value = [...steps.value, { do: action, arguments: given }]
  }
  function undo(): void {
    steps.value = steps.value.slice(0, -1)
  }
  function restart(): void {
    steps.value = []
  }
  function playPlan(): void {
    steps.value = (plan.value?.steps ?? []).map((s) => ({ do: s.action, arguments: s.arguments as Done['arguments'] }))
  }
  void base.ready
    .then(async () => {
      watch([steps, drift, room, base.body], () => void play(), { deep: true })
      watch(base.body, () => void ask_plan())
      watch(units, () => void list())
      await list()
      await Promise.all([play(), ask_plan()])
    })
    .catch((error: Error) => (failure.value = error.message))
  return {
    ...base,
    steps,
    drift,
    room,
    doors,
    troubles,
    actions,
    reply,
    plan,
    busy,
    failure,
    act,
    undo,
    restart,
    playPlan,
    planted,
  }
}
