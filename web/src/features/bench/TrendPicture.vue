<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { api, ask, type Schemas, sentence } from '@/api/client'
import ChartPicture from '@/shared/ChartPicture.vue'
import { atAxis, INK } from '@/shared/ink'
import { kept } from '@/shared/kept'
import { latest } from '@/shared/latest'
import type { Bench } from './useBench'

const props = defineProps<{ bench: Bench }>()
const { body, rows, machine } = props.bench
const reply = ref<Schemas['TrendReply'] | null>(null)
const failure = ref('')
const figure = kept('bench.trend.figure', 'subcooling')
const wanted = kept('bench.trend.over', '')
const handles = computed(() => [
  ...rows.value.filter((r) => r.kind.acts_on === 'machine').map((r) => ({ id: r.planted.id, label: r.kind.name })),
  ...(machine.value?.weather ?? []).map((w) => ({ id: w.field, label: w.label })),
])
const over = computed(() =>
  handles.value.some((h) => h.id === wanted.value) ? wanted.value : (handles.value[0]?.id ?? ''),
)
const queue = latest(async (asked: Schemas['TrendBody']) => {
  try {
    reply.value = await ask(api.POST('/api/v1/bench/trend', { body: asked }))
    failure.value = ''
  } catch (error) {
    failure.value = sentence(error)
  }
})
watch([body, over], () => over.value && queue.push({ ...body.value, over: over.value }), { immediate: true })

const series = computed(() => reply.value?.series.find((s) => s.id === figure.value) ?? reply.value?.series[0])
const shows = computed(() => reply.value?.shows.find((s) => s.id === series.value?.id))
const CUTOUTS: Record<string, string> = {
  high_pressure: 'high pressure',
  low_pressure: 'low pressure',
  discharge_temperature: 'discharge temperature',
  overload: 'the overload',
}
const WORDS: Record<string, string> = { low: 'low', high: 'high', normal: 'normal' }
const option = computed(() => {
  const found = reply.value
  const row = series.value
  if (!found || !row) return null
  const points = (values: (number | null)[]) => found.xs.map((x, i) => [x, values[i] ?? null])
  const banded = row.band_low.some((v) => v !== null)
  const flip = (found.xs[0] ?? 0) > (found.xs.at(-1) ?? 0)
  const text = { color: INK.soft }
  return {
    animation: false,
    textStyle: { fontFamily: 'Archivo' },
    grid: { left: 54, right: 20, top: 34, bottom: 42 },
    tooltip: {
      trigger: 'axis',
      valueFormatter: (v: unknown) => (typeof v === 'number' ? `${v.toFixed(1)} ${row.unit}` : '–'),
    },
    xAxis: {
      type: 'value',
      inverse: flip,
      min: Math.min(...found.xs),
      max: Math.max(...found.xs),
      name: `${found.label}, ${found.unit}`,
      nameLocation: 'middle',
      nameGap: 26,
      nameTextStyle: text,
      axisLabel: { ...text, formatter: atAxis },
      splitLine: { show: false },
    },
    yAxis: {
      type: 'value',
      scale: true,
      name: `${row.label}, ${row.unit}`,
      nameTextStyle: { ...text, align: 'left' },
      axisLabel: { ...text, formatter: atAxis },
      splitLine: { lineStyle: { color: INK.line } },
    },
    series: [
      ...(banded
        ? [
            {
              type: 'line',
              name: 'low',
              data: points(row.band_low),
              showSymbol: false,
              lineStyle: { opacity: 0 },
              stack: 'band',
              stackStrategy: 'all',
              silent: true,
              tooltip: { show: false },
              areaStyle: { opacity: 0 },
            },
            {
              type: 'line',
              name: 'target',
              data: found.xs.map((x, i) => [x, (row.band_high[i] ?? 0) - (row.band_low[i] ?? 0)]),
              showSymbol: false,
              lineStyle: { opacity: 0 },
              stack: 'band',
              stackStrategy: 'all',
              silent: true,
              tooltip: { show: false },
              areaStyle: { color: INK.tint, opacity: 0.55 },
            },
          ]
        : []),
      {
        type: 'line',
        name: 'normal',
        data: points(row.fault_free),
        showSymbol: false,
        lineStyle: { color: INK.violet, width: 1.8, type: 'dashed' },
        itemStyle: { color: INK.violet },
      },
      {
        type: 'line',
        name: row.label,
        data: points(row.values),
        showSymbol: false,
        connectNulls: false,
        lineStyle: { color: INK.ink, width: 2.8 },
        itemStyle: { color: INK.ink },
        markLine: {
          silent: true,
          symbol: 'none',
          label: { color: INK.soft, fontSize: 11, formatter: (p: { data: { name?: string } }) => p.data.name ?? '' },
          data: [
            ...found.marks.map((m) => ({ name: m.text, xAxis: m.x, lineStyle: { color: INK.faint, type: 'dotted' } })),
            { name: '', xAxis: found.now, lineStyle: { color: INK.ink, width: 2, type: 'solid' } },
            ...(shows.value
              ? [{ name: '', xAxis: shows.value.at, lineStyle: { color: INK.amber, width: 2, type: 'dashed' } }]
              : []),
          ],
        },
        markArea: {
          silent: true,
          itemStyle: { color: INK.amber, opacity: 0.16 },
          label: { color: INK.amber, fontSize: 12, formatter: 'cuts out' },
          data: found.trips.map((t) => [{ xAxis: t.from }, { xAxis: t.to }]),
        },
      },
    ],
  }
})
const said = computed(() => (series.value && reply.value ? `${series.value.label} against ${reply.value.label}` : ''))
</script>

<template>
  <div class="trend">
    <div class="choose">
      <label
        ><span>Figure</span
        ><select v-model="figure" aria-label="Figure of the trend">
          <option v-for="s in reply?.series" :key="s.id" :value="s.id">{{ s.label }}</option>
        </select></label
      >
      <label
        ><span>against</span
        ><select
          :value="over"
          aria-label="Trend against"
          data-test="over"
          @change="wanted = ($event.target as HTMLSelectElement).value"
        >
          <option v-for="h in handles" :key="h.id" :value="h.id">{{ h.label }}</option>
        </select></label
      >
      <p v-if="shows && reply" class="shows" data-test="shows">
        {{ shows.label }} reads {{ WORDS[shows.verdict] }} from <b class="num">{{ shows.at }} {{ reply.unit }}</b> on.
      </p>
      <p v-else-if="reply && reply.shows.length" class="shows">This figure keeps its verdict over the whole range.</p>
      <p v-for="t in reply?.trips" :key="t.from" class="shows trip">
        Cuts out on {{ CUTOUTS[t.cutout] ?? t.cutout }}: {{ t.from }} to {{ t.to }} {{ reply?.unit }}.
      </p>
      <p v-if="reply && reply.shows.length" class="soft list">
        Where it first shows:
        <template v-for="(s, i) in reply.shows" :key="s.id"
          >{{ i ? ', ' : '' }}{{ s.label }} {{ s.verdict }} at {{ s.at }}</template
        >
        {{ reply.unit }}.
      </p>
      <p class="soft list">
        Heavy line: this machine. Dashed: nothing wrong. Shaded: target. Vertical: where it is now; amber vertical:
        where the verdict changes.
      </p>
    </div>
    <p v-if="failure" class="error">{{ failure }}</p>
    <ChartPicture v-else-if="option" :option="option" :said="said" data-test="trend" />
  </div>
</template>

<style scoped>
.trend {
  display: grid;
  grid-template-columns: 172px minmax(0, 1fr);
  gap: 8px;
  height: 100%;
}
.choose {
  font-size: 13px;
  display: flex;
  flex-direction: column;
  gap: 7px;
}
.choose label span {
  display: block;
  color: var(--ink-soft);
  font-size: 12px;
}
.choose select {
  width: 100%;
}
.choose p {
  margin: 0;
}
.shows {
  border-left: 3px solid var(--amber);
  padding-left: 6px;
}
.list {
  font-size: 12px;
}
</style>
