<script setup lang="ts">
import { computed } from 'vue'
import ChartPicture from '@/shared/ChartPicture.vue'
import { atAxis, INK } from '@/shared/ink'
import { axis, spans } from '@/shared/trace'
import type { RoomDay } from './useRoomDay'

const props = defineProps<{ day: RoomDay }>()
const { planted, normal, hours } = props.day
/** What is shaded while the controls are at it; running is left white. */
const SHADES: Record<string, string> = {
  pumping_down: INK.low,
  satisfied: INK.gray,
  waiting: INK.gray,
  low_pressure: INK.high,
  defrost: INK.violet,
  drip: INK.violet,
  fan_delay: INK.violet,
}
/** The three temperatures often end together: their names stand apart, the warmest on top. */
function offsets(ends: Record<string, number | null | undefined>): Record<string, number> {
  const names = Object.keys(ends).sort((a, b) => (ends[b] ?? 0) - (ends[a] ?? 0))
  return Object.fromEntries(names.map((name, i) => [name, 13 * (i - 1)]))
}
const option = computed(() => {
  const rows = planted.value?.trace
  if (!rows?.length || !planted.value) return null
  const inHours = (some: typeof rows) => axis(some, true).map((minutes) => minutes / 60)
  const xs = inHours(rows)
  const sound = normal.value?.trace ?? []
  const soundXs = inHours(sound)
  const { units } = planted.value
  const apart = offsets({ Normal: sound.at(-1)?.room, Room: rows.at(-1)?.room, Product: rows.at(-1)?.goods })
  const line = (
    name: string,
    grid: number,
    color: string,
    data: (number | null | undefined)[][],
    type: 'solid' | 'dashed' | 'dotted',
    more: object = {},
  ) => ({
    type: 'line',
    name,
    data,
    showSymbol: false,
    xAxisIndex: grid,
    yAxisIndex: grid,
    lineStyle: { color, width: type === 'dotted' ? 1.5 : 2, type },
    itemStyle: { color },
    endLabel: {
      show: true,
      formatter: name,
      color,
      fontSize: 12,
      fontFamily: 'Archivo',
      offset: [0, apart[name] ?? 0],
    },
    ...more,
  })
  const modes = spans(rows, xs).filter((m) => SHADES[m.mode])
  const shaded = {
    markArea: {
      silent: true,
      data: modes.map((m) => [{ xAxis: m.from, itemStyle: { color: SHADES[m.mode], opacity: 0.15 } }, { xAxis: m.to }]),
    },
  }
  const text = { color: INK.soft }
  const time = (grid: number) => ({
    gridIndex: grid,
    type: 'value',
    min: 0,
    max: hours.value,
    name: grid ? 'hours' : '',
    nameLocation: 'middle',
    nameGap: 24,
    axisLabel: { ...text, show: grid === 1, formatter: atAxis },
    splitLine: { show: false },
  })
  const scale = (grid: number, name: string) => ({
    gridIndex: grid,
    type: 'value',
    name,
    scale: true,
    splitNumber: grid ? 3 : 5,
    nameTextStyle: { align: 'left', ...text },
    axisLabel: { ...text, formatter: atAxis },
    splitLine: { lineStyle: { color: INK.line } },
  })
  return {
    animation: false,
    textStyle: { fontFamily: 'Archivo' },
    grid: [
      { left: 46, right: 92, top: 28, height: '46%' },
      { left: 46, right: 92, bottom: 40, height: '22%' },
    ],
    xAxis: [time(0), time(1)],
    yAxis: [scale(0, `Room, ${units.temperature}`), scale(1, units.pressure ?? '')],
    tooltip: { trigger: 'axis', valueFormatter: (v: unknown) => (typeof v === 'number' ? v.toFixed(1) : '–') },
    series: [
      line(
        'Normal',
        0,
        INK.gray,
        sound.map((r, i) => [soundXs[i], r.room]),
        'dotted',
      ),
      line(
        'Room',
        0,
        INK.violet,
        rows.map((r, i) => [xs[i], r.room]),
        'solid',
        shaded,
      ),
      line(
        'Product',
        0,
        INK.ink,
        rows.map((r, i) => [xs[i], r.goods]),
        'dashed',
      ),
      line(
        'Head · HIGH',
        1,
        INK.high,
        rows.map((r, i) => [xs[i], r.head]),
        'solid',
      ),
      line(
        'Suction · LOW',
        1,
        INK.low,
        rows.map((r, i) => [xs[i], r.suction]),
        'solid',
      ),
    ],
  }
})
</script>

<template>
  <div class="day" data-test="room-day">
    <ChartPicture v-if="option" :option="option" said="Room and pressures over the hours" />
    <p v-else class="soft wait">The machine runs in its room…</p>
  </div>
</template>

<style scoped>
.day {
  height: 100%;
  position: relative;
}
.wait {
  margin: 0;
  padding: 40px 0;
  text-align: center;
}
</style>
