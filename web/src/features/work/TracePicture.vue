<script setup lang="ts">
import { LineChart } from 'echarts/charts'
import { GridComponent, MarkAreaComponent, MarkLineComponent, TooltipComponent } from 'echarts/components'
import * as echarts from 'echarts/core'
import { SVGRenderer } from 'echarts/renderers'
import { onBeforeUnmount, onMounted, ref, watch } from 'vue'
import type { Schemas } from '@/api/client'
import { atAxis, INK } from '@/shared/ink'
import { drawing } from '@/shared/trace'

echarts.use([LineChart, GridComponent, MarkAreaComponent, MarkLineComponent, TooltipComponent, SVGRenderer])
const props = defineProps<{ reply: Schemas['ActReply']; standing: boolean }>()
const host = ref<HTMLElement | null>(null)
let chart: echarts.ECharts | null = null

const LOOKS = {
  head: { name: 'Head · HIGH', color: INK.high, grid: 0, type: 'solid' },
  suction: { name: 'Suction · LOW', color: INK.low, grid: 0, type: 'solid' },
  superheat: { name: 'Superheat', color: INK.low, grid: 1, type: 'dashed' },
  subcooling: { name: 'Subcooling', color: INK.high, grid: 1, type: 'dashed' },
  room: { name: 'Room', color: INK.violet, grid: 2, type: 'solid' },
  goods: { name: 'Product', color: INK.soft, grid: 2, type: 'dashed' },
} as const
/** What is shaded while the controls are at it; running is left white. */
const SHADES: Record<string, string> = {
  pumping_down: INK.low,
  satisfied: INK.soft,
  waiting: INK.soft,
  low_pressure: INK.high,
  defrost: INK.violet,
  drip: INK.violet,
  fan_delay: INK.violet,
}

function draw(): void {
  if (!chart) return
  const { lines, marks, end, modes } = drawing(props.reply.trace, props.reply.steps, props.standing)
  const { units, bands } = props.reply
  const series = lines.map((line) => {
    const look = LOOKS[line.key]
    const band = line.key === 'superheat' || line.key === 'subcooling' ? bands[line.key] : undefined
    return {
      type: 'line' as const,
      name: look.name,
      data: line.points,
      showSymbol: false,
      connectNulls: false,
      xAxisIndex: look.grid,
      yAxisIndex: look.grid,
      lineStyle: { color: look.color, width: 2, type: look.type },
      itemStyle: { color: look.color },
      endLabel: {
        show: true,
        formatter: look.name,
        offset: [0, ['superheat', 'goods'].includes(line.key) ? -8 : ['subcooling', 'room'].includes(line.key) ? 8 : 0],
        color: look.color,
        fontSize: 12,
        fontFamily: 'Archivo',
      },
      markArea: band
        ? {
            silent: true,
            itemStyle: { color: look.color, opacity: 0.09 },
            data: [[{ yAxis: band.low }, { yAxis: band.high }]] as never,
          }
        : line.key === 'room'
          ? {
              silent: true,
              data: modes
                .filter((m) => SHADES[m.mode])
                .map((m) => [
                  { xAxis: m.from, itemStyle: { color: SHADES[m.mode], opacity: 0.16 } },
                  { xAxis: m.to },
                ]) as never,
            }
          : undefined,
      markLine:
        line.key === 'head' || line.key === 'superheat'
          ? {
              silent: true,
              symbol: 'none',
              lineStyle: { color: INK.violet, width: 1, type: 'dotted' as const },
              label: {
                formatter: (p: { data: { name?: string } }) => (line.key === 'head' ? (p.data.name ?? '') : ''),
                color: INK.violet,
                fontSize: 11,
              },
              data: marks.map((m) => ({ name: m.text, xAxis: m.x })),
            }
          : undefined,
    }
  })
  const rooms = lines.some((line) => line.key === 'room')
  const last = rooms ? 2 : 1
  const axis = (grid: number, name: string) => ({
    gridIndex: grid,
    type: 'value' as const,
    name,
    scale: grid !== 1,
    // The first minute of each start would squeeze the bands to a line.
    max: grid === 1 ? (v: { max: number }) => Math.min(Math.ceil(v.max / 10) * 10, 40) : undefined,
    nameTextStyle: { align: 'left' as const, color: INK.soft },
    axisLabel: { color: INK.soft, formatter: atAxis },
    splitLine: { lineStyle: { color: INK.line } },
  })
  const time = (grid: number) => ({
    gridIndex: grid,
    type: 'value' as const,
    min: 0,
    max: Math.max(end, 1),
    name: grid === last ? (props.standing ? 'minutes' : 'minutes of running; off time left out') : '',
    nameLocation: 'middle' as const,
    nameGap: 26,
    axisLabel: { show: grid === last, color: INK.soft, formatter: (v: number) => String(Math.round(v)) },
    splitLine: { show: false },
  })
  chart.setOption(
    {
      animation: false,
      textStyle: { fontFamily: 'Archivo' },
      grid: rooms
        ? [
            { left: 52, right: 108, top: 30, height: '25%' },
            { left: 52, right: 108, top: '41%', height: '16%' },
            { left: 52, right: 108, bottom: 44, height: '22%' },
          ]
        : [
            { left: 52, right: 108, top: 30, height: '38%' },
            { left: 52, right: 108, bottom: 44, height: '34%' },
          ],
      xAxis: rooms ? [time(0), time(1), time(2)] : [time(0), time(1)],
      yAxis: [
        axis(0, `Pressure, ${units.pressure}`),
        axis(1, `Superheat, subcooling, ${units.difference}`),
        ...(rooms ? [axis(2, `Room, ${units.temperature}`)] : []),
      ],
      tooltip: { trigger: 'axis', valueFormatter: (v: unknown) => (typeof v === 'number' ? v.toFixed(1) : '–') },
      axisPointer: { link: [{ xAxisIndex: 'all' }] },
      series,
    } as never,
    true,
  )
}
const resized = new ResizeObserver(() => chart?.resize())
onMounted(() => {
  if (!host.value) return
  chart = echarts.init(host.value, null, { renderer: 'svg' })
  resized.observe(host.value)
  draw()
})
onBeforeUnmount(() => {
  resized.disconnect()
  chart?.dispose()
})
watch(() => [props.reply, props.standing], draw)
</script>

<template>
  <div
    ref="host"
    class="trace"
    role="img"
    aria-label="Pressures, superheat and subcooling over time"
    data-test="trace"
  />
</template>

<style scoped>
.trace {
  width: 100%;
  height: max(360px, calc(100vh - 390px));
}
</style>
