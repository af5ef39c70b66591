<script setup lang="ts">
import { textF } from '@/shared/degrees'
import { units } from '@/shared/kept'
import type { Bench } from './useBench'

const props = defineProps<{ bench: Bench }>()
const { state, machine, setWeather } = props.bench
const top = (field: string, high: number) =>
  field === 'return_wb_f' ? Math.min(high, state.value.weather.return_db_f ?? high) : high

function take(event: Event): void {
  const list = event.target as HTMLSelectElement
  const found = machine.value?.presets.weather.find((p) => p.id === list.value)
  if (found) setWeather(found.values)
  list.value = ''
}
const altitude = (ft: number) => (units.value === 'us' ? `${ft} ft` : `${Math.round(ft * 0.3048)} m`)
</script>

<template>
  <div class="head">
    <h2>Weather</h2>
    <select aria-label="Weather preset" data-test="weather-preset" @change="take">
      <option value="">preset…</option>
      <option v-for="p in machine?.presets.weather" :key="p.id" :value="p.id" :title="p.why">{{ p.name }}</option>
    </select>
  </div>
  <div v-for="w in machine?.weather" :key="w.field" class="handle">
    <div class="line">
      <span>{{ w.label }}</span><b class="num">{{ textF(state.weather[w.field] ?? w.rated) }}</b>
    </div>
    <el-slider
      v-model="state.weather[w.field]"
      :min="w.low"
      :max="top(w.field, w.high)"
      :show-tooltip="false"
      :aria-label="w.label"
      :format-value-text="textF"
    />
  </div>
  <div class="handle">
    <div class="line">
      <span>Altitude</span><b class="num">{{ altitude(state.altitude_ft) }}</b>
    </div>
    <el-slider
      v-model="state.altitude_ft"
      :min="0"
      :max="8000"
      :step="500"
      :show-tooltip="false"
      aria-label="Altitude"
      :format-value-text="altitude"
    />
  </div>
</template>

<style scoped>
.head,
.line {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  gap: 8px;
}
.head {
  margin-top: 12px;
}
.head h2 {
  margin: 0;
}
.head select {
  width: 100px;
}
.line {
  font-size: 13px;
}
.handle {
  margin-top: 4px;
}
.handle :deep(.el-slider) {
  height: 20px;
  padding: 0 8px;
}
</style>
