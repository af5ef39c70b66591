/**
 * A lab session as a browser carries it on: every step is kept here first and sent when the line is there. What is shown
 * is the server's state with the steps that were not sent yet on top.
 */
import { computed, onBeforeUnmount, onMounted, ref, type ComputedRef, type Ref } from 'vue'
import { api, ask, loggedOut, sentence, type Schemas } from '@/api/client'
import { kept, units } from '@/shared/kept'
import { readSession, unproved, user } from '@/shared/session'

export type Step = { id: string; at: number; kind: string; data: Record<string, unknown> }
export type Seen = Schemas['LabSession'] & Partial<Omit<Schemas['LabDesk'], keyof Schemas['LabSession']>>

/** Asked again this often while nothing is to be sent; after a lost line a little later each time. */
const EVERY_MS = 3000
const SLOWEST_MS = 15_000
/** Typing is kept at once and sent when it pauses. */
const PAUSE_MS = 700

/** An id drawn here; browsers without a secure page have no ready-made one. */
export function drawn(): string {
  const bytes = crypto.getRandomValues(new Uint8Array(16))
  return Array.from(bytes, (b) => b.toString(16).padStart(2, '0')).join('')
}

const text = (value: unknown): string => (typeof value === 'string' ? value : '')
const weighed = (data: Record<string, unknown>) => ({
  cylinder_id: Number(data.cylinder_id),
  kind: text(data.kind),
  before: text(data.before),
  after: text(data.after),
  log: text(data.log),
})

/** A session with steps on top that the server has not seen yet. */
export function withSteps<T extends Schemas['LabSession']>(seen: T, steps: readonly Step[]): T {
  if (!steps.length) return seen
  const now: T = { ...seen, state: { ...seen.state } }
  const state = now.state
  state.ticks = { ...state.ticks }
  state.answers = { ...state.answers }
  state.proofs = { ...state.proofs }
  state.weighs = [...state.weighs]
  for (const { kind, data } of steps) {
    if (kind === 'phase') {
      now.phase = data.to as string
      now.phase_name = now.phases.find((p) => p.id === data.to)?.name ?? now.phase_name
    } else if (kind === 'tick') {
      if (data.on) state.ticks[data.step as string] ??= ''
      else delete state.ticks[data.step as string]
    } else if (kind === 'answer') state.answers[data.question as string] = data.text as string
    else if (kind === 'note') state.note = data.text as string
    else if (kind === 'proof') state.proofs[data.reading as string] = data.text as string
    else if (kind === 'record') state.record = data.text as string
    else if (kind === 'plan') {
      now.signed = 'asked'
      state.planned = true
    } else if (kind === 'help') now.wants_help = true
    else if (kind === 'done') state.done = true
    else if (kind === 'finish') state.finished = true
    else if (kind === 'weigh') state.weighs.push({ ...weighed(data), said: '', kept: false })
  }
  return now
}

/** The steps after one more: one of the same field that was not sent yet is replaced. */
export function added(steps: readonly Step[], step: Step, sending: ReadonlySet<string>): Step[] {
  const field = (s: Step) =>
    s.kind === 'answer' ? `answer ${s.data.question}` : s.kind === 'proof' ? `proof ${s.data.reading}` : s.kind
  const one = ['answer', 'proof', 'note', 'record'].includes(step.kind)
  const left = one ? steps.filter((s) => sending.has(s.id) || field(s) !== field(step)) : [...steps]
  return [...left, step]
}

export interface Carried {
  session: ComputedRef<Seen | null>
  /** How many steps wait to be sent. */
  waiting: ComputedRef<number>
  lost: Ref<boolean>
  failure: Ref<string>
  /** Steps the server would not keep, in words. */
  refused: Ref<string[]>
  say: (kind: string, data?: Record<string, unknown>) => void
  /** Sends what waits, now. */
  flush: () => Promise<void>
}

export function useSession(id: number): Carried {
  const desk = user.value?.role !== 'apprentice'
  // what the desk sees has the answers in it: it is written down nowhere
  const server = desk ? ref<Seen | null>(null) : kept<Seen | null>(`lab.${id}.session`, null)
  const steps = kept<Step[]>(`lab.${id}.steps`, [])
  const lost = ref(false)
  const failure = ref('')
  const refused = ref<string[]>([])
  const session = computed(() => (server.value ? withSteps(server.value, steps.value) : null))
  const path = { params: { path: { session_id: id } } }
  let sending = new Set<string>()
  let timer = 0
  let wait = EVERY_MS
  let over = false
  let running: Promise<void> | null = null

  async function exchange(): Promise<void> {
    if (unproved.value) await readSession()
    if (unproved.value) throw new Error('No line.')
    const batch = steps.value.slice(0, 100)
    if (!batch.length) {
      server.value = desk
        ? await ask(api.GET('/api/v1/lab/sessions/{session_id}', path))
        : await ask(api.GET('/api/v1/lab/mine/{session_id}', path))
      return
    }
    sending = new Set(batch.map((s) => s.id))
    const body = { now: Date.now() / 1000, events: batch, units: units.value }
    try {
      const reply = desk
        ? await ask(api.POST('/api/v1/lab/sessions/{session_id}/events', { ...path, body }))
        : await ask(api.POST('/api/v1/lab/mine/{session_id}/events', { ...path, body }))
      for (const told of reply.told) if (told.refused) refused.value = [...refused.value, told.refused].slice(-4)
      const known = new Set(reply.told.map((t) => t.id))
      steps.value = steps.value.filter((s) => !known.has(s.id))
      server.value = reply.session
    } finally {
      sending = new Set()
    }
  }
  async function turn(): Promise<void> {
    window.clearTimeout(timer)
    try {
      if (!loggedOut.value) await exchange()
      lost.value = false
      failure.value = ''
      wait = EVERY_MS
    } catch (error) {
      lost.value = true
      failure.value = sentence(error)
      wait = Math.min(wait * 2, SLOWEST_MS)
    }
    running = null
    if (!over) timer = window.setTimeout(go, steps.value.length && !lost.value ? 0 : wait)
  }
  const go = (): void => {
    running ??= turn()
  }
  function say(kind: string, data: Record<string, unknown> = {}): void {
    steps.value = added(steps.value, { id: drawn(), at: Date.now() / 1000, kind, data }, sending)
    if (running || lost.value) return
    window.clearTimeout(timer)
    timer = window.setTimeout(go, ['answer', 'proof', 'note', 'record'].includes(kind) ? PAUSE_MS : 0)
  }
  async function flush(): Promise<void> {
    while (running) await running
    go()
    if (running) await running
  }
  const back = () => {
    wait = EVERY_MS
    go()
  }
  onMounted(() => {
    window.addEventListener('online', back)
    go()
    void keepPage()
  })
  onBeforeUnmount(() => {
    over = true
    window.removeEventListener('online', back)
    window.clearTimeout(timer)
  })
  return { session, waiting: computed(() => steps.value.length), lost, failure, refused, say, flush }
}

/** Keeps the page itself at hand for a reload without a line, where the browser may (a secure address, or this machine). */
export async function keepPage(): Promise<void> {
  if (!('serviceWorker' in navigator)) return
  try {
    await navigator.serviceWorker.register('/sw.js')
    const { active } = await navigator.serviceWorker.ready
    const loaded = performance.getEntriesByType('resource').map((r) => new URL(r.name).pathname)
    active?.postMessage(loaded.filter((path) => path.startsWith('/assets/')))
  } catch {
    // the page works on; only a reload without a line does not
  }
}

/** Minutes and seconds since a moment. */
export function since(iso: string | null | undefined, now: number): string {
  if (!iso) return '0:00'
  const seconds = Math.max(Math.round((now - Date.parse(iso)) / 1000), 0)
  return `${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, '0')}`
}
