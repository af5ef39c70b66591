<script setup lang="ts">
import { computed, onMounted, ref, watch } from 'vue'
import { api, ask, type Schemas, sentence } from '@/api/client'
import { kept, units } from '@/shared/kept'
import { vFocus } from '@/shared/focus'

const grid = ref<Schemas['GridReply'] | null>(null)
const by = kept<{ now: 'formula' | 'chart' }>('reference.by', { now: 'formula' })
const wet = ref('')
const out = ref('')
const answer = ref<Schemas['TargetReply'] | null>(null)
const failure = ref('')
let turn = 0
const number = (text: string) => Number(text.trim().replace(',', '.'))

async function load(): Promise<void> {
  try {
    grid.value = await ask(
      api.GET('/api/v1/reference/superheat/chart', { params: { query: { by: by.value.now, units: units.value } } }),
    )
  } catch (error) {
    failure.value = sentence(error)
  }
}
async function work(): Promise<void> {
  const mine = ++turn
  answer.value = null
  failure.value = ''
  if (!wet.value.trim() || !out.value.trim()) return
  try {
    const found = await ask(
      api.GET('/api/v1/reference/superheat', {
        params: { query: { return_wb: number(wet.value), outdoor_db: number(out.value), units: units.value } },
      }),
    )
    if (mine === turn) answer.value = found
  } catch (error) {
    if (mine === turn) failure.value = sentence(error)
  }
}
const digits = computed(() => (units.value === 'us' ? 0 : 1))
const paper = computed(() => `/api/v1/reference/superheat/chart.pdf?by=${by.value.now}&units=${units.value}`)
watch([by, units], () => void load(), { deep: true })
watch(units, () => {
  wet.value = out.value = ''
  answer.value = null
})
watch([wet, out], work)
onMounted(load)
</script>

<template>
  <div class="two">
    <section class="card ask">
      <label
        ><span>Return air, wet bulb, {{ grid?.unit }}</span
        ><input v-model="wet" v-focus inputmode="decimal" data-test="wet"
      /></label>
      <label
        ><span>Outdoor air, {{ grid?.unit }}</span
        ><input v-model="out" inputmode="decimal" data-test="out"
      /></label>
      <p v-if="failure" class="error" role="alert">{{ failure }}</p>
      <dl v-else-if="answer" data-test="target">
        <dt>by the formula</dt>
        <dd class="num">{{ answer.formula }} {{ answer.unit }}</dd>
        <dt>by the chart</dt>
        <dd class="num">{{ answer.chart }} {{ answer.unit }}</dd>
      </dl>
      <p v-if="answer?.note" class="note">{{ answer.note }}</p>
      <p class="soft">
        Total superheat of a fixed orifice, at the outdoor unit: (3 × wet bulb − 80 − outdoors) / 2 in °F.
        Manufacturers' charts run up to 1.5 °F lower. Not for a TXV: it holds its own superheat.
      </p>
      <a :href="paper" target="_blank" rel="noopener">Print this chart</a>
    </section>
    <section class="card grid" tabindex="0" aria-label="Target superheat chart">
      <div class="which" role="radiogroup" aria-label="Chart by">
        <label><input v-model="by.now" type="radio" value="formula" /> formula</label
        ><label><input v-model="by.now" type="radio" value="chart" /> manufacturer's chart</label
        ><span class="soft">in {{ grid?.difference_unit }}; dash: too small to charge by</span>
      </div>
      <table v-if="grid">
        <thead>
          <tr>
            <th>outdoors ↓ wet bulb →</th>
            <th v-for="w in grid.wet_bulb" :key="w">{{ w }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(row, i) in grid.rows" :key="i">
            <th>{{ grid.outdoor[i] }}</th>
            <td
              v-for="(cell, j) in row"
              :key="j"
              :style="
                cell === null
                  ? undefined
                  : { background: `rgb(75 58 140 / ${Math.min(34, 4 + cell * (units === 'us' ? 1 : 1.8) * 0.8)}%)` }
              "
            >
              {{ cell === null ? '–' : cell.toFixed(digits) }}
            </td>
          </tr>
        </tbody>
      </table>
    </section>
  </div>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: 270px minmax(0, 1fr);
  gap: 12px;
  align-items: start;
}
.ask label {
  display: block;
  margin-bottom: 10px;
}
.ask label span {
  display: block;
  font-size: 13px;
  color: var(--ink-soft);
}
.ask input {
  width: 100%;
  border: 1px solid var(--edge);
  border-radius: 3px;
  padding: 6px 8px;
  font: 700 17px var(--mono);
  background: var(--card);
  color: var(--ink);
}
dl {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 4px 10px;
  font-size: 16px;
}
dd {
  margin: 0;
  font-weight: 700;
  font-size: 20px;
}
.note {
  color: var(--amber);
  font-weight: 600;
}
.grid {
  overflow: auto;
}
.which {
  display: flex;
  gap: 16px;
  margin-bottom: 8px;
}
.which input {
  accent-color: var(--violet);
}
table {
  border-collapse: collapse;
  width: 100%;
}
th,
td {
  border: 1px solid var(--line);
  text-align: center;
  padding: 5px 4px;
  font: 14px var(--mono);
  color: var(--ink);
}
th {
  background: var(--paper);
  font-weight: 700;
  font-size: 12.5px;
}
@media (max-width: 800px) {
  .two {
    grid-template-columns: 1fr;
  }
}
</style>
