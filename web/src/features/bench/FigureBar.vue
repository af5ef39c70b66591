<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { along } from '@/shared/circuit/circuit'

const props = defineProps<{ figure: Schemas['Figure'] }>()
const at = (value: number) => along(value, props.figure.scale_low, props.figure.scale_high)
const band = computed(() => ({
  left: `${at(props.figure.band_low)}%`,
  width: `${at(props.figure.band_high) - at(props.figure.band_low)}%`,
}))
const SIGN: Record<string, string> = { low: '▼ LOW', normal: '● NORMAL', high: '▲ HIGH' }
</script>

<template>
  <div class="figure">
    <div class="row">
      <b>{{ figure.label }}</b><span :class="['verdict', figure.verdict]">{{ SIGN[figure.verdict] }}</span>
    </div>
    <div class="row">
      <span class="num">{{ figure.now.text }}</span><span class="soft">normal {{ figure.fault_free.text }}</span>
    </div>
    <div
      class="bar"
      role="img"
      :aria-label="`${figure.label} ${figure.now.text}, target ${figure.band_text}, normal ${figure.fault_free.text}`"
    >
      <span class="band" :style="band" />
      <span class="was" :style="{ left: `${at(figure.fault_free.value)}%` }" />
      <span class="now" :style="{ left: `${at(figure.now.value)}%` }" />
    </div>
    <div class="foot">target {{ figure.band_text }}</div>
  </div>
</template>

<style scoped>
.figure {
  min-width: 0;
}
.row {
  display: flex;
  align-items: baseline;
  justify-content: space-between;
  gap: 6px;
}
.row b {
  font-weight: 600;
  font-size: 13.5px;
}
.row .soft {
  font-size: 11.5px;
  white-space: nowrap;
}
.num {
  font-size: 16px;
  font-weight: 700;
}
.verdict {
  font-size: 12px;
  font-weight: 700;
  white-space: nowrap;
}
.verdict.low {
  color: var(--low);
}
.verdict.high {
  color: var(--high);
}
.verdict.normal {
  color: var(--good);
}
.bar {
  position: relative;
  height: 12px;
  margin: 3px 0 2px;
  background: var(--el-fill-color);
  border-radius: 2px;
}
.band {
  position: absolute;
  top: 0;
  bottom: 0;
  background: var(--violet-line);
}
.was,
.now {
  position: absolute;
  top: -2px;
  bottom: -2px;
  transform: translateX(-50%);
}
.was {
  width: 0;
  border-left: 2px dashed var(--violet);
}
.now {
  width: 6px;
  background: var(--ink);
  border-radius: 2px;
  transition: left 0.12s ease-out;
}
.foot {
  font-size: 11.5px;
  color: var(--ink-soft);
  white-space: nowrap;
}
</style>
