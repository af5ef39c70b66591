<script setup lang="ts">
import FindSelect from '@/shared/FindSelect.vue'
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import NumberField from '@/shared/NumberField.vue'
import ChangeCall from './ChangeCall.vue'
import ChangeScenario from './ChangeScenario.vue'
import { DRILLS, type Item } from './draft'

const item = defineModel<Item>({ required: true })
const props = defineProps<{ catalogue: Schemas['CatalogueReply'] | null; number: number }>()
const emit = defineEmits<{ changed: [] }>()
const NAMES: [string, string][] = [
  ['suction_saturation', 'Suction saturation'],
  ['liquid_saturation', 'Liquid saturation'],
  ['superheat', 'Superheat'],
  ['subcooling', 'Subcooling'],
  ['evaporator_td', 'Evaporator TD'],
  ['ctoa', 'CTOA'],
  ['target', 'Target'],
  ['fault', 'What is wrong'],
  ['evidence', 'Evidence'],
  ['action', 'First step'],
  ['amount', 'How much'],
  ['order', 'Order'],
  ['because', 'Why, in words'],
]
const rubrics = computed(() => props.catalogue?.rubrics ?? [])
const usual = computed<Record<string, number>>(() => {
  const chosen = rubrics.value.find((r) => r.id === item.value.asked.rubric)
  return (item.value.asked.parts.includes('correct') ? chosen?.points : chosen?.diagnosis_only) ?? {}
})
const tests = computed(() => {
  const found = new Map<string, string>()
  for (const m of props.catalogue?.machines ?? []) for (const t of m.tests) found.set(t.id, t.name)
  return [...found].map(([id, name]) => ({ id, name }))
})
const practices = computed(() => props.catalogue?.practices.filter((s) => !s.own) ?? [])
const asks = (part: string) =>
  computed({
    get: () => item.value.asked.parts.includes(part),
    set: (on: boolean) => {
      item.value.asked.parts = on
        ? [...item.value.asked.parts.filter((p) => p !== part), part]
        : item.value.asked.parts.filter((p) => p !== part)
    },
  })
const correct = asks('correct')
const because = asks('because')
const situation = computed(() => props.catalogue?.situations.find((s) => s.id === item.value.situation))
const fitting = computed(
  () => props.catalogue?.machines.filter((m) => situation.value?.machines.includes(m.id) ?? false) ?? [],
)
const metOn = computed({
  get: () => (item.value.brief?.machines ?? []).filter((id) => situation.value?.machines.includes(id)),
  set: (ids: string[]) => {
    const brief = { ...(item.value.brief ?? { title: item.value.title }) }
    delete brief.machines
    item.value.brief = ids.length ? { ...brief, machines: ids } : brief
  },
})
function drawAgain(): void {
  item.value.redraw = (item.value.redraw ?? 0) + 1
  emit('changed')
}
function setDrill(id: string): void {
  item.value = { ...item.value, drill: id, title: DRILLS.find(([one]) => one === id)?.[1] ?? id }
}
function setSituation(id: string): void {
  const found = props.catalogue?.situations.find((s) => s.id === id)
  if (!found) return
  const brief = { ...(item.value.brief ?? { title: found.name }) }
  delete brief.machines
  item.value = { ...item.value, situation: id, title: found.name, level: found.level, minutes: found.minutes, brief }
}
const points = (id: string) => item.value.asked.points[id] ?? usual.value[id] ?? 1
function setPoints(id: string, raw: string): void {
  const n = Math.min(Math.max(Math.round(Number(raw)), 0), 12)
  if (!Number.isFinite(n) || n === usual.value[id]) delete item.value.asked.points[id]
  else item.value.asked.points[id] = n
}
</script>

<template>
  <h2>{{ number }} · {{ item.title }}</h2>
  <template v-if="item.kind === 'drill'">
    <div class="pair">
      <label class="field"
        ><span>Drill</span
        ><FindSelect
          :model-value="item.drill ?? ''"
          :rows="DRILLS.map(([id, label]) => ({ id, label }))"
          aria-label="Drill"
          @update:model-value="setDrill"
      /></label>
      <label class="field"
        ><span>Items</span><NumberField v-model="item.items" :min="1" :max="12" aria-label="Items"
      /></label>
    </div>
    <el-button size="small" class="apart" data-test="draw-again" @click="drawAgain">Draw again</el-button>
    <p class="soft">One point for each item asked; the first subtraction of a drill is worked as an example.</p>
  </template>
  <template v-else-if="item.kind === 'situation'">
    <label class="field"
      ><span>Situation</span
      ><FindSelect
        :model-value="item.situation ?? ''"
        :rows="(catalogue?.situations ?? []).map((s) => ({ id: s.id, label: s.name, also: [] }))"
        aria-label="Situation"
        @update:model-value="setSituation"
    /></label>
    <p>{{ situation?.trains }}</p>
    <label class="field"
      ><span>Machines (none: any it fits)</span
      ><FindSelect
        v-model="metOn"
        multiple
        :rows="fitting.map((m) => ({ id: m.id, label: `${m.name}, ${m.refrigerant}`, also: m.also }))"
        aria-label="Machines"
        data-test="met-on"
    /></label>
    <el-button size="small" class="apart" data-test="draw-again" @click="drawAgain">Draw again</el-button>
    <p class="soft">
      It brings its own questions. A conclusion earns with the numbers behind it, also where it follows from an
      apprentice’s own wrong number; a plan follows the conclusion.
    </p>
  </template>
  <template v-else>
    <component
      :is="item.kind === 'rung' ? ChangeCall : ChangeScenario"
      v-model="item"
      :catalogue="catalogue"
      @changed="emit('changed')"
      ><el-button size="small" data-test="draw-again" title="The same call with other numbers" @click="drawAgain"
        >Draw again</el-button
      ></component
    >
    <fieldset>
      <legend>Asked</legend>
      <el-checkbox :model-value="true" disabled>Read, work out, name the fault, say what to do first</el-checkbox>
      <el-checkbox v-model="correct" data-test="asks-correct"
        >Repair: how much, in which order, readings after</el-checkbox
      >
      <el-checkbox v-model="because" data-test="asks-because"
        >Why, in their own words (you confirm the mark)</el-checkbox
      >
    </fieldset>
    <fieldset v-if="item.kind !== 'rig'">
      <legend>Instruments</legend>
      <el-radio-group
        :model-value="item.asked.instruments ?? ''"
        aria-label="Instruments"
        @update:model-value="(v) => (item.asked.instruments = v ? String(v) : null)"
        ><el-radio value="">as the {{ item.kind === 'rung' ? 'request' : 'scenario' }} says</el-radio
        ><el-radio value="analogue">dials to read</el-radio><el-radio value="digital">digital</el-radio
        ><el-radio value="pipes">line temperatures only</el-radio></el-radio-group
      >
    </fieldset>
    <div class="pair">
      <label class="field"
        ><span>Practice</span
        ><select v-model="item.asked.practice" aria-label="Practice">
          <option :value="null">as it says</option>
          <option v-for="s in practices" :key="s.id" :value="s.id">{{ s.name }}</option>
        </select></label
      >
      <label class="field"
        ><span>Tests that may be asked for (sealed slips)</span
        ><FindSelect
          v-model="item.asked.tests"
          multiple
          :rows="tests.map((t) => ({ id: t.id, label: t.name }))"
          :multiple-limit="6"
          data-test="sealed"
          aria-label="Tests that may be asked for"
      /></label>
    </div>
    <el-checkbox v-model="item.asked.chart">Hand out a PT chart with it</el-checkbox>
    <el-checkbox v-model="item.asked.from_memory" data-test="from-memory"
      >Targets from memory: leave the bands off the page</el-checkbox
    >
    <el-checkbox v-if="item.kind === 'scenario'" v-model="item.asked.leave_open"
      >May stay open: every answer the readings leave open earns full points</el-checkbox
    >
    <el-checkbox v-if="item.kind === 'scenario'" v-model="item.asked.second_visit" data-test="second-visit"
      >Second visit: its first fault has been repaired</el-checkbox
    >
    <label class="field"
      ><span>Rubric</span
      ><select v-model="item.asked.rubric" data-test="rubric" aria-label="Rubric">
        <option v-for="r in rubrics" :key="r.id" :value="r.id">{{ r.name }}</option>
      </select></label
    >
    <details>
      <summary>Points</summary>
      <div class="points">
        <label v-for="[id, name] in NAMES" :key="id"
          ><span>{{ name }}</span
          ><NumberField
            :min="0"
            :max="12"
            optional
            :model-value="points(id)"
            @update:model-value="setPoints(id, String($event))"
        /></label>
      </div>
      <p class="soft">With two points or more, a recognized mistake earns half.</p>
    </details>
  </template>
</template>

<style scoped>
fieldset {
  border: 0;
  padding: 0;
  margin: 0 0 10px;
}
legend {
  font-size: 13px;
  color: var(--ink-soft);
  padding: 0;
  margin-bottom: 2px;
}
fieldset :deep(.el-checkbox) {
  display: flex;
  height: 27px;
}
.apart {
  margin-bottom: 10px;
}
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
}
:deep(.el-checkbox) {
  white-space: normal;
}
details {
  margin-top: 10px;
}
summary {
  cursor: pointer;
  color: var(--violet);
}
.points {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 3px 18px;
  margin-top: 8px;
}
.points label {
  display: flex;
  justify-content: space-between;
  align-items: center;
  font-size: 14px;
}
.points input {
  width: 52px;
  padding: 3px 6px;
  border: 1px solid var(--edge);
  border-radius: 3px;
  font-size: 14px;
}
</style>
