<script setup lang="ts">
/** A nameplate and what is known of a machine; the tuner finds one that matches. */
import { ref, watch } from 'vue'
import { api, ask, named, type Schemas } from '@/api/client'
import { carried } from '@/shared/converting'
import { kept, units } from '@/shared/kept'
import { CONDENSERS, METERING } from '@/shared/words'
import {
  APPLICATIONS,
  bodyOf,
  emptyForm,
  fitting,
  KNOWN,
  LABELS,
  PLATE,
  unitOf,
  WEATHER,
  type FieldRow,
  type PlateForm,
} from './form'
import ReportPicture from './ReportPicture.vue'
import { vFocus } from '@/shared/focus'

const props = defineProps<{ refrigerants: string[]; changing: Schemas['OwnRow'] | null; start: PlateForm | null }>()
const emit = defineEmits<{ kept: [machines: Schemas['OwnRow'][], name: string]; close: [] }>()
/** What is typed is kept, with the units it was typed in; a machine that is changed or copied starts from its plate. */
const form = kept<PlateForm>('plate.us', { ...emptyForm(), units: 'us' })
const tuned = ref<Schemas['TunedReply'] | null>(null)
const failure = ref('')
const busy = ref(false)
const ROWS: FieldRow[] = [...PLATE, ...KNOWN, ...WEATHER]
const weather = () => fitting(WEATHER, form.value)

function carry(): void {
  const from = form.value.units ?? 'us'
  if (from === units.value) return
  const over: PlateForm = { ...form.value, units: units.value }
  for (const row of ROWS) {
    const text = form.value[row.id]
    if (!text) continue
    over[row.id] = carried(text, row.id.endsWith('_df') ? 'Δ°F' : row.unit, units.value)
  }
  form.value = over
}
async function run(keep: boolean): Promise<void> {
  busy.value = true
  failure.value = ''
  try {
    const body = bodyOf(form.value, units.value)
    if (!keep) {
      tuned.value = await ask(api.POST('/api/v1/tune', { body }))
      return
    }
    const found = props.changing
      ? await ask(
          api.PUT('/api/v1/machines/{machine_id}', { params: { path: { machine_id: props.changing.id } }, body }),
        )
      : await ask(api.POST('/api/v1/machines', { body }))
    const name = form.value.name ?? ''
    form.value = { ...emptyForm(), units: units.value }
    emit('kept', found.machines, name)
  } catch (error) {
    failure.value = named(error, LABELS)
  } finally {
    busy.value = false
  }
}
watch(
  () => props.start,
  (start) => {
    if (start) form.value = { ...emptyForm(), ...start, units: 'us' }
    tuned.value = null
    carry()
  },
  { immediate: true },
)
watch(units, () => {
  tuned.value = null
  carry()
})
</script>

<template>
  <div class="halves">
    <form class="card plate" @submit.prevent="run(false)">
      <h2>{{ changing ? `Change ${changing.name}` : 'Nameplate' }}</h2>
      <label class="name"
        ><span>Name</span
        ><input v-model="form.name" v-focus maxlength="80" placeholder="What the class calls it" data-test="name"
      /></label>
      <div class="grid">
        <label
          ><span>Refrigerant</span
          ><select v-model="form.refrigerant">
            <option v-for="r in refrigerants" :key="r">{{ r }}</option>
          </select></label
        >
        <label
          ><span>Metering device</span
          ><select v-model="form.metering" data-test="metering">
            <option v-for="(text, id) in METERING" :key="id" :value="id">{{ text }}</option>
          </select></label
        >
        <label
          ><span>Kind</span
          ><select v-model="form.application">
            <option v-for="(text, id) in APPLICATIONS" :key="id" :value="id">{{ text }}</option>
          </select></label
        >
        <label
          ><span>Condenser</span
          ><select v-model="form.condenser">
            <option v-for="(text, id) in CONDENSERS" :key="id" :value="id">{{ text }}</option>
          </select></label
        >
        <label v-for="f in PLATE" :key="f.id"
          ><span>{{ f.label }}</span
          ><span class="entry"
            ><input v-model="form[f.id]" inputmode="decimal" :data-test="f.id" /><i>{{ unitOf(f, units) }}</i></span
          ></label
        >
      </div>
      <h2>Known ratings <small>leave blank what you do not know</small></h2>
      <div class="grid">
        <label v-for="f in KNOWN" :key="f.id"
          ><span>{{ f.label }}</span
          ><span class="entry"
            ><input v-model="form[f.id]" inputmode="decimal" :data-test="f.id" /><i>{{ unitOf(f, units) }}</i></span
          ></label
        >
      </div>
      <h2>Read in this weather <small>blank: the rating point</small></h2>
      <div class="grid">
        <label v-for="f in weather()" :key="f.id"
          ><span>{{ f.label }}</span
          ><span class="entry"
            ><input v-model="form[f.id]" inputmode="decimal" :data-test="f.id" /><i>{{ unitOf(f, units) }}</i></span
          ></label
        >
      </div>
      <p v-if="failure" class="error" role="alert">{{ failure }}</p>
      <div class="go">
        <el-button
          type="primary"
          native-type="submit"
          :loading="busy"
          :disabled="!(form.name ?? '').trim() || !(form.capacity_btuh ?? '').trim()"
          data-test="tune"
          >Match</el-button
        >
        <el-button v-if="tuned" :loading="busy" data-test="keep" @click="run(true)">{{
          changing ? 'Save the change' : 'Save this machine'
        }}</el-button>
        <el-button @click="$emit('close')">Cancel</el-button>
      </div>
    </form>
    <div v-if="tuned" class="card fitted">
      <h2>What was fitted</h2>
      <ReportPicture :tuned="tuned" />
    </div>
  </div>
</template>

<style scoped>
.plate h2:not(:first-child) {
  margin-top: 14px;
}
h2 small {
  text-transform: none;
  letter-spacing: 0;
  color: var(--ink-soft);
  font-weight: 400;
  margin-left: 6px;
}
.grid {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 6px 18px;
}
label {
  display: grid;
  grid-template-columns: 118px 1fr;
  align-items: center;
  font-size: 13.5px;
}
.name {
  margin-bottom: 6px;
}
.entry {
  display: flex;
  align-items: center;
  gap: 5px;
}
.entry i {
  font-style: normal;
  font-size: 12px;
  color: var(--ink-soft);
  width: 38px;
}
input,
select {
  width: 100%;
}
.fitted {
  overflow-x: auto;
}
.fitted :deep(th),
.fitted :deep(td) {
  padding: 5px 6px;
  font-size: 13.5px;
}
.halves {
  display: grid;
  grid-template-columns: minmax(0, 600px) minmax(0, 1fr);
  gap: 14px;
  align-items: start;
}
.go {
  margin-top: 12px;
  display: flex;
  gap: 8px;
}
@media (max-width: 1000px) {
  .halves {
    grid-template-columns: 1fr;
  }
}
</style>
