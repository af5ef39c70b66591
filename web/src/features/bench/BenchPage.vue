<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, ask, type Schemas } from '@/api/client'
import DialFace from '@/shared/DialFace.vue'
import { kept, units } from '@/shared/kept'
import CircuitPicture from './CircuitPicture.vue'
import FigureBar from './FigureBar.vue'
import PlantPanel from './PlantPanel.vue'
import ProofPanel from './ProofPanel.vue'
import TestPanel from './TestPanel.vue'
import { useBench } from './useBench'

const bench = useBench()
const { state, reply, catalogue, failure, machine, rows, load } = bench
const route = useRoute()
const router = useRouter()
const title = kept('bench.title', '')
const saving = ref('')
const busy = ref(false)
const shown = (f: number) => (units.value === 'us' ? `${f} °F` : `${((f - 32) / 1.8).toFixed(1)} °C`)
const top = (field: string, high: number) => (field === 'return_wb_f' ? Math.min(high, state.value.weather.return_db_f ?? high) : high)
/** Why this cannot be saved as a call on paper, or nothing. */
const unsaved = computed(() => {
  if (machine.value && !machine.value.on_paper) return 'This machine is for the bench: no call on paper yet.'
  if (rows.value.length > 2 || rows.value.some((r) => r.kind.acts_on === 'reading')) return 'A call on paper takes one or two faults of the machine.'
  if (rows.value.some((r) => !r.kind.on_paper)) return 'This one is for the bench: steady readings on paper cannot carry it.'
  return ''
})

/** The scenario opened from the library, if any: saving writes its next version. */
const opened = ref<Schemas['ScenarioRow'] | null>(null)

async function open(id: number): Promise<void> {
  try {
    const row = await ask(api.GET('/api/v1/scenarios/{scenario_id}', { params: { path: { scenario_id: id } } }))
    const body = row.body as unknown as Schemas['ScenarioBody']
    opened.value = row
    title.value = body.title
    load(body)
  } catch (error) {
    saving.value = (error as Error).message
  }
}
async function save(): Promise<void> {
  busy.value = true
  saving.value = ''
  const { machine: id, weather, altitude_ft, instruments, school, given } = state.value
  const faults = rows.value.map((r) => ({ id: r.kind.id, severity: r.severity, cause: r.planted.cause }))
  const rest = { outdoor_db_f: weather.outdoor_db_f ?? 95, return_db_f: weather.return_db_f ?? 80, return_wb_f: weather.return_wb_f ?? 67, altitude_ft, instruments, school }
  const before = opened.value?.body as unknown as Schemas['ScenarioBody'] | undefined
  const sameFaults = before?.faults?.map((f) => f.id).join() === faults.map((f) => f.id).join()
  const body: Schemas['ScenarioBody'] = {
    ...rest, title: title.value, machine: id, faults, fault: null, severity: null, given_tests: given,
    given_readings: before?.given_readings ?? null, history: before?.history ?? '',
    spread_outdoor_df: before?.spread_outdoor_df ?? 6, spread_return_df: before?.spread_return_df ?? 3,
    spread_depth_pct: before?.spread_depth_pct ?? 15,
    complaint: (sameFaults && before?.complaint) || '', look_round: (sameFaults && before?.look_round) || [],
  }
  try {
    await ask(opened.value
      ? api.PUT('/api/v1/scenarios/{scenario_id}', { params: { path: { scenario_id: opened.value.id } }, body })
      : api.POST('/api/v1/scenarios', { body }))
    title.value = ''
    await router.push('/scenarios')
  } catch (error) {
    saving.value = (error as Error).message
  } finally {
    busy.value = false
  }
}
watch([() => route.query.scenario, catalogue], ([id]) => {
  if (typeof id === 'string' && catalogue.value && opened.value?.id !== Number(id)) void open(Number(id))
}, { immediate: true })
</script>

<template>
  <main class="bench">
    <section class="plant card" aria-label="Plant">
      <h2>Machine</h2>
      <el-select v-model="state.machine" aria-label="Machine" class="wide">
        <el-option v-for="m in catalogue?.machines" :key="m.id" :value="m.id" :label="`${m.name} · ${m.refrigerant}`" />
      </el-select>
      <p v-if="machine?.notes" class="soft notes">{{ machine.notes }}</p>
      <details v-if="machine" class="plate"><summary>plate</summary><dl><template v-for="line in machine.plate[units]" :key="line.label"><dt>{{ line.label }}</dt><dd class="num">{{ line.text }}</dd></template></dl></details>
      <PlantPanel :bench="bench" />
      <h2 class="gap">{{ machine?.weather.some((w) => w.field === 'box_f') ? 'Weather and box' : 'Weather and house' }}</h2>
      <div v-for="w in machine?.weather" :key="w.field">
        <div class="slider-head"><span>{{ w.label }}</span><b class="num">{{ shown(state.weather[w.field] ?? w.rated) }}</b></div>
        <el-slider v-model="state.weather[w.field]" :min="w.low" :max="top(w.field, w.high)" :show-tooltip="false" :aria-label="w.label" />
      </div>
      <div class="slider-head"><span>Altitude</span><b class="num">{{ units === 'us' ? `${state.altitude_ft} ft` : `${Math.round(state.altitude_ft * 0.3048)} m` }}</b></div>
      <el-slider v-model="state.altitude_ft" :min="0" :max="8000" :step="500" :show-tooltip="false" aria-label="Altitude" />
      <div class="slider-head"><span>Gauges</span>
        <el-radio-group v-model="state.instruments" size="small"><el-radio-button value="analogue">analogue</el-radio-button><el-radio-button value="digital">digital</el-radio-button></el-radio-group>
      </div>
      <label class="slider-head school"><span>School</span><select v-model="state.school" aria-label="School of practice"><option v-for="s in catalogue?.schools" :key="s.id" :value="s.id">{{ s.name }}</option></select></label>
      <RouterLink to="/work" class="to-work" data-test="to-work">Work on it and watch it settle</RouterLink>
      <form class="save" @submit.prevent="save">
        <label class="field"><span>{{ opened ? `Scenario, version ${opened.version}` : 'Save as a scenario' }}</span><el-input v-model="title" placeholder="Title" maxlength="120" data-test="title" /></label>
        <p v-if="unsaved" class="soft notes" data-test="unsaved">{{ unsaved }}</p>
        <p v-if="saving" class="error" role="alert">{{ saving }}</p>
        <el-button type="primary" native-type="submit" :loading="busy" :disabled="!title.trim() || !reply || !!reply.trip || !!unsaved" class="wide">{{ opened ? 'Save the next version' : 'Save scenario' }}</el-button>
      </form>
    </section>

    <section class="middle">
      <p v-if="failure" class="card error" role="alert">{{ failure }}</p>
      <div v-if="reply?.trip" class="card trip" role="status"><h1>The machine {{ reply.trip.sentence }}</h1><p>There is nothing to read on a machine that has cut out. Turn the fault down or pick milder weather.</p></div>
      <template v-else-if="reply">
        <div class="card picture"><CircuitPicture :reply="reply" :machine="machine" /></div>
        <ul v-if="reply.signs.length" class="card signs" data-test="signs"><li v-for="s in reply.signs" :key="s">{{ s }}</li></ul>
        <div class="card figures"><FigureBar v-for="f in reply.figures" :key="f.id" :figure="f" /></div>
        <ProofPanel :bench="bench" />
      </template>
    </section>

    <section v-if="reply && !reply.trip" class="side">
      <div class="dials card"><DialFace v-for="d in reply.dials" :key="String(d.side)" :drawing="d" /></div>
      <div v-if="reply.judged" :class="['card', 'judged', { fair: reply.judged.fair }]" role="status"><b>{{ reply.judged.sentence }}</b></div>
      <TestPanel :bench="bench" />
    </section>
  </main>
</template>

<style scoped>
.bench { display: grid; grid-template-columns: 280px minmax(0, 1fr) 268px; gap: 12px; padding: 12px 14px; max-width: 1640px; margin: 0 auto; }
.plant h2:not(:first-child) { margin-top: 10px; }
.wide { width: 100%; }
.slider-head { display: flex; justify-content: space-between; align-items: baseline; font-size: 13.5px; margin-top: 8px; gap: 8px; }
.plant :deep(.el-slider) { height: 22px; padding: 0 8px; }
.notes { font-size: 12.5px; margin: 4px 0 0; }
.plate { font-size: 12.5px; margin-top: 2px; }
.plate summary { color: var(--violet); cursor: pointer; }
.plate dl { display: grid; grid-template-columns: 1fr auto; gap: 1px 8px; margin: 4px 0 0; }
.plate dd { margin: 0; text-align: right; font-weight: 600; }
.school select { flex: 1; min-width: 0; max-width: 190px; font-size: 13px; border: 1px solid #8d889c; border-radius: 3px; background: var(--card); color: var(--ink); padding: 2px; }
.signs { list-style: none; margin: 0; padding: 8px 14px; border-left: 5px solid var(--violet); font-size: 14px; }
.signs li { display: list-item; }
.to-work { display: block; margin-top: 10px; font-size: 13.5px; }
.save { margin-top: 12px; border-top: 1px solid var(--line); padding-top: 10px; }
.save .field { margin-bottom: 8px; }
.middle, .side { display: flex; flex-direction: column; gap: 12px; min-width: 0; }
.picture { padding: 10px 14px 8px; }
.figures { display: grid; grid-template-columns: 1fr 1fr; gap: 14px 28px; }
.trip { border-left: 6px solid var(--amber); padding: 40px; }
.dials { padding: 10px 22px; display: grid; gap: 8px; }
.judged { border-left: 5px solid var(--amber); padding: 10px 14px; }
.judged.fair { border-left-color: var(--good); }
.judged { font-size: 14px; }
@media (max-width: 900px) { .bench { grid-template-columns: 1fr; } }
</style>
