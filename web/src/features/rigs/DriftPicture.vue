<script setup lang="ts">
/** Baselines of a rig over the term: how far each part of it was from its profile, and how sure that is. */
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import ChartPicture from '@/shared/ChartPicture.vue'
import { atAxis, INK } from '@/shared/ink'
import { localTime } from '@/shared/session'

const props = defineProps<{ baselines: Schemas['RigBaselineRow'][] }>()
const LINES = [
  { color: INK.violet, type: 'solid' },
  { color: INK.high, type: 'solid' },
  { color: INK.low, type: 'solid' },
  { color: INK.amber, type: 'solid' },
  { color: INK.violet, type: 'dashed' },
  { color: INK.high, type: 'dashed' },
  { color: INK.low, type: 'dashed' },
  { color: INK.amber, type: 'dashed' },
  { color: INK.soft, type: 'dotted' },
] as const
const inTime = computed(() => [...props.baselines].reverse())
/** What one calibration at least could tell; the rest would be a line of noise. */
const parts = computed(() => {
  const told = inTime.value.flatMap((b) => b.factors.filter((f) => f.told))
  return [...new Map(told.map((f) => [f.id, f.words])).entries()]
})
/** The widest drift between the first and the newest calibration, in words. */
const said = computed(() => {
  const [first, last] = [inTime.value[0], inTime.value.at(-1)]
  const moved = parts.value.flatMap(([id, words]) => {
    const [a, b] = [first, last].map((x) => x?.factors.find((f) => f.id === id && f.told))
    if (!a || !b) return []
    const by = b.pct - a.pct
    return Math.abs(by) > 2 * Math.hypot(a.uncertain_pct, b.uncertain_pct) && Math.abs(by) >= 1 ? [{ words, by }] : []
  })
  moved.sort((a, b) => Math.abs(b.by) - Math.abs(a.by))
  return moved.length
    ? moved.map((m) => `${m.words} ${m.by > 0 ? '+' : '−'}${Math.abs(m.by).toFixed(1)} %`).join(', ')
    : ''
})
const option = computed(() => ({
  animation: false,
  textStyle: { fontFamily: 'Archivo' },
  grid: { left: 48, right: 190, top: 12, bottom: 28 },
  xAxis: {
    type: 'category',
    data: inTime.value.map((b) => localTime(b.made_at)),
    axisLabel: { color: INK.soft, hideOverlap: true },
  },
  yAxis: {
    type: 'value',
    axisLabel: { color: INK.soft, formatter: (v: number) => `${atAxis(v)} %` },
    splitLine: { lineStyle: { color: INK.line } },
  },
  tooltip: { trigger: 'axis', valueFormatter: (v: unknown) => (typeof v === 'number' ? `${v.toFixed(1)} %` : '–') },
  series: parts.value.map(([id, words], i) => {
    const look = LINES[i % LINES.length]
    return {
      type: 'line',
      name: words,
      data: inTime.value.map((b) => b.factors.find((f) => f.id === id && f.told)?.pct ?? null),
      connectNulls: true,
      symbolSize: 7,
      lineStyle: { color: look?.color, type: look?.type, width: 2 },
      itemStyle: { color: look?.color },
      endLabel: { show: true, formatter: words, color: look?.color, fontSize: 12, fontFamily: 'Archivo' },
      labelLayout: { moveOverlap: 'shiftY' },
    }
  }),
}))
</script>

<template>
  <figure data-test="drift">
    <figcaption>
      Over the term, % from its profile.
      <b v-if="said">Moved beyond doubt since the first: {{ said }}.</b>
      <template v-else>Nothing moved beyond doubt since the first.</template>
    </figcaption>
    <ChartPicture :option="option" class="drift" :said="`Baselines over the term. ${said}`" />
  </figure>
</template>

<style scoped>
figure {
  margin: 12px 0 0;
}
figcaption {
  font-size: 13.5px;
}
.drift {
  height: 230px;
}
</style>
