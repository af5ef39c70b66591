<script setup lang="ts">
import { computed, ref } from 'vue'
import { units } from '@/shared/kept'
import FindSelect from '@/shared/FindSelect.vue'
import { severityAt, severityText } from '@/shared/circuit/circuit'
import type { PlantedRow } from '@/shared/planted'
import type { Bench } from './useBench'

const props = defineProps<{ bench: Bench }>()
const { rows, addable, add, remove, clear, machine, plantSet } = props.bench
const kinds = computed(() =>
  addable.value.map((f) => ({
    id: f.id,
    label: f.name,
    also: f.also,
    group: f.acts_on === 'machine' ? 'On the machine' : 'On the instruments',
  })),
)
/** The fault whose card stands open. */
const opened = ref('')
const look = (row: PlantedRow) => row.kind.causes.find((c) => c.id === row.planted.cause)?.look ?? ''
function take(event: Event): void {
  const list = event.target as HTMLSelectElement
  const found = machine.value?.presets.faults.find((p) => p.id === list.value)
  if (found) plantSet(found.faults)
  list.value = ''
}
function setDepth(row: PlantedRow, depth: number): void {
  props.bench.history.settle()
  row.planted.depth = depth
}
/** A severity as it is read out: in its own unit, with what it is a severity of. */
const said = (row: PlantedRow, depth: number) =>
  `${severityText(row.kind, severityAt(depth, row.kind.fault_free ?? 0, row.kind.limit ?? 0), units.value)}, ${row.kind.parameter}`
const words = (id: string) => id.replace(/_/g, ' ')
</script>

<template>
  <div class="head">
    <h2>Faults</h2>
    <button v-if="rows.length" type="button" class="plain" data-test="clear" @click="clear">clear</button
    ><select aria-label="Fault preset" data-test="fault-preset" @change="take">
      <option value="">preset…</option>
      <option v-for="p in machine?.presets.faults" :key="p.id" :value="p.id" :title="p.why">{{ p.name }}</option>
    </select>
  </div>
  <FindSelect
    :model-value="''"
    :rows="kinds"
    :placeholder="rows.length ? 'Add another fault' : 'Add a fault'"
    aria-label="Add a fault"
    class="wide"
    data-test="fault"
    @update:model-value="add"
  />
  <p v-if="!rows.length" class="soft none">No fault set: the machine is normal.</p>
  <div v-for="(row, n) in rows" :key="row.planted.id" :class="['fault', row.kind.acts_on]" data-test="planted">
    <div class="line">
      <b
        ><i class="no">{{ n + 1 }}</i
        >{{ row.kind.name }}</b
      ><b class="num value" data-test="severity">{{ severityText(row.kind, row.severity, units) }}</b
      ><button type="button" class="plain" :aria-label="`Take ${row.kind.name} out`" @click="remove(row.planted.id)">
        ✕
      </button>
    </div>
    <div class="line small">
      <span>{{ row.kind.parameter }}</span><button
        type="button"
        class="plain"
        :aria-expanded="opened === row.planted.id"
        @click="opened = opened === row.planted.id ? '' : row.planted.id"
      >
        about
      </button>
    </div>
    <el-slider
      v-model="row.planted.depth"
      :min="0"
      :max="100"
      :step="0.5"
      :show-tooltip="false"
      :aria-label="`Severity of ${row.kind.name}`"
      :format-value-text="(depth: number) => said(row, depth)"
    />
    <div class="line small">
      <button
        v-for="[depth, level] in row.marks"
        :key="level"
        type="button"
        :class="['level', { on: Math.abs(row.planted.depth - depth) < 0.6 }]"
        @click="setDepth(row, depth)"
      >
        {{ level }}
      </button>
      <select
        v-if="row.kind.causes.length > 1"
        v-model="row.planted.cause"
        class="cause"
        :aria-label="`Cause of ${row.kind.name}`"
      >
        <option v-for="c in row.kind.causes" :key="c.id" :value="c.id">{{ words(c.id) }}</option>
      </select>
    </div>
    <div v-if="opened === row.planted.id" class="about">
      <p>{{ row.kind.effect }}</p>
      <p v-if="look(row)"><b>Inspection:</b> {{ look(row) }}</p>
      <p v-if="row.kind.tests.length"><b>Confirm with:</b> {{ row.kind.tests.join('; ') }}</p>
      <p><b>Repair:</b> {{ row.kind.remedy }}</p>
      <p v-if="row.kind.hazard" class="caution">{{ row.kind.hazard }}</p>
      <p><b>On a rig:</b> {{ row.kind.rig.join(' ') }}</p>
    </div>
  </div>
</template>

<style scoped>
.head,
.line {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  gap: 6px;
}
.head h2 {
  margin: 0 0 6px;
  margin-right: auto;
}
.head select {
  max-width: 100px;
}
.no {
  display: inline-block;
  width: 17px;
  height: 17px;
  border-radius: 50%;
  background: var(--violet);
  color: var(--white);
  font: 700 11px/17px Archivo;
  text-align: center;
  margin-right: 5px;
}
.wide {
  width: 100%;
}
.plain {
  border: 0;
  background: none;
  color: var(--violet);
  cursor: pointer;
  font-size: 12.5px;
  padding: 2px 4px;
}
.none {
  margin: 6px 0 0;
  font-size: 13px;
}
.fault {
  border-left: 4px solid var(--violet);
  padding: 4px 0 4px 8px;
  margin-top: 8px;
}
.fault.reading {
  border-left-color: var(--amber);
}
.line b {
  font-size: 13.5px;
}
.line .value {
  margin-left: auto;
}
.small {
  font-size: 12.5px;
}
.fault :deep(.el-slider) {
  height: 18px;
  padding: 0 8px;
}
.level,
.cause {
  position: relative;
  z-index: 2;
}
.level {
  font-size: 11px;
  padding: 1px 3px;
  border: 1px solid var(--edge);
  background: none;
  border-radius: 3px;
  cursor: pointer;
  color: var(--ink);
}
.level.on {
  background: var(--violet);
  color: var(--white);
  border-color: var(--violet);
}
.about {
  font-size: 12.5px;
  margin-top: 2px;
}
.about p {
  margin: 2px 0;
}
.caution {
  color: var(--amber);
}
.cause {
  flex: 1;
  min-width: 0;
  font-size: 11px;
  border: 1px solid var(--edge);
  border-radius: 3px;
  background: var(--card);
  color: var(--ink);
  padding: 1px 2px;
}
</style>
