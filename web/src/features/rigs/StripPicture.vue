<script setup lang="ts">
/** The last half hour of a rig: pressures above, lines below; what a rig with nothing wrong would show now stands dotted. */
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { atAxis, INK } from '@/shared/ink'
import ChartPicture from '@/shared/ChartPicture.vue'

const props = defineProps<{
  samples: Schemas['RigSample'][]
  readings: Schemas['RigReading'][]
  gaps: [string, string][]
}>()
const LOOKS: Record<string, { color: string; type: 'solid' | 'dashed' | 'dotted'; grid: number }> = {
  head_pressure: { color: INK.high, type: 'solid', grid: 0 },
  suction_pressure: { color: INK.low, type: 'solid', grid: 0 },
  liquid_line: { color: INK.high, type: 'solid', grid: 1 },
  suction_line: { color: INK.low, type: 'solid', grid: 1 },
  return_db: { color: INK.soft, type: 'dashed', grid: 1 },
  outdoor_db: { color: INK.amber, type: 'dashed', grid: 1 },
}
/** A line breaks where nothing was read. */
const BREAK_MS = 15_000
function points(point: string): [number, number | null][] {
  const found: [number, number | null][] = []
  let last = 0
  for (const row of props.samples) {
    const at = Date.parse(row.at)
    if (last && at - last > BREAK_MS) found.push([last + 1, null])
    found.push([at, row.shown[point] ?? null])
    last = at
  }
  return found
}
const option = computed(() => {
  const rows = props.readings.filter((r) => LOOKS[r.point])
  const unit = (grid: number) => rows.find((r) => LOOKS[r.point]?.grid === grid)?.unit ?? ''
  const begin = Date.parse(props.samples[0]?.at ?? '') || 0
  const end = Date.parse(props.samples.at(-1)?.at ?? '') || 1
  const minutes = (v: number) => {
    const ago = Math.round((end - v) / 60_000)
    return ago <= 0 ? 'now' : `−${ago} min`
  }
  const axis = (grid: number) => ({
    gridIndex: grid,
    type: 'value',
    scale: true,
    name: unit(grid),
    nameTextStyle: { align: 'left', color: INK.soft },
    axisLabel: { color: INK.soft, formatter: atAxis },
    splitLine: { lineStyle: { color: INK.line } },
  })
  const time = (grid: number) => ({
    gridIndex: grid,
    type: 'value',
    min: begin,
    max: end,
    minInterval: 60_000,
    axisLabel: { show: grid === 1, color: INK.soft, formatter: minutes, hideOverlap: true },
    splitLine: { show: false },
  })
  return {
    animation: false,
    textStyle: { fontFamily: 'Archivo' },
    grid: [
      { left: 52, right: 128, top: 26, height: '34%' },
      { left: 52, right: 128, bottom: 30, height: '38%' },
    ],
    xAxis: [time(0), time(1)],
    yAxis: [axis(0), axis(1)],
    tooltip: {
      trigger: 'axis',
      valueFormatter: (v: unknown) => (typeof v === 'number' ? v.toFixed(1) : '–'),
    },
    series: rows.map((r) => {
      const look = LOOKS[r.point]
      return {
        type: 'line',
        name: r.label,
        data: points(r.point),
        showSymbol: false,
        connectNulls: false,
        xAxisIndex: look?.grid,
        yAxisIndex: look?.grid,
        lineStyle: { color: look?.color, width: 2, type: look?.type },
        itemStyle: { color: look?.color },
        endLabel: {
          show: true,
          formatter: r.label.split(',')[0],
          color: look?.color,
          fontSize: 12,
          fontFamily: 'Archivo',
        },
        labelLayout: { moveOverlap: 'shiftY' },
        markLine:
          r.healthy === null
            ? undefined
            : {
                silent: true,
                symbol: 'none',
                label: { show: false },
                lineStyle: { color: look?.color, type: 'dotted', width: 1 },
                data: [{ yAxis: r.healthy }],
              },
        markArea:
          look?.grid === 0 && r.point === 'head_pressure'
            ? {
                silent: true,
                itemStyle: { color: INK.soft, opacity: 0.12 },
                data: props.gaps.map(([a, b]) => [{ xAxis: Date.parse(a) }, { xAxis: Date.parse(b) }]),
              }
            : undefined,
      }
    }),
  }
})
</script>

<template>
  <ChartPicture :option="option" class="strip" said="Pressures and line temperatures of the last half hour" />
</template>

<style scoped>
.strip {
  width: 100%;
  height: 340px;
}
</style>
