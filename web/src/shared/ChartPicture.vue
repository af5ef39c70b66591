<script setup lang="ts">
import { onBeforeUnmount, onMounted, ref, shallowRef, watch } from 'vue'
import type { echarts } from './chart'

/** A chart that fills its box. `said` tells in words what it shows. */
const props = defineProps<{ option: Record<string, unknown>; said: string }>()
const host = ref<HTMLElement | null>(null)
const chart = shallowRef<echarts.ECharts | null>(null)
const resized = new ResizeObserver(() => chart.value?.resize())
let gone = false
// What draws it is large: the page stands, and its numbers with it, before it is here.
onMounted(async () => {
  const { echarts } = await import('./chart')
  if (!host.value || gone) return
  chart.value = echarts.init(host.value, null, { renderer: 'svg' })
  chart.value.setOption(props.option as never, true)
  resized.observe(host.value)
})
watch(
  () => props.option,
  (option) => chart.value?.setOption(option as never, true),
)
onBeforeUnmount(() => {
  gone = true
  resized.disconnect()
  chart.value?.dispose()
})
</script>

<template><div ref="host" class="chart" role="img" :aria-label="said" /></template>

<style scoped>
.chart {
  width: 100%;
  height: 100%;
  min-height: 120px;
  /* its drawing holds no page open: it is drawn again at the width there is */
  contain: inline-size;
}
</style>
