import { computed, onScopeDispose, ref, watch, type ComputedRef, type Ref } from 'vue'
import { api, ask, type Schemas, sentence } from '@/api/client'
import { allowed } from '@/shared/acting'
import { kept } from '@/shared/kept'
import { useLater } from '@/shared/later'
import { asked, HELD, type Living, type LivingRoom } from '@/shared/room'
import type { Bench } from './useBench'

export type Day = Schemas['ActReply']
/** Hours a day on the bench may last. */
export const HOURS = [4, 8, 24] as const

export interface RoomDay extends Living {
  hours: Ref<number>
  /** As planted, and the same machine with nothing wrong: as far as they have been played. */
  planted: Ref<Day | null>
  normal: Ref<Day | null>
  reply: ComputedRef<Day | null>
  busy: Ref<boolean>
  failure: Ref<string>
}

/** The planted machine in its room, hour by hour, beside the same with nothing wrong; played only while it is looked at. */
export function useRoomDay(bench: Bench, looked: Ref<boolean>): RoomDay {
  const room = kept<LivingRoom>('bench.room', { ...HELD, lives: true })
  const hours = kept<number>('bench.room.hours', 8)
  const doors = ref<string[]>([])
  const troubles = ref<Schemas['TroubleRow'][]>([])
  const planted = ref<Day | null>(null)
  const normal = ref<Day | null>(null)
  const busy = ref(false)
  const failure = ref('')
  const soon = useLater(400)
  let running: AbortController | null = null

  async function hour(n: number, sound: boolean, signal: AbortSignal): Promise<Day> {
    const own = asked({ ...room.value, lives: true }, troubles.value)
    const body = {
      ...bench.body.value,
      steps: Array.from({ length: n }, () => ({ do: 'wait', arguments: { minutes: 60 } })),
      outdoor_per_h: 0,
      return_per_h: 0,
      frames: false,
      room: own && sound ? { ...own, troubles: [] } : own,
      ...(sound ? { faults: [] } : {}),
    }
    return ask(api.POST('/api/v1/act', { body, signal }))
  }
  async function play(): Promise<void> {
    running?.abort()
    const mine = (running = new AbortController())
    busy.value = true
    try {
      for (let n = 1; n <= hours.value; n++) {
        const [one, other] = [await hour(n, false, mine.signal), await hour(n, true, mine.signal)]
        if (mine.signal.aborted) return
        planted.value = one
        normal.value = other
        failure.value = one.refusal ?? ''
        if (one.refusal) return
      }
    } catch (error) {
      if (running === mine && !(error instanceof DOMException)) failure.value = sentence(error)
    } finally {
      if (running === mine) busy.value = false
    }
  }
  async function list(): Promise<void> {
    const found = await allowed(bench.state.value.machine)
    doors.value = found.doors
    troubles.value = found.troubles
  }
  watch(
    [looked, bench.body, room, hours],
    () => {
      running?.abort()
      planted.value = normal.value = null
      if (!looked.value) return
      busy.value = true
      soon.push(
        () =>
          void list()
            .then(play)
            .catch((error: unknown) => (failure.value = sentence(error))),
      )
    },
    { deep: true, immediate: true },
  )
  onScopeDispose(() => running?.abort())
  return { room, hours, doors, troubles, planted, normal, reply: computed(() => planted.value), busy, failure }
}
