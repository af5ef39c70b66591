<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { useFailing } from '@/shared/failing'
import { api, ask, type Schemas } from '@/api/client'
import type { Bench } from '@/features/bench/useBench'
import { kept } from '@/shared/kept'

/** The instructor's remote: puts the case up, walks the class through the steps, reveals what the instructor says. */
const props = defineProps<{ bench: Bench }>()
const open = defineModel<boolean>('open', { required: true })
const { state, body, machine } = props.bench
const remote = ref<Schemas['RemoteReply'] | null>(null)
/** Only this browser knows the link; the server keeps its hash. */
const link = kept<{ id: number; token: string }>('projector.link', { id: 0, token: '' })
const { failure, busy, attempt: run } = useFailing()
const address = computed(() =>
  remote.value && link.value.id === remote.value.id ? `${location.origin}/projector#${link.value.token}` : '',
)

const STEPS = ['look', 'measure', 'convert', 'compare', 'confirm'] as const
const ASKS: Record<string, string> = {
  look: 'What do you see before a gauge is on?',
  measure: 'Where do you clamp, what do you read?',
  convert: 'Read the PT scales; work out the figures.',
  compare: 'Against what? Low, normal or high?',
  confirm: 'Which test would tell, and what is it?',
}
const REVEALS: Record<string, [string, string][]> = {
  look: [['story', 'Complaint, history, visual inspection']],
  measure: [['readings', 'Gauges and readings']],
  convert: [
    ['conversions', 'Saturation temperatures'],
    ['figures', 'Superheat, subcooling, TDs'],
  ],
  compare: [
    ['targets', 'Target bands'],
    ['verdicts', 'Low, normal, high'],
  ],
  confirm: [
    ['tests', 'Test results'],
    ['answer', 'The answer: fault, filled coils, normal readings'],
  ],
}
const shown = (part: string) => remote.value?.shown.includes(part) ?? false

const read = () =>
  run(async () => {
    remote.value = (await ask(api.GET('/api/v1/projections'))).projection ?? null
  })
const putUp = () =>
  run(async () => {
    const { complaint, history, look_round } = state.value.story
    const lines = look_round
      .split('\n')
      .map((l) => l.trim())
      .filter(Boolean)
    const made = await ask(
      api.POST('/api/v1/projections', {
        body: { ...body.value, given_readings: state.value.readings, complaint, history, look_round: lines },
      }),
    )
    link.value = { id: made.id, token: made.token }
    remote.value = made
  })
function turn(step: string, parts: string[], test: string | null = null): Promise<void> {
  return run(async () => {
    if (!remote.value) return
    remote.value = await ask(
      api.PUT('/api/v1/projections/{projection_id}', {
        params: { path: { projection_id: remote.value.id } },
        body: { step, shown: parts, test },
      }),
    )
  })
}
function go(step: string): void {
  const parts = remote.value?.shown ?? []
  void turn(step, step === 'measure' && !parts.includes('readings') ? [...parts, 'readings'] : parts)
}
function flip(part: string): void {
  const parts = remote.value?.shown ?? []
  void turn(remote.value?.step ?? 'look', shown(part) ? parts.filter((p) => p !== part) : [...parts, part])
}
function test(event: Event): void {
  const list = event.target as HTMLSelectElement
  const parts = remote.value?.shown ?? []
  if (list.value) void turn('confirm', parts.includes('tests') ? parts : [...parts, 'tests'], list.value)
  list.value = ''
}
const takeDown = () =>
  run(async () => {
    await ask(api.DELETE('/api/v1/projections'))
    remote.value = null
  })
/** A presenter's keys: arrows, Page Up and Down, space. Not while somebody types or a button has the key. */
const FORWARD = ['ArrowRight', 'PageDown', ' ']
const BACK = ['ArrowLeft', 'PageUp']
function key(event: KeyboardEvent): void {
  const busyWith = (event.target as HTMLElement | null)?.closest('input, textarea, select, button, a, [role=slider]')
  if (!open.value || !remote.value || event.ctrlKey || event.metaKey || event.altKey) return
  if (busyWith && !(busyWith.closest('[data-test=remote]') && event.key !== ' ')) return
  const by = FORWARD.includes(event.key) ? 1 : BACK.includes(event.key) ? -1 : 0
  const to = STEPS[STEPS.findIndex((s) => s === remote.value?.step) + by]
  if (!by) return
  event.preventDefault()
  if (to) go(to)
}
onMounted(read)
onMounted(() => window.addEventListener('keydown', key))
onBeforeUnmount(() => window.removeEventListener('keydown', key))
watch(open, (now) => now && void read())
</script>

<template>
  <el-drawer v-model="open" title="Projector" size="340px" :modal="false" modal-penetrable>
    <div class="remote" data-test="remote">
      <p v-if="failure" class="error" role="alert">{{ failure }}</p>
      <p v-if="!remote" class="soft">
        Show the class the machine as it is set. The projector page has its own link and shows only what you have
        revealed: no coil fill, no target, no fault name.
      </p>
      <el-button type="primary" :loading="busy && !remote" data-test="put-up" @click="putUp">{{
        remote ? 'Project the bench as it is now' : 'Start projecting'
      }}</el-button>
      <template v-if="remote">
        <p v-if="address" class="link">
          <a :href="address" target="_blank" rel="noopener" data-test="projector-link">Open the projector page</a
          ><span>or open this link on the computer at the projector:</span
          ><input
            :value="address"
            readonly
            aria-label="Link of the projector's page"
            @focus="($event.target as HTMLInputElement).select()"
          />
        </p>
        <p v-else class="soft">The link was opened in another browser; start projecting again to have one here.</p>
        <p class="soft">Step with ← →, Page Up and Page Down, or space.</p>
        <ol class="steps">
          <li v-for="s in STEPS" :key="s" :class="{ on: remote.step === s }">
            <button
              type="button"
              :aria-current="remote.step === s ? 'step' : undefined"
              :data-test="`step-${s}`"
              @click="go(s)"
            >
              {{ s }}
            </button>
            <template v-if="remote.step === s">
              <p class="soft">{{ ASKS[s] }}</p>
              <label v-for="[part, name] in REVEALS[s]" :key="part"
                ><input type="checkbox" :checked="shown(part)" :data-test="`reveal-${part}`" @change="flip(part)" />
                {{ name }}</label
              >
              <select
                v-if="s === 'confirm'"
                aria-label="Ask for a test in front of the class"
                data-test="class-test"
                @change="test"
              >
                <option value="">ask for a test…</option>
                <option v-for="t in machine?.tests" :key="t.id" :value="t.id">{{ t.name }}</option>
              </select>
              <p v-if="s === 'confirm' && remote.tests.length" class="soft">
                Asked so far: {{ remote.tests.join(', ') }}.
              </p>
            </template>
          </li>
        </ol>
        <el-button data-test="take-down" @click="takeDown">Stop projecting</el-button>
      </template>
    </div>
  </el-drawer>
</template>

<style scoped>
.remote {
  display: flex;
  flex-direction: column;
  gap: 10px;
  font-size: 14px;
}
.remote p {
  margin: 0;
}
.link span {
  display: block;
  font-size: 12.5px;
  color: var(--ink-soft);
  margin-top: 6px;
}
.link input {
  width: 100%;
  font: 12px var(--mono);
  border: 1px solid var(--edge);
  border-radius: 3px;
  padding: 4px 6px;
}
.steps {
  list-style: none;
  margin: 0;
  padding: 0;
}
.steps li {
  border-left: 4px solid var(--line);
  padding: 2px 0 4px 10px;
}
.steps li.on {
  border-left-color: var(--violet);
}
.steps button {
  border: 0;
  background: none;
  font-size: 16px;
  cursor: pointer;
  padding: 3px 0;
  color: var(--ink);
  text-transform: capitalize;
}
.steps li.on button {
  font-weight: 700;
  color: var(--violet);
}
.steps label {
  display: block;
  margin: 3px 0;
}
.steps input {
  accent-color: var(--violet);
  width: 16px;
  height: 16px;
  vertical-align: -2px;
}
.steps select {
  margin-top: 4px;
  width: 100%;
}
</style>
