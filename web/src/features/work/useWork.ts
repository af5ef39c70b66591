import { computed, ref, watch, type ComputedRef, type Ref } from 'vue'
import { api, ask, type Schemas, sentence } from '@/api/client'
import { allowed, type Acting, type Done } from '@/shared/acting'
import { usePlanted, type Planted } from '@/shared/planted'
import { kept, units } from '@/shared/kept'
import { asked, HELD, type LivingRoom } from '@/shared/room'

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
        room: asked(room.value, troubles.value),
      }
      reply.value = await ask(api.POST('/api/v1/act', { body, signal: mine.signal }))
      failure.value = ''
    } catch (error) {
      if (running === mine && !(error instanceof DOMException)) failure.value = sentence(error)
    } finally {
      if (running === mine) busy.value = false
    }
  }
  async function ask_plan(): Promise<void> {
    try {
      plan.value = await ask(api.POST('/api/v1/plan', { body: base.body.value }))
    } catch (error) {
      failure.value = sentence(error)
    }
  }
  async function list(): Promise<void> {
    const found = await allowed(base.state.value.machine)
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
