<script setup lang="ts">
/** Refrigerant that moved: written down with the cylinder's weights before and after. */
import { computed, ref, watch } from 'vue'
import { api, ask, FailedRequest, named, type Schemas } from '@/api/client'
import { kept, units } from '@/shared/kept'

const props = defineProps<{
  cylinders: Schemas['StockRow'][]
  refrigerants: string[]
  rigs: Schemas['RigRow'][]
  chosen: number | null
}>()
const emit = defineEmits<{ written: [log: Schemas['LogReply']] }>()
type Kind = Schemas['MoveBody']['kind']
const KINDS: [Kind, string][] = [
  ['charge', 'Charge a rig'],
  ['recover', 'Recover from a rig'],
  ['transfer', 'Move to another cylinder'],
  ['received', 'Received'],
  ['returned', 'Returned for reclaim'],
  ['lost', 'Lost'],
]
const EMPTY = {
  kind: 'charge' as Kind,
  cylinder_id: 0,
  other_id: 0,
  rig_id: 0,
  refrigerant: '',
  log: '',
  before: '',
  after: '',
  scale: '',
  temperature: '',
  person: '',
  why: '',
}
const LABELS = {
  log: 'Moved, as written',
  before: 'Before',
  after: 'After',
  scale: 'Rig’s scale',
  temperature: 'Warmest place',
  cylinder_id: 'Cylinder',
  other_id: 'To',
  rig_id: 'Rig',
  refrigerant: 'Refrigerant',
}
const form = kept('refrigerant.move', { ...EMPTY })
// From a rig's page: what was just taken out of it, or goes back in.
const from = new URLSearchParams(window.location.search)
if (from.has('rig')) {
  const kind = from.get('kind') === 'recover' ? 'recover' : 'charge'
  const [log, why] = [from.get('log') ?? '', from.get('why') ?? '']
  form.value = { ...EMPTY, kind, rig_id: Number(from.get('rig')), log, why }
}
const failure = ref('')
const refused = ref(false)
const busy = ref(false)
const atRig = computed(() => form.value.kind === 'charge' || form.value.kind === 'recover')
const one = computed(() => props.cylinders.find((c) => c.id === form.value.cylinder_id))
const unit = computed(() => (units.value === 'us' ? 'lb, or 24 lb 11 oz' : 'kg'))
const ready = computed(
  () =>
    !!form.value.cylinder_id &&
    !!form.value.log.trim() &&
    !!form.value.before.trim() &&
    !!form.value.after.trim() &&
    (!atRig.value || !!form.value.rig_id) &&
    (form.value.kind !== 'transfer' || !!form.value.other_id),
)
watch(
  () => props.chosen,
  (id) => id && (form.value.cylinder_id = id),
)
watch(
  () => [form.value.kind, form.value.cylinder_id, form.value.log, form.value.rig_id],
  () => {
    refused.value = false
    failure.value = ''
  },
)
async function send(happened: boolean): Promise<void> {
  busy.value = true
  failure.value = ''
  const { other_id, rig_id, ...rest } = form.value
  const body = {
    ...rest,
    other_id: form.value.kind === 'transfer' ? other_id || null : null,
    rig_id: atRig.value ? rig_id || null : null,
    refrigerant: form.value.kind === 'received' ? form.value.refrigerant : '',
    happened,
    units: units.value,
  }
  try {
    emit('written', await ask(api.POST('/api/v1/refrigerant/moves', { body })))
    form.value = { ...EMPTY, kind: form.value.kind, person: form.value.person, rig_id }
    refused.value = false
  } catch (error) {
    failure.value = named(error, LABELS)
    refused.value = error instanceof FailedRequest && ['cylinder_id', 'other_id', 'log'].includes(error.field ?? '')
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <form class="card" aria-label="Write down a move" @submit.prevent="send(false)">
    <h2>Write it down</h2>
    <label class="field"
      ><span>What was done</span
      ><select v-model="form.kind" data-test="kind">
        <option v-for="[id, name] in KINDS" :key="id" :value="id">{{ name }}</option>
      </select></label
    >
    <div class="pair">
      <label class="field"
        ><span>Cylinder</span
        ><select v-model="form.cylinder_id" data-test="move-cylinder">
          <option v-for="c in cylinders" :key="c.id" :value="c.id">
            {{ c.name }} · {{ c.refrigerant || 'empty' }}
          </option>
        </select></label
      >
      <label v-if="atRig" class="field"
        ><span>Rig</span
        ><select v-model="form.rig_id" data-test="move-rig">
          <option v-for="r in rigs" :key="r.id" :value="r.id">{{ r.name }} · {{ r.refrigerant }}</option>
        </select></label
      >
      <label v-else-if="form.kind === 'transfer'" class="field"
        ><span>To</span
        ><select v-model="form.other_id">
          <option v-for="c in cylinders.filter((x) => x.id !== form.cylinder_id)" :key="c.id" :value="c.id">
            {{ c.name }} · {{ c.refrigerant || 'empty' }}
          </option>
        </select></label
      >
      <label v-else-if="form.kind === 'received' && !one?.refrigerant" class="field"
        ><span>Refrigerant</span
        ><select v-model="form.refrigerant">
          <option v-for="r in refrigerants" :key="r">{{ r }}</option>
        </select></label
      >
    </div>
    <p class="soft small">Weights: {{ unit }}. The cylinder is weighed gross, hoses hanging free.</p>
    <div class="three">
      <label class="field"
        ><span>Cylinder before</span
        ><input v-model="form.before" maxlength="40" :placeholder="one?.gross" data-test="before"
      /></label>
      <label class="field"
        ><span>Cylinder after</span><input v-model="form.after" maxlength="40" data-test="after"
      /></label>
      <label class="field"
        ><span>Moved, as written</span><input v-model="form.log" maxlength="40" placeholder="12 oz" data-test="log"
      /></label>
    </div>
    <div class="pair">
      <label class="field"><span>Who</span><input v-model="form.person" maxlength="80" /></label>
      <label class="field"><span>Why</span><input v-model="form.why" maxlength="300" /></label>
    </div>
    <details>
      <summary>Rig’s own scale, a warm place</summary>
      <div class="pair">
        <label class="field"
          ><span>What the rig’s scale saw move</span><input v-model="form.scale" maxlength="40"
        /></label>
        <label class="field"
          ><span>Warmest place it will be, {{ units === 'us' ? '°F' : '°C' }}</span
          ><input v-model="form.temperature" maxlength="40" :placeholder="units === 'us' ? '77' : '25'"
        /></label>
      </div>
    </details>
    <p v-if="failure" class="error" role="alert" data-test="refused">{{ failure }}</p>
    <div class="hands">
      <el-button type="primary" native-type="submit" :loading="busy" :disabled="!ready" data-test="write-down"
        >Write it down</el-button
      >
      <el-button v-if="refused" data-test="happened" @click="send(true)">It was done anyway: record it</el-button>
    </div>
  </form>
</template>

<style scoped>
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0 12px;
}
.three {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 0 12px;
}
.small {
  margin: 0 0 6px;
  font-size: 13px;
}
summary {
  margin-bottom: 8px;
  color: var(--violet);
  cursor: pointer;
}
.hands {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
.hands :deep(.el-button + .el-button) {
  margin-left: 0;
}
@media (max-width: 520px) {
  .three {
    grid-template-columns: 1fr;
  }
}
</style>
