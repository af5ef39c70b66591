/**
 * A call on screen as a browser carries it on: steps are kept here first and sent when the line is there, each once.
 * What is written down shows at once; what the machine answers shows when it has answered.
 */
import { computed, onBeforeUnmount, onMounted, ref, type ComputedRef, type Ref } from 'vue'
import { api, ask, FailedRequest, loggedOut, sentence, type Schemas } from '@/api/client'
import { kept } from '@/shared/kept'
import { readSession, unproved } from '@/shared/session'
import { drawn, keepPage } from '@/features/lab/session'

export type PlayStep = { uid: string; kind: string; data: Record<string, unknown> }
export type PlayRun = Schemas['ScreenRun']
export type PlayShown = Schemas['ScreenStepOut']

const FIRST_MS = 1500
const SLOWEST_MS = 15_000
const PAUSE_MS = 600
const WRITTEN = ['answer', 'proof', 'ticket']
/** What the server will never take however often it is sent. */
const FINAL = ['bad_input', 'moved_on', 'finished', 'not_now']

const text = (value: unknown): string => (typeof value === 'string' ? value : '')

/** A run with what was written down and not sent yet on top. */
export function withWritten(run: PlayRun, steps: readonly PlayStep[]): PlayRun {
  const now = { ...run, answers: { ...run.answers }, proof: { ...run.proof } }
  for (const { kind, data } of steps) {
    if (kind === 'answer' && !run.named) now.answers[text(data.question)] = text(data.text)
    else if (kind === 'proof') now.proof[text(data.point)] = text(data.text)
    else if (kind === 'ticket') now.ticket = text(data.text)
  }
  return now
}

/** The steps after one more: one of the same field that was not sent yet is replaced. */
export function plus(steps: readonly PlayStep[], step: PlayStep, sending: ReadonlySet<string>): PlayStep[] {
  const field = (s: PlayStep) => `${s.kind} ${text(s.data.question)}${text(s.data.point)}`
  const left = WRITTEN.includes(step.kind)
    ? steps.filter((s) => sending.has(s.uid) || field(s) !== field(step))
    : [...steps]
  return [...left, step]
}

export interface Play {
  run: ComputedRef<PlayRun | null>
  /** The newest step that the machine answered. */
  last: ComputedRef<PlayShown | null>
  waiting: ComputedRef<number>
  /** Whether the machine is asked something just now. */
  busy: ComputedRef<boolean>
  lost: Ref<boolean>
  failure: Ref<string>
  say: (kind: string, data?: Record<string, unknown>) => void
}

export function usePlay(id: number): Play {
  const server = kept<PlayRun | null>(`screen.${id}.run`, null)
  const steps = kept<PlayStep[]>(`screen.${id}.steps`, [])
  const lost = ref(false)
  const failure = ref('')
  const path = { params: { path: { run_id: id } } }
  let sending = new Set<string>()
  let timer = 0
  let wait = FIRST_MS
  let over = false
  let running: Promise<void> | null = null

  async function exchange(): Promise<void> {
    // after a reload without a line nobody knows yet who is here
    if (unproved.value) await readSession()
    if (unproved.value) throw new Error('No line.')
    const batch = steps.value.slice(0, 40)
    if (!batch.length) {
      server.value = await ask(api.GET('/api/v1/screen/mine/runs/{run_id}', path))
      return
    }
    sending = new Set(batch.map((s) => s.uid))
    try {
      const body = { after: server.value?.steps.length ?? 0, steps: batch }
      server.value = await ask(api.POST('/api/v1/screen/mine/runs/{run_id}/steps', { ...path, body }))
      steps.value = steps.value.filter((s) => !sending.has(s.uid))
    } catch (error) {
      if (!(error instanceof FailedRequest) || !FINAL.includes(error.code)) throw error
      // refused for good: said, and not sent again; the run is looked at as it stands
      const gone = new Set(
        batch.filter((s) => error.code === 'finished' || !WRITTEN.includes(s.kind)).map((s) => s.uid),
      )
      steps.value = steps.value.filter((s) => !(gone.size ? gone : sending).has(s.uid))
      failure.value = error.message
      server.value = await ask(api.GET('/api/v1/screen/mine/runs/{run_id}', path))
    } finally {
      sending = new Set()
    }
  }
  async function turn(): Promise<void> {
    window.clearTimeout(timer)
    try {
      if (!loggedOut.value) await exchange()
      lost.value = false
      wait = FIRST_MS
    } catch (error) {
      lost.value = true
      if (error instanceof FailedRequest && error.code) failure.value = sentence(error)
      wait = Math.min(wait * 2, SLOWEST_MS)
    }
    running = null
    if (over) return
    if (steps.value.length) timer = window.setTimeout(go, lost.value || loggedOut.value ? wait : 0)
    else if (lost.value || loggedOut.value || !server.value) timer = window.setTimeout(go, wait)
  }
  const go = (): void => {
    running ??= turn()
  }
  function say(kind: string, data: Record<string, unknown> = {}): void {
    failure.value = ''
    steps.value = plus(steps.value, { uid: drawn(), kind, data }, sending)
    if (running || lost.value) return
    window.clearTimeout(timer)
    timer = window.setTimeout(go, WRITTEN.includes(kind) ? PAUSE_MS : 0)
  }
  const back = () => {
    wait = FIRST_MS
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
  return {
    run: computed(() => (server.value ? withWritten(server.value, steps.value) : null)),
    last: computed(() => server.value?.steps.filter((s) => !WRITTEN.includes(s.kind)).at(-1) ?? null),
    waiting: computed(() => steps.value.length),
    busy: computed(() => steps.value.some((s) => !WRITTEN.includes(s.kind))),
    lost,
    failure,
    say,
  }
}

/** Minutes as a clock shows them. */
export function clock(minutes: number): string {
  const whole = Math.round(minutes)
  return `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, '0')}`
}
