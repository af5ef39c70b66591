<script setup lang="ts">
/** A call of the library changed where it stands on a sheet: the change is a scenario of its own, the old one stays. */
import { computed, ref, watch } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import { severityText } from '@/shared/circuit/circuit'
import { keptF, shownF, unitF } from '@/shared/degrees'
import { useFailing } from '@/shared/failing'
import FindSelect from '@/shared/FindSelect.vue'
import { units } from '@/shared/kept'
import NumberField from '@/shared/NumberField.vue'
import type { Item } from './draft'

type Body = Schemas['ScenarioBody']
type Fault = { id: string; severity: number; cause?: string | null }
const item = defineModel<Item>({ required: true })
const props = defineProps<{ catalogue: Schemas['CatalogueReply'] | null }>()
const emit = defineEmits<{ changed: [] }>()
const { failure, busy, attempt } = useFailing()
const NONE = 'none'
const STEPS = ['mild', 'moderate', 'severe'] as const
const HANDLES = ['outdoor_db_f', 'return_db_f', 'return_wb_f', 'box_f', 'water_in_f'] as const

const body = ref<Body | null>(null)
const first = ref('')
const said = ref('')
const machine = computed(() => props.catalogue?.machines.find((m) => m.id === body.value?.machine))
const kinds = computed(() =>
  (props.catalogue?.faults ?? [])
    .filter((f) => f.unit && f.on_paper && f.machines.includes(body.value?.machine ?? ''))
    .map((f) => (machine.value?.receiver && f.with_receiver ? { ...f, ...f.with_receiver } : f)),
)
const faults = computed({
  get: () => (body.value?.faults ?? []) as Fault[],
  set: (list) => body.value && (body.value.faults = list as Body['faults']),
})
const kindOf = (id: string) => kinds.value.find((k) => k.id === id)
const rows = computed(() => [
  { id: NONE, label: 'Nothing wrong', also: [] as string[] },
  ...kinds.value.map((f) => ({ id: f.id, label: f.name, also: f.also })),
])
const machines = computed(() =>
  (props.catalogue?.machines ?? []).map((m) => ({ id: m.id, label: `${m.name}, ${m.refrigerant}`, also: m.also })),
)
const handles = computed(() => (machine.value?.weather ?? []).filter((w) => HANDLES.some((h) => h === w.field)))
const differs = computed(() => body.value !== null && JSON.stringify(body.value) !== first.value)

/** A stored scenario as it is sent: without its version and what the server adds. */
function asBody(file: Schemas['ScenarioRow']['body']): Body {
  const body: Record<string, unknown> = { ...file, fault: null, severity: null }
  for (const added of ['schema', 'own', 'own_practice']) delete body[added]
  return body as Body
}
async function open(id: number): Promise<void> {
  const row = await ask(api.GET('/api/v1/scenarios/{scenario_id}', { params: { path: { scenario_id: id } } }))
  body.value = asBody(row.body)
  first.value = JSON.stringify(body.value)
}
function setFault(n: number, id: string): void {
  const kind = kindOf(id)
  const list = [...faults.value]
  if (id === NONE) list.splice(n, 1)
  else list[n] = { id, severity: kind?.moderate ?? 0, cause: null }
  faults.value = list
  // what was said of another fault would give a false trail
  if (body.value) Object.assign(body.value, { complaint: '', history: '', look_round: [], given_tests: [] })
}
function setMachine(id: string): void {
  if (!body.value) return
  const made = props.catalogue?.machines.find((m) => m.id === id)
  body.value.machine = id
  for (const field of HANDLES) {
    const w = made?.weather.find((x) => x.field === field)
    const now = body.value[field]
    const fits = w && typeof now === 'number' && now >= w.low && now <= w.high
    if (field === 'outdoor_db_f') body.value[field] = fits ? now : (w?.rated ?? 95)
    else body.value[field] = w ? (fits ? now : w.rated) : null
  }
  faults.value = faults.value.filter((f) => props.catalogue?.faults.find((k) => k.id === f.id)?.machines.includes(id))
}
function setWeather(field: string, shown: number | null | undefined): void {
  if (body.value && shown !== null && shown !== undefined)
    Object.assign(body.value, { [field]: Math.round(keptF(shown) * 10) / 10 })
}
const apply = () =>
  attempt(async () => {
    if (!body.value) return
    const title = body.value.title.replace(/, changed$/, '').slice(0, 108)
    const row = await ask(api.POST('/api/v1/scenarios', { body: { ...body.value, title: `${title}, changed` } }))
    item.value = {
      ...item.value,
      scenario_id: row.id,
      title: row.title,
      level: row.level,
      minutes: item.value.kind === 'rig' ? 30 : row.level ? 3 + 2 * row.level : 9,
    }
    said.value = `Saved in the library as “${row.title}”. ${row.proof}`
    emit('changed')
  })
watch(
  () => item.value.scenario_id,
  (id) => id && void attempt(() => open(id)),
  { immediate: true },
)
</script>

<template>
  <template v-if="body">
    <label class="field"
      ><span>Machine</span
      ><FindSelect
        :model-value="body.machine"
        :rows="machines"
        aria-label="Machine"
        data-test="change-machine"
        @update:model-value="setMachine"
    /></label>
    <div v-for="n in Math.min(faults.length + 1, 2)" :key="n" class="pair">
      <label class="field"
        ><span>{{ n === 1 ? 'Hidden fault' : 'Second fault' }}</span
        ><FindSelect
          :model-value="faults[n - 1]?.id ?? NONE"
          :rows="rows"
          :aria-label="n === 1 ? 'Hidden fault' : 'Second fault'"
          :data-test="`change-fault-${n}`"
          @update:model-value="setFault(n - 1, $event)"
      /></label>
      <label v-if="faults[n - 1] && kindOf(faults[n - 1]!.id)" class="field"
        ><span>How severe</span
        ><select v-model="faults[n - 1]!.severity" :aria-label="`How severe, fault ${n}`">
          <option v-for="s in STEPS" :key="s" :value="kindOf(faults[n - 1]!.id)![s] ?? 0">
            {{ s }}: {{ severityText(kindOf(faults[n - 1]!.id)!, kindOf(faults[n - 1]!.id)![s] ?? 0, units) }}
          </option>
          <option
            v-if="!STEPS.some((s) => kindOf(faults[n - 1]!.id)![s] === faults[n - 1]!.severity)"
            :value="faults[n - 1]!.severity"
          >
            {{ severityText(kindOf(faults[n - 1]!.id)!, faults[n - 1]!.severity, units) }}
          </option>
        </select></label
      >
    </div>
    <div class="weather">
      <label v-for="w in handles" :key="`${w.field}${units}`" class="span"
        ><span>{{ w.label }}, {{ unitF() }}</span
        ><NumberField
          :model-value="shownF((body[w.field as 'outdoor_db_f'] as number) ?? w.rated)"
          :aria-label="w.label"
          :data-test="`change-${w.field}`"
          @update:model-value="setWeather(w.field, $event)"
      /></label>
    </div>
  </template>
  <div class="hands">
    <el-button type="primary" size="small" :disabled="!differs" :loading="busy" data-test="change-call" @click="apply"
      >Change this call</el-button
    ><slot />
  </div>
  <p v-if="failure" class="error" role="alert">{{ failure }} The call stays as it was.</p>
  <p v-if="said" class="soft" role="status">{{ said }}</p>
</template>

<style scoped src="./change.css"></style>
