<script setup lang="ts">
import { computed, onMounted, ref, watch } from 'vue'
import { api, ask, type Schemas, sentence } from '@/api/client'
import ChartPicture from '@/shared/ChartPicture.vue'
import { atAxis, INK } from '@/shared/ink'
import { kept, units } from '@/shared/kept'
import { vFocus } from '@/shared/focus'

const fluids = ref<Schemas['RefrigerantRow'][]>([])
const chosen = kept('reference.refrigerant', { id: 'R-410A' })
const chart = ref<Schemas['PtReply'] | null>(null)
const pressure = ref('')
const temperature = ref('')
const answer = ref<{ text: string; glide: string } | null>(null)
const failure = ref('')
let turn = 0

async function load(): Promise<void> {
  try {
    chart.value = await ask(
      api.GET('/api/v1/reference/pt/{refrigerant}', {
        params: { path: { refrigerant: chosen.value.id }, query: { units: units.value } },
      }),
    )
    failure.value = ''
  } catch (error) {
    failure.value = sentence(error)
  }
}
/** Either way: what is typed in one field is converted and the other one emptied. */
async function convert(kind: 'pressure' | 'temperature', text: string): Promise<void> {
  const mine = ++turn
  answer.value = null
  failure.value = ''
  if (kind === 'pressure') temperature.value = ''
  else pressure.value = ''
  const value = Number(text.trim().replace(',', '.').replace('−', '-'))
  if (!text.trim()) return
  if (!Number.isFinite(value)) {
    failure.value = `${kind} “${text}” is not a number`
    return
  }
  try {
    const found = await ask(
      api.GET('/api/v1/reference/pt/{refrigerant}/convert', {
        params: { path: { refrigerant: chosen.value.id }, query: { units: units.value, [kind]: value } },
      }),
    )
    if (mine !== turn) return
    const blend = chart.value?.blend && found.glide > 0
    answer.value = {
      text: blend
        ? `${found.dew} ${found.unit} dew · ${found.bubble} ${found.unit} bubble`
        : `${found.dew} ${found.unit}`,
      glide: blend
        ? `Glide here ${found.glide} ${units.value === 'us' ? '°F' : 'K'}: use dew point for superheat, bubble point for subcooling.`
        : '',
    }
  } catch (error) {
    if (mine === turn) failure.value = sentence(error)
  }
}
const option = computed(() => {
  const found = chart.value
  if (!found) return null
  const line = (key: 'dew' | 'bubble', color: string) => ({
    type: 'line',
    name: key,
    showSymbol: false,
    data: found.rows.map((r) => [r.temperature, r[key]]),
    lineStyle: { color, width: 2.4, type: key === 'dew' ? 'solid' : 'dashed' },
    itemStyle: { color },
  })
  const text = { color: INK.soft }
  return {
    animation: false,
    textStyle: { fontFamily: 'Archivo' },
    grid: { left: 58, right: 18, top: 34, bottom: 42 },
    tooltip: {
      trigger: 'axis',
      valueFormatter: (v: unknown) => (typeof v === 'number' ? `${v.toFixed(0)} ${found.pressure_unit}` : '–'),
    },
    xAxis: {
      type: 'value',
      axisLine: { onZero: false },
      min: 'dataMin',
      max: 'dataMax',
      name: found.temperature_unit,
      nameLocation: 'middle',
      nameGap: 26,
      nameTextStyle: text,
      axisLabel: { ...text, formatter: atAxis },
      splitLine: { lineStyle: { color: INK.line } },
    },
    yAxis: {
      type: 'value',
      axisLine: { onZero: false },
      name: found.pressure_unit,
      nameTextStyle: { ...text, align: 'left' },
      axisLabel: { ...text, formatter: atAxis },
      splitLine: { lineStyle: { color: INK.line } },
    },
    series: [line('dew', INK.low), ...(found.blend ? [line('bubble', INK.high)] : [])],
  }
})
const columns = computed(() => {
  const rows = chart.value?.rows ?? []
  const each = Math.ceil(rows.length / 4)
  return [0, 1, 2, 3].map((i) => rows.slice(i * each, (i + 1) * each))
})
const shown = (v: number | null) => (v === null ? '–' : v.toFixed(units.value === 'us' ? 1 : 0).replace('-', '−'))
const paper = computed(() => `/api/v1/reference/pt/${chosen.value.id}/chart.pdf?units=${units.value}`)
watch(
  [chosen, units],
  () => {
    pressure.value = temperature.value = ''
    answer.value = null
    void load()
  },
  { deep: true },
)
onMounted(async () => {
  try {
    fluids.value = (await ask(api.GET('/api/v1/reference/refrigerants'))).refrigerants
  } catch (error) {
    failure.value = sentence(error)
  }
  await load()
})
</script>

<template>
  <div class="pt">
    <section class="card ask">
      <label
        ><span>Refrigerant</span
        ><select v-model="chosen.id" data-test="refrigerant">
          <option v-for="f in fluids" :key="f.id" :value="f.id">{{ f.name }} · {{ f.safety_class }}</option>
        </select></label
      >
      <label
        ><span>Gauge pressure, {{ chart?.pressure_unit }}</span
        ><input
          v-model="pressure"
          v-focus
          inputmode="decimal"
          data-test="pressure"
          @input="convert('pressure', pressure)"
      /></label>
      <label
        ><span>or temperature, {{ chart?.temperature_unit }}</span
        ><input
          v-model="temperature"
          inputmode="decimal"
          data-test="temperature"
          @input="convert('temperature', temperature)"
      /></label>
      <p v-if="failure" class="error" role="alert">{{ failure }}</p>
      <p v-else-if="answer" class="answer num" role="status" data-test="converted">{{ answer.text }}</p>
      <p v-else class="soft">Type either one; sea level.</p>
      <p v-if="answer?.glide" class="soft">{{ answer.glide }}</p>
      <a class="print" :href="paper" target="_blank" rel="noopener">Print the chart of {{ chosen.id }}</a>
    </section>
    <section class="card curve">
      <ChartPicture v-if="option" :option="option" :said="`Pressure against temperature of ${chosen.id}`" />
    </section>
    <section class="card table" :aria-label="`Chart of ${chosen.id}`" tabindex="0">
      <table v-for="(column, i) in columns" :key="i">
        <thead>
          <tr>
            <th>{{ chart?.temperature_unit }}</th>
            <template v-if="chart?.blend"
              ><th class="low">dew</th>
              <th class="high">bubble</th></template
            >
            <th v-else>{{ chart?.pressure_unit }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="r in column" :key="r.temperature" :class="{ ten: r.temperature % 10 === 0 }">
            <td>
              <b>{{ String(r.temperature).replace('-', '−') }}</b>
            </td>
            <td>{{ shown(r.dew) }}</td>
            <td v-if="chart?.blend">{{ shown(r.bubble) }}</td>
          </tr>
        </tbody>
      </table>
    </section>
  </div>
</template>

<style scoped>
.pt {
  display: grid;
  grid-template-columns: 270px minmax(0, 1fr);
  gap: 12px;
}
.ask label {
  display: block;
  margin-bottom: 10px;
}
.ask span {
  display: block;
  font-size: 13px;
  color: var(--ink-soft);
}
.ask input,
.ask select {
  width: 100%;
  border: 1px solid var(--edge);
  border-radius: 3px;
  padding: 6px 8px;
  font: 700 17px var(--mono);
  background: var(--card);
  color: var(--ink);
}
.ask select {
  font: inherit;
}
.answer {
  font-size: 20px;
  font-weight: 700;
  white-space: normal;
  margin: 4px 0;
}
.print {
  display: inline-block;
  margin-top: 8px;
}
.curve {
  min-height: 300px;
  padding: 8px;
}
.table {
  grid-column: 1 / -1;
  display: grid;
  grid-template-columns: repeat(4, 1fr);
  gap: 22px;
  max-height: 330px;
  overflow: auto;
}
table {
  border-collapse: collapse;
  font: 13px var(--mono);
  align-self: start;
  width: 100%;
}
th,
td {
  text-align: right;
  padding: 1px 8px;
}
th {
  font-family: Archivo;
  color: var(--ink-soft);
  border-bottom: 2px solid var(--violet);
  position: sticky;
  top: -15px;
  background: var(--card);
}
th.low {
  color: var(--low);
}
th.high {
  color: var(--high);
}
tr.ten td {
  background: var(--violet-soft);
}
@media (max-width: 800px) {
  .pt {
    grid-template-columns: 1fr;
  }
  .table {
    grid-template-columns: 1fr 1fr;
  }
}
</style>
