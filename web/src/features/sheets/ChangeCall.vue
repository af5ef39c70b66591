<script setup lang="ts">
/** One planned call changed where it stands: its fault, level, machines and weather, or swapped for one as hard. */
import { computed, onBeforeUnmount, ref, watch } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import { keptF, shownF, unitF } from '@/shared/degrees'
import { useFailing } from '@/shared/failing'
import FindSelect from '@/shared/FindSelect.vue'
import { units } from '@/shared/kept'
import NumberField from '@/shared/NumberField.vue'
import type { Item } from './draft'

const item = defineModel<Item>({ required: true })
const props = defineProps<{ catalogue: Schemas['CatalogueReply'] | null }>()
const emit = defineEmits<{ changed: [] }>()
const { failure, busy, attempt } = useFailing()
const note = ref('')
const PLANNED = 'planned'
const skills = ref<Schemas['SkillRow'][]>([])
const NOTHING: Schemas['RungBody'] = {
  number: 1,
  level: 1,
  skill: 'none',
  skills: null,
  success: null,
  look_decides: null,
  way: null,
}
const rung = computed(() => item.value.rung ?? NOTHING)
const forms = computed(() => [...new Set(rung.value.skills ?? [rung.value.skill ?? 'none'])])
/** What is chosen: PLANNED leaves it as it is, which may be several faults in turn. */
const skill = ref<string>(PLANNED)
const level = ref(1)
const machines = ref<string[]>([])
let before = ''
type Span = [number | undefined, number | undefined]
let asked: Record<string, [number, number]> = {}
const HANDLES = { outdoor_db_f: 'Outdoors', return_db_f: 'Return air', box_f: 'Box', water_in_f: 'Water in' }
const spans = ref<Record<string, Span>>({})
/** The fields as the call stands. */
function asItStands(): void {
  skill.value = forms.value.length === 1 ? (forms.value[0] ?? PLANNED) : PLANNED
  level.value = rung.value.level
  machines.value = [...((item.value.brief?.machines as string[] | undefined) ?? [])]
  before = String(machines.value)
  asked = { ...((item.value.brief?.weather ?? {}) as Record<string, [number, number]>) }
  spans.value = {}
}
asItStands()
const met = computed(() => props.catalogue?.machines.filter((m) => machines.value.includes(m.id)) ?? [])
const handles = computed(() => {
  const fields = new Set(met.value.flatMap((m) => m.weather.map((w) => w.field)))
  return Object.entries(HANDLES).filter(([field]) => fields.has(field))
})
const span = (field: string): Span => spans.value[field] ?? (asked[field] ? [...asked[field]] : [undefined, undefined])
function setSpan(field: string, end: 0 | 1, shown: number | null | undefined): void {
  const now: Span = [...span(field)]
  now[end] = shown === null || shown === undefined ? undefined : keptF(shown)
  spans.value[field] = now
}
const weather = computed(() => {
  const found: Record<string, number[]> = {}
  for (const [field, [low, high]] of Object.entries(spans.value)) {
    const ends = [low ?? high, high ?? low].filter((v) => v !== undefined).sort((a, b) => a - b)
    if (ends.length === 2) found[field] = ends
  }
  return found
})
const change = computed(() => ({
  skill: skill.value !== PLANNED && (forms.value.length > 1 || skill.value !== forms.value[0]) ? skill.value : null,
  level: level.value === rung.value.level ? null : level.value,
  machines: machines.value.length && String(machines.value) !== before ? machines.value : null,
  weather: Object.keys(weather.value).length ? weather.value : null,
}))
const differs = computed(() => Object.values(change.value).some((v) => v !== null))
const rows = computed(() => [
  ...(forms.value.length > 1 ? [{ id: PLANNED, label: `As planned: ${item.value.title}`, also: [] }] : []),
  ...skills.value.map((s) => ({ id: s.id, label: s.name, also: s.also })),
])
const machineRows = computed(() =>
  (props.catalogue?.machines ?? []).map((m) => ({ id: m.id, label: `${m.name}, ${m.refrigerant}`, also: m.also })),
)
const looking = ref<AbortController | null>(null)

async function find(): Promise<void> {
  const found = await ask(
    api.POST('/api/v1/briefs/skills', {
      body: {
        brief: item.value.brief ?? {},
        machines: machines.value.length ? machines.value : null,
        way: rung.value.way ?? 'usual',
      },
    }),
  )
  skills.value = found.skills
}
async function send(body: Partial<Schemas['CallBody']>): Promise<void> {
  const asking = new AbortController()
  looking.value = asking
  try {
    const made = await ask(
      api.POST('/api/v1/briefs/call', {
        body: {
          brief: item.value.brief ?? {},
          rung: rung.value,
          skill: null,
          level: null,
          machines: null,
          weather: null,
          swap: false,
          ...body,
        },
        signal: asking.signal,
      }),
    )
    item.value = {
      ...item.value,
      brief: made.brief,
      rung: made.rung,
      title: made.title,
      level: made.rung.level,
      minutes: made.minutes,
    }
    asItStands()
    note.value = made.note
    emit('changed')
  } catch (error) {
    if (!asking.signal.aborted) throw error
  } finally {
    looking.value = null
  }
}
const apply = () => attempt(() => send(change.value))
const swap = () => attempt(() => send({ swap: true }))
watch(machines, () => void attempt(find), { immediate: true })
onBeforeUnmount(() => looking.value?.abort())
</script>

<template>
  <div class="pair">
    <label class="field"
      ><span>Hidden fault</span
      ><FindSelect v-model="skill" :rows="rows" aria-label="Hidden fault" data-test="change-fault"
    /></label>
    <label class="field"
      ><span>Level</span
      ><select v-model="level" aria-label="Level" data-test="change-level">
        <option v-for="n in 5" :key="n" :value="n">{{ n }} of 5</option>
      </select></label
    >
  </div>
  <label class="field"
    ><span>Machines it may be on</span
    ><FindSelect v-model="machines" multiple :rows="machineRows" aria-label="Machines" data-test="change-machines"
  /></label>
  <div class="weather">
    <div v-for="[field, name] in handles" :key="`${field}${units}`" class="span">
      <span>{{ name }}, {{ unitF() }}</span
      ><span class="ends"
        ><NumberField
          v-for="end in [0, 1] as const"
          :key="end"
          :model-value="span(field)[end] === undefined ? undefined : shownF(span(field)[end]!)"
          optional
          placeholder="usual"
          :aria-label="`${name}, ${end ? 'to' : 'from'}`"
          :data-test="`change-${field}-${end}`"
          @update:model-value="setSpan(field, end, $event)"
      /></span>
    </div>
  </div>
  <div class="hands">
    <el-button
      type="primary"
      size="small"
      :disabled="!differs"
      :loading="busy && !!looking"
      data-test="change-call"
      @click="apply"
      >Change this call</el-button
    ><el-button size="small" :disabled="busy" data-test="swap" @click="swap">Swap for an equally hard one</el-button
    ><el-button v-if="looking" size="small" @click="looking.abort()">Stop</el-button><slot />
  </div>
  <p v-if="failure" class="error" role="alert">{{ failure }} The call stays as it was.</p>
  <p v-if="note" class="unread" role="status">{{ note }}</p>
</template>

<style scoped src="./change.css"></style>
