import { computed, onBeforeUnmount, onMounted, ref, watch, type ComputedRef, type Ref } from 'vue'
import { api, ask, loggedOut, type Schemas, sentence } from '@/api/client'
import { units } from '@/shared/kept'

/** Asked again this often; after a lost line a little later each time. */
const EVERY_MS = 1000
const SLOWEST_MS = 8000

/** Calls `work` again and again while the page stands; what is lost in between is fetched by the next call. */
export function useTicking(work: () => Promise<void>): { lost: Ref<boolean>; failure: Ref<string> } {
  const lost = ref(false)
  const failure = ref('')
  let timer = 0
  let wait = EVERY_MS
  let over = false
  async function tick(): Promise<void> {
    try {
      if (!document.hidden && !loggedOut.value) await work()
      lost.value = false
      failure.value = ''
      wait = EVERY_MS
    } catch (error) {
      lost.value = true
      failure.value = sentence(error)
      wait = Math.min(wait * 2, SLOWEST_MS)
    }
    if (!over) timer = window.setTimeout(tick, wait)
  }
  onMounted(tick)
  onBeforeUnmount(() => {
    over = true
    window.clearTimeout(timer)
  })
  return { lost, failure }
}

export interface Lab {
  rigs: Ref<Schemas['RigRow'][] | null>
  /** The class that goes round the rigs now. */
  rotation: Ref<Schemas['RotationRow'] | null>
  /** Minutes until its round ends by the server's clock, below zero once it is over. */
  left: Ref<number>
  take: (lab: Schemas['RigLab']) => void
  lost: Ref<boolean>
  failure: Ref<string>
  alarming: ComputedRef<Schemas['RigRow'][]>
}
export function useLab(): Lab {
  const rigs = ref<Schemas['RigRow'][] | null>(null)
  const rotation = ref<Schemas['RotationRow'] | null>(null)
  const left = ref(0)
  function take(lab: Schemas['RigLab']): void {
    rigs.value = lab.rigs
    rotation.value = lab.rotation
    left.value = lab.rotation ? (Date.parse(lab.rotation.ends_at) - Date.parse(lab.now)) / 60_000 : 0
  }
  const load = async () => take(await ask(api.GET('/api/v1/rigs', { params: { query: { units: units.value } } })))
  const { lost, failure } = useTicking(load)
  watch(units, () => void load().catch(() => undefined))
  const alarming = computed(() => (rigs.value ?? []).filter((r) => r.alarms.some((a) => a.passed)))
  return { rigs, rotation, left, take, lost, failure, alarming }
}

/** In one line how a rig stands. */
export function standing(rig: Schemas['RigRow']): { tone: 'good' | 'wait' | 'bad' | 'none'; text: string } {
  if (!rig.logged) return { tone: 'none', text: 'no logger: readings are typed' }
  if (rig.state === 'new') return { tone: 'wait', text: 'waiting for its first reading' }
  if (rig.state === 'silent') return { tone: 'bad', text: `silent: ${rig.told}` }
  if (rig.state === 'wrong') return { tone: 'bad', text: rig.told }
  if (rig.settled_min > 0) return { tone: 'good', text: `settled for ${Math.floor(rig.settled_min)} min` }
  return { tone: 'wait', text: rig.why.join('; ') || 'not settled' }
}
