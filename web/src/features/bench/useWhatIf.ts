import { computed, onScopeDispose, ref, watch, type ComputedRef, type Ref } from 'vue'
import { api, ask, type Schemas, sentence } from '@/api/client'
import { units } from '@/shared/kept'
import type { Bench } from './useBench'

export type Frame = Schemas['FrameRow']
export interface Step {
  do: string
  arguments: Record<string, number | string | null>
}
export interface WhatIf {
  actions: Ref<Schemas['ActionRow'][]>
  steps: Ref<Step[]>
  reply: Ref<Schemas['ActReply'] | null>
  busy: Ref<boolean>
  failure: Ref<string>
  at: Ref<number>
  playing: Ref<boolean>
  frame: ComputedRef<Frame | null>
  first: ComputedRef<Frame | null>
  act: (action: string, given?: Step['arguments']) => void
  undo: () => void
  restart: () => void
  play: () => void
}

const FRAME_MS = 110

/** What would happen if: actions on the machine as it is planted, played through time and watched frame by frame. Nothing of it is saved. */
export function useWhatIf(bench: Bench): WhatIf {
  const actions = ref<Schemas['ActionRow'][]>([])
  const steps = ref<Step[]>([])
  const reply = ref<Schemas['ActReply'] | null>(null)
  const busy = ref(false)
  const failure = ref('')
  const at = ref(0)
  const playing = ref(false)
  let timer = 0
  let running: AbortController | null = null
  const frame = computed(() => reply.value?.frames[at.value] ?? null)
  const first = computed(() => reply.value?.frames[0] ?? null)

  function stop(): void {
    window.clearInterval(timer)
    playing.value = false
  }
  function play(): void {
    stop()
    const last = (reply.value?.frames.length ?? 1) - 1
    if (matchMedia('(prefers-reduced-motion: reduce)').matches) {
      at.value = last
      return
    }
    if (at.value >= last) at.value = 0
    playing.value = true
    timer = window.setInterval(() => (at.value >= last ? stop() : (at.value += 1)), FRAME_MS)
  }
  async function run(): Promise<void> {
    running?.abort()
    stop()
    if (!steps.value.length) {
      reply.value = null
      return
    }
    const mine = (running = new AbortController())
    const from = reply.value ? reply.value.frames.length - 1 : 0
    busy.value = true
    try {
      reply.value = await ask(
        api.POST('/api/v1/act', {
          body: {
            ...bench.body.value,
            steps: steps.value,
            outdoor_per_h: 0,
            return_per_h: 0,
            frames: true,
            room: null,
          },
          signal: mine.signal,
        }),
      )
      failure.value = ''
      at.value = Math.min(from, Math.max(0, (reply.value?.frames.length ?? 1) - 1))
      play()
    } catch (error) {
      if (running === mine && !(error instanceof DOMException)) failure.value = sentence(error)
    } finally {
      if (running === mine) busy.value = false
    }
  }
  async function list(): Promise<void> {
    try {
      actions.value = (
        await ask(
          api.GET('/api/v1/actions/{machine_id}', {
            params: { path: { machine_id: bench.state.value.machine }, query: { units: units.value } },
          }),
        )
      ).actions
    } catch (error) {
      failure.value = sentence(error)
    }
  }
  onScopeDispose(() => {
    running?.abort()
    stop()
  })
  // What was tried belongs to the machine as it was planted.
  watch(bench.body, () => (steps.value = []))
  watch(steps, () => void run())
  watch([() => bench.state.value.machine, units], () => void list(), { immediate: true })
  return {
    actions,
    steps,
    reply,
    busy,
    failure,
    at,
    playing,
    frame,
    first,
    play,
    act: (action, given = {}) => (steps.value = [...steps.value, { do: action, arguments: given }]),
    undo: () => (steps.value = steps.value.slice(0, -1)),
    restart: () => (steps.value = []),
  }
}
