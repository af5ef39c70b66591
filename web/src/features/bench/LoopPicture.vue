<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { api, ask, type Schemas, sentence } from '@/api/client'
import ChartPicture from '@/shared/ChartPicture.vue'
import { INK } from '@/shared/ink'
import { units } from '@/shared/kept'
import { gathered } from './loop'

const props = defineProps<{ loop: Schemas['Loop'] | null; readings: Record<string, string> }>()
const dome = ref<Schemas['DomeReply'] | null>(null)
const failure = ref('')
watch(
  [() => props.loop?.refrigerant, units],
  async ([name]) => {
    if (!name) return
    try {
      dome.value = await ask(
        api.GET('/api/v1/reference/dome/{refrigerant}', {
          params: { path: { refrigerant: name }, query: { units: units.value } },
        }),
      )
      failure.value = ''
    } catch (error) {
      failure.value = sentence(error)
    }
  },
  { immediate: true },
)

type Corners = Schemas['Corner'][]
const closed = (rows: Corners) => [...rows, ...rows.slice(0, 1)].map((c) => [c.enthalpy, c.pressure])
const option = computed(() => {
  const loop = props.loop
  if (!loop || !dome.value) return null
  const xs = [...loop.now, ...loop.fault_free].map((c) => c.enthalpy)
  const ps = [...loop.now, ...loop.fault_free].map((c) => c.pressure)
  const width = Math.max(...xs) - Math.min(...xs)
  const span = { min: Math.floor(Math.min(...xs) - 0.28 * width), max: Math.ceil(Math.max(...xs) + 0.2 * width) }
  const axis = {
    nameTextStyle: { color: INK.soft },
    axisLabel: { color: INK.soft, formatter: (v: number) => String(Math.round(v)) },
    splitLine: { lineStyle: { color: INK.line } },
  }
  const line = (data: unknown[], color: string, more: object) => ({
    type: 'line',
    data,
    showSymbol: false,
    lineStyle: { color, width: 2 },
    itemStyle: { color },
    silent: true,
    ...more,
  })
  return {
    animation: false,
    textStyle: { fontFamily: 'Archivo' },
    grid: { left: 62, right: 26, top: 30, bottom: 46 },
    tooltip: { trigger: 'item', formatter: (p: { name: string }) => p.name },
    xAxis: {
      type: 'value',
      name: `enthalpy, ${loop.enthalpy_unit}`,
      nameLocation: 'middle',
      nameGap: 25,
      ...span,
      ...axis,
    },
    yAxis: {
      type: 'log',
      logBase: 2,
      name: `pressure, ${loop.pressure_unit}`,
      min: Math.round(Math.min(...ps) * 0.62),
      max: Math.round(Math.max(...ps) * 1.5),
      ...axis,
    },
    series: [
      line(dome.value.bubble, INK.high, { lineStyle: { color: INK.gray, width: 1.6 }, z: 1 }),
      line(dome.value.dew, INK.low, { lineStyle: { color: INK.gray, width: 1.6 }, z: 1 }),
      line(closed(loop.fault_free), INK.violet, { lineStyle: { color: INK.violet, width: 1.6, type: 'dashed' }, z: 2 }),
      line(closed(loop.now), INK.ink, { lineStyle: { color: INK.ink, width: 2.6 }, z: 3 }),
      {
        type: 'scatter',
        symbolSize: 19,
        z: 4,
        data: gathered(loop.now, width).map((g) => ({
          value: [g.at.enthalpy, g.at.pressure],
          name:
            g.corners.map((c) => `${c.label} ${props.readings[c.reading ?? ''] ?? ''}`).join('<br>') +
            `<br>${g.at.pressure.toFixed(0)} ${loop.pressure_unit}`,
          symbolSize: g.text.length > 1 ? [30, 19] : 19,
          symbol: g.text.length > 1 ? 'roundRect' : 'circle',
          itemStyle: { color: INK.white, borderWidth: 2.2, borderColor: g.low ? INK.low : INK.high },
          label: { show: true, formatter: g.text, position: 'inside', fontSize: 11, fontWeight: 700, color: INK.ink },
        })),
      },
    ],
  }
})
const said = computed(() =>
  props.loop
    ? `Pressure-enthalpy picture: ${props.loop.now.map((c) => `${c.label} ${c.pressure.toFixed(0)} ${props.loop?.pressure_unit}, ${c.enthalpy.toFixed(0)} ${props.loop?.enthalpy_unit}`).join('; ')}`
    : '',
)
</script>

<template>
  <div class="loop">
    <p v-if="failure" class="error">{{ failure }}</p>
    <p v-else-if="!loop" class="soft none">No refrigerant is circulating: there is no cycle to draw.</p>
    <template v-else-if="option">
      <ChartPicture :option="option" :said="said" data-test="loop" />
      <ol class="corners">
        <li v-for="c in loop.now" :key="c.id">
          <b>{{ c.label }}</b><span class="num">{{ readings[c.reading ?? ''] ?? '' }}</span>
        </li>
        <li class="key"><i class="now" />now <i class="normal" />normal <i class="dome" />{{ loop.refrigerant }}</li>
      </ol>
    </template>
  </div>
</template>

<style scoped>
.loop {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 184px;
  height: 100%;
  gap: 8px;
}
.none {
  grid-column: 1 / -1;
  align-self: center;
  text-align: center;
}
.corners {
  margin: 0;
  padding: 0 0 0 20px;
  align-self: center;
  font-size: 12.5px;
}
.corners li {
  margin-bottom: 5px;
}
.corners b {
  display: block;
  font-weight: 600;
}
.corners .key {
  list-style: none;
  margin: 10px 0 0 -20px;
  color: var(--ink-soft);
  line-height: 1.7;
}
.key i {
  display: inline-block;
  width: 20px;
  border-top: 2.6px solid var(--ink);
  margin: 0 4px 3px 0;
  vertical-align: middle;
}
.key .normal {
  border-top: 2px dashed var(--violet);
}
.key .dome {
  border-top: 2px solid var(--edge-soft);
}
</style>
