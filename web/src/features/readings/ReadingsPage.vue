<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { api, ask, named, type Schemas } from '@/api/client'
import { kept, units } from '@/shared/kept'
import { useLater } from '@/shared/later'
import {
  AIR,
  APPLICATIONS,
  CONDENSERS,
  LABELS,
  LOOKS,
  METERING,
  READINGS,
  TESTS,
  bodyOf,
  emptyForm,
  type FieldRow,
  type ReadingsForm,
} from './form'

const forms = { us: kept<ReadingsForm>('readings.us', emptyForm()), si: kept<ReadingsForm>('readings.si', emptyForm()) }
const form = computed(() => forms[units.value].value)
const reply = ref<Schemas['DiagnosisReply'] | null>(null)
const failure = ref('')
const catalogue = ref<Schemas['CatalogueReply'] | null>(null)
const refrigerants = computed(() =>
  [...new Set(catalogue.value?.machines.map((m) => m.refrigerant) ?? ['R-410A'])].sort(),
)
const unit = (row: FieldRow) =>
  row.kind === 'pressure'
    ? units.value === 'us'
      ? 'psig'
      : 'kPa'
    : units.value === 'us'
      ? '°F'
      : row.kind === 'difference'
        ? 'K'
        : '°C'
const figures = computed(() => {
  const found = reply.value?.computed
  if (!found) return []
  const k = units.value === 'us' ? 1 : 1 / 1.8
  const rows = [
    ['superheat', 'Superheat', found.superheat_df],
    ['subcooling', 'Subcooling', found.subcooling_df],
    ['evaporator_td', 'Evaporator TD', found.evaporator_td_df],
    ['ctoa', 'CTOA', found.ctoa_df],
    ['drier_drop', 'Drier drop', found.drier_drop_df],
    ['air_delta_t', 'Air delta-T', found.air_delta_t_df],
  ] as const
  return rows.flatMap(([id, label, value]) => {
    const band = found.targets[`${id}_df`]
    return typeof value === 'number'
      ? [
          {
            id,
            label,
            text: (value * k).toFixed(1),
            band: band && band.map((v) => (v * k).toFixed(0)).join(' to '),
            verdict: found.verdicts[id] ?? '',
          },
        ]
      : []
  })
})
const contradictions = computed(() => reply.value?.computed.contradictions ?? [])
const shown = computed(() => (reply.value?.ranked ?? []).filter((r, i) => i < 3 || r.weight >= 0.03).slice(0, 7))
let running: AbortController | null = null
const rest = useLater(350)

async function run(): Promise<void> {
  running?.abort()
  const mine = (running = new AbortController())
  try {
    reply.value = await ask(
      api.POST('/api/v1/diagnose', { body: bodyOf(form.value, units.value), signal: mine.signal }),
    )
    failure.value = ''
  } catch (error) {
    if (running === mine && !(error instanceof DOMException)) failure.value = named(error, LABELS)
  }
}
function clear(): void {
  forms[units.value].value = emptyForm()
}
watch(
  [forms.us, forms.si, units],
  () => {
    rest.push(() => void run())
  },
  { deep: true, immediate: true },
)
void ask(api.GET('/api/v1/catalogue'))
  .then((found) => (catalogue.value = found))
  .catch((error: Error) => (failure.value = error.message))
</script>

<template>
  <main class="readings">
    <form class="card form" aria-label="What was read" @submit.prevent="run">
      <h2>Machine <button type="button" class="plain" data-test="clear" @click="clear">clear the form</button></h2>
      <div class="grid">
        <label
          ><span>Refrigerant</span
          ><select v-model="form.machine.refrigerant">
            <option v-for="r in refrigerants" :key="r">{{ r }}</option>
          </select></label
        >
        <label
          ><span>Metering device</span
          ><select v-model="form.machine.metering">
            <option v-for="(text, id) in METERING" :key="id" :value="id">{{ text }}</option>
          </select></label
        >
        <label
          ><span>Application</span
          ><select v-model="form.machine.application">
            <option value="">not known</option>
            <option v-for="(text, id) in APPLICATIONS" :key="id" :value="id">{{ text }}</option>
          </select></label
        >
        <label
          ><span>Condenser</span
          ><select v-model="form.machine.condenser">
            <option value="">not known</option>
            <option v-for="(text, id) in CONDENSERS" :key="id" :value="id">{{ text }}</option>
          </select></label
        >
        <label
          ><span>Receiver</span
          ><select v-model="form.machine.receiver">
            <option value="">not known</option>
            <option>no</option>
            <option>yes</option>
          </select></label
        >
        <label
          ><span>Nameplate subcooling</span
          ><span class="entry"
            ><input v-model="form.machine.subcooling" inputmode="decimal" /><i>{{
              units === 'us' ? '°F' : 'K'
            }}</i></span
          ></label
        >
      </div>
      <h2>Air</h2>
      <div class="grid four">
        <label v-for="r in AIR" :key="r.id"
          ><span>{{ r.label }}</span
          ><span class="entry"
            ><input v-model="form.conditions[r.id]" inputmode="decimal" :data-test="r.id" /><i>{{ unit(r) }}</i></span
          ></label
        >
      </div>
      <h2>Readings <small class="soft">leave out what was not read; “92 to 98” where it swings</small></h2>
      <div class="grid four">
        <label v-for="r in READINGS" :key="r.id"
          ><span>{{ r.label }}</span
          ><span class="entry"
            ><input v-model="form.readings[r.id]" inputmode="decimal" :data-test="r.id" /><i>{{ unit(r) }}</i></span
          ></label
        >
      </div>
      <h2>Inspected</h2>
      <div class="grid four">
        <label v-for="([label, words], id) in LOOKS" :key="id"
          ><span>{{ label }}</span
          ><select v-model="form.looked_at[id]">
            <option value="">not yet</option>
            <option v-for="w in words" :key="w" :value="w">{{ w }}</option>
          </select></label
        >
      </div>
      <h2>Tests</h2>
      <div class="grid four">
        <label v-for="([label, words], id) in TESTS" :key="id"
          ><span>{{ label }}</span
          ><select v-model="form.tests[id]">
            <option value="">not yet</option>
            <option v-for="w in words" :key="w" :value="w">{{ w.replace(/_/g, ' ') }}</option>
          </select></label
        >
        <label class="tick"><input v-model="form.settled" type="checkbox" /> ran 10 to 15 minutes, stabilized</label>
      </div>
    </form>
    <section class="answer" aria-live="polite">
      <p v-if="failure" class="card error" role="alert">{{ failure }}</p>
      <template v-if="reply">
        <div class="card figures" aria-label="Worked out">
          <div v-for="f in figures" :key="f.id" class="figure">
            <span>{{ f.label }}</span><b class="num">{{ f.text }}</b
            ><small class="num">{{ f.band ?? '' }}</small
            ><em :class="f.verdict">{{ f.verdict }}</em>
          </div>
          <p v-if="!figures.length" class="soft">
            Superheat needs suction pressure and suction line, subcooling needs head pressure and liquid line.
          </p>
        </div>
        <p v-for="c in contradictions" :key="c" class="card warn">{{ c }}</p>
        <ol class="card ranked" data-test="ranked">
          <li v-for="(r, i) in shown" :key="r.fault">
            <div class="head">
              <b>{{ r.name }}</b><span class="num">{{ Math.round(100 * r.weight) }} %</span>
            </div>
            <div class="bar"><i :style="{ width: `${100 * r.weight}%` }" /></div>
            <ul v-if="i < 3 && (r.reasons.length || r.against.length)">
              <li v-for="s in r.reasons" :key="s" class="for">{{ s }}</li>
              <li v-for="s in r.against" :key="s" class="against">{{ s }}</li>
            </ul>
          </li>
        </ol>
        <div class="card next">
          <h2>Next</h2>
          <p data-test="next">{{ reply.next_test ?? 'Nothing would tell more: act.' }}</p>
          <p v-if="reply.next_steps.length > 1" class="soft">
            then
            {{
              reply.next_steps
                .slice(1, 4)
                .map((s) => s.text)
                .join(' · ')
            }}
          </p>
          <p class="soft">
            Weights are what a careful technician would bet, not a service instruction: local codes and licensed
            practice come first.
          </p>
        </div>
      </template>
    </section>
  </main>
</template>

<style scoped>
.readings {
  display: grid;
  grid-template-columns: minmax(0, 1.15fr) minmax(0, 1fr);
  gap: 12px;
  padding: 12px 14px;
  max-width: 1500px;
  margin: 0 auto;
  align-items: start;
}
.form {
  padding: 10px 14px;
}
h2 {
  margin: 8px 0 3px;
  display: flex;
  gap: 10px;
  align-items: baseline;
}
h2:first-child {
  margin-top: 0;
}
h2 small {
  font-weight: 400;
  font-size: 12px;
  text-transform: none;
  letter-spacing: 0;
}
.grid {
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: 5px 12px;
}
.grid.four {
  grid-template-columns: repeat(4, minmax(0, 1fr));
}
label {
  display: block;
  font-size: 12px;
}
label > span:first-child {
  display: block;
  color: var(--ink-mid);
}
select,
input:not([type]),
.entry input {
  width: 100%;
  font: inherit;
  font-size: 13.5px;
  border: 1px solid var(--edge);
  border-radius: 3px;
  background: var(--white);
  color: var(--ink);
  padding: 3px 5px;
  min-width: 0;
}
.entry {
  display: flex;
  align-items: center;
  gap: 4px;
}
.entry i {
  font-style: normal;
  font-size: 11.5px;
  width: 30px;
  color: var(--ink-mid);
}
.tick {
  display: flex;
  align-items: center;
  gap: 6px;
  font-size: 13px;
  grid-column: span 2;
}
.plain {
  border: 0;
  background: none;
  color: var(--violet);
  cursor: pointer;
  font-size: 12.5px;
  padding: 0;
  margin-left: auto;
  text-decoration: underline;
}
.answer {
  display: flex;
  flex-direction: column;
  gap: 10px;
  min-width: 0;
}
.figures {
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: 6px 14px;
  padding: 10px 14px;
}
.figure {
  display: grid;
  grid-template-columns: 1fr auto;
  font-size: 12.5px;
}
.figure b {
  font-size: 16px;
}
.figure small {
  color: var(--ink-mid);
}
.figure em {
  font-style: normal;
  font-weight: 700;
  text-align: right;
}
.figure em.low,
.figure em.high {
  color: var(--amber-deep);
}
.figure em.normal {
  color: var(--good);
}
.figures p {
  grid-column: 1 / -1;
  margin: 0;
}
.warn {
  border-left: 5px solid var(--amber);
  margin: 0;
  padding: 6px 12px;
  font-size: 13.5px;
}
.ranked {
  list-style: none;
  margin: 0;
  padding: 10px 14px;
  display: flex;
  flex-direction: column;
  gap: 7px;
}
.head {
  display: flex;
  justify-content: space-between;
  font-size: 14.5px;
}
.bar {
  height: 6px;
  background: var(--violet-edge);
  border-radius: 3px;
}
.bar i {
  display: block;
  height: 6px;
  background: var(--violet);
  border-radius: 3px;
}
.ranked ul {
  list-style: none;
  margin: 3px 0 0;
  padding: 0;
  font-size: 12.5px;
}
.for::before {
  content: '+ ';
  font-weight: 700;
  color: var(--good);
}
.against::before {
  content: '− ';
  font-weight: 700;
  color: var(--amber-deep);
}
.next {
  padding: 8px 14px;
}
.next p {
  margin: 0 0 3px;
  font-size: 14px;
}
.next p.soft {
  font-size: 12px;
}
@media (max-width: 1000px) {
  .readings {
    grid-template-columns: 1fr;
  }
}
</style>
