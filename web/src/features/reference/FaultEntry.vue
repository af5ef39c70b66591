<script setup lang="ts">
import { computed, onMounted, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, ask, type Schemas, sentence } from '@/api/client'
import { kept, units } from '@/shared/kept'
import { finding } from '@/shared/finding'
import { severityText } from '@/shared/circuit/circuit'
import { spark } from './spark'
import { vFocus } from '@/shared/focus'

type Kind = Schemas['FaultRow']
const catalogue = ref<Schemas['CatalogueReply'] | null>(null)
const entry = ref<Schemas['EntryReply'] | null>(null)
const machine = kept('reference.machine', { id: 'split-3t-r410a-txv' })
const search = ref('')
const failure = ref('')
const route = useRoute()
const router = useRouter()
const kinds = computed(() =>
  finding(
    (catalogue.value?.faults ?? []).filter((f) => f.unit).map((f) => ({ ...f, label: f.name })),
    search.value,
  ),
)
const id = computed(() => String(route.params.id || 'undercharge'))
const kind = computed<Kind | undefined>(() => catalogue.value?.faults.find((f) => f.id === id.value))
const fits = computed(() => catalogue.value?.machines.filter((m) => kind.value?.machines.includes(m.id)) ?? [])
const ARROWS: Record<string, [string, string]> = {
  up: ['▲', 'rises'],
  down: ['▼', 'falls'],
  same: ['=', 'about the same'],
}
const level = (value: number | null) =>
  kind.value && value !== null ? severityText(kind.value, value, units.value) : ''
const words = (text: string) => text.replace(/_/g, ' ')

watch(
  [kind, () => machine.value.id, units],
  async () => {
    entry.value = null
    failure.value = ''
    if (!kind.value || kind.value.acts_on !== 'machine') return
    const on = fits.value.some((m) => m.id === machine.value.id) ? machine.value.id : fits.value[0]?.id
    if (!on) return
    if (on !== machine.value.id) machine.value = { id: on }
    try {
      const asked = id.value
      const found = await ask(
        api.GET('/api/v1/reference/faults/{fault_id}', {
          params: { path: { fault_id: asked }, query: { machine: on, units: units.value } },
        }),
      )
      if (asked === id.value) entry.value = found
    } catch (error) {
      failure.value = sentence(error)
    }
  },
  { immediate: true },
)
onMounted(async () => {
  try {
    catalogue.value = await ask(api.GET('/api/v1/catalogue'))
  } catch (error) {
    failure.value = sentence(error)
  }
})
const go = (fault: string) => router.push(`/reference/faults/${fault}`)
const alone = (fault: string) => !fault.includes('+') && fault !== 'none'
</script>

<template>
  <div class="pages">
    <nav class="card index" aria-label="Faults">
      <input
        v-model="search"
        v-focus
        type="search"
        placeholder="Search a fault"
        aria-label="Search a fault"
        @keydown.enter.prevent="kinds[0] && go(kinds[0].id)"
      />
      <p v-if="!kinds.length" class="soft">No match.</p>
      <ul>
        <li v-for="f in kinds" :key="f.id">
          <button type="button" :class="[f.acts_on]" :aria-current="f.id === id ? 'page' : undefined" @click="go(f.id)">
            {{ f.name }}
          </button>
        </li>
      </ul>
    </nav>
    <article v-if="kind" class="card entry">
      <header>
        <h2>{{ kind.name }}</h2>
        <label v-if="kind.acts_on === 'machine'"
          >on
          <select v-model="machine.id" aria-label="Machine">
            <option v-for="m in fits" :key="m.id" :value="m.id">{{ m.name }} · {{ m.refrigerant }}</option>
          </select></label
        >
      </header>
      <p>
        {{ kind.effect }}
        <span class="soft"
          >Measured as {{ kind.parameter }}: mild {{ level(kind.mild) }}, moderate {{ level(kind.moderate) }}, severe
          {{ level(kind.severe) }}.</span
        >
      </p>
      <p v-if="kind.hazard" class="caution">{{ kind.hazard }}</p>
      <p v-if="failure" class="error" role="alert">{{ failure }}</p>
      <div class="body">
        <section v-if="kind.acts_on === 'machine'">
          <h3>How it shows, at the rating point</h3>
          <table v-if="entry" class="signature" data-test="signature">
            <thead>
              <tr>
                <th><span class="off">Figure</span></th>
                <th>normal</th>
                <th>mild</th>
                <th>moderate</th>
                <th>severe</th>
                <th>from normal to worst</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="r in entry.rows" :key="r.id">
                <td>
                  {{ r.label }} <small class="soft">{{ r.unit }}</small>
                </td>
                <td class="num">{{ r.fault_free.toFixed(1) }}</td>
                <td v-for="l in r.levels" :key="l.level" :class="['num', l.arrow ?? 'out']">
                  <template v-if="l.value !== null"
                    ><b :title="ARROWS[l.arrow ?? 'same']?.[1]">{{ ARROWS[l.arrow ?? 'same']?.[0] }}</b>
                    {{ l.value.toFixed(1) }}</template
                  ><template v-else>cuts out</template>
                </td>
                <td>
                  <svg viewBox="0 0 120 26" width="120" height="26" aria-hidden="true">
                    <path :d="spark(r.values, 120, 26, 4 * r.step)" />
                  </svg>
                </td>
              </tr>
            </tbody>
          </table>
          <p v-else-if="!failure" class="soft">Solving…</p>
          <p v-if="entry?.shows.length" class="soft">
            First seen:
            <template v-for="(s, i) in entry.shows" :key="s.id"
              >{{ i ? '; ' : '' }}{{ s.label }} reads {{ s.verdict }} from {{ s.at }} {{ entry.unit }}</template
            >.<template v-for="t in entry.trips" :key="t.from">
              Cuts out on {{ t.cutout }} from {{ t.from }} {{ entry.unit }}.</template
            >
          </p>
        </section>
        <section>
          <template v-if="entry?.look_alikes.length"
            ><h3>Look-alikes, by distance in reading tolerances</h3>
            <ul class="near">
              <li v-for="n in entry.look_alikes" :key="n.fault">
                <span class="bar"><i :style="{ left: `${Math.min(n.distance, 10) * 10}%` }" /></span
                ><b class="num">{{ n.distance.toFixed(1) }}</b>
                <button v-if="alone(n.fault)" type="button" class="plain" @click="go(n.fault)">
                  {{ n.name }}</button><span v-else>{{ n.name }}</span>
              </li>
            </ul></template
          >
          <template v-if="kind.tests.length"
            ><h3>Confirm with</h3>
            <ul>
              <li v-for="t in kind.tests" :key="t">{{ t }}</li>
            </ul></template
          >
          <h3>Causes and what an inspection shows</h3>
          <ul>
            <li v-for="c in kind.causes" :key="c.id">
              <b>{{ words(c.id) }}</b><template v-if="c.look">: {{ c.look }}</template>
            </li>
          </ul>
          <h3>Remedy</h3>
          <p>{{ kind.remedy }}</p>
          <template v-if="kind.rig.length"
            ><h3>On a rig</h3>
            <ul>
              <li v-for="r in kind.rig" :key="r">{{ r }}</li>
            </ul></template
          >
        </section>
      </div>
    </article>
  </div>
</template>

<style scoped>
.pages {
  display: grid;
  grid-template-columns: 236px minmax(0, 1fr);
  gap: 12px;
  align-items: start;
}
.index {
  padding: 8px;
  max-height: calc(100vh - 130px);
  overflow: auto;
}
.index input {
  width: 100%;
  border: 1px solid var(--edge);
  border-radius: 3px;
  padding: 5px 8px;
  background: var(--card);
  color: var(--ink);
}
.index ul {
  list-style: none;
  margin: 6px 0 0;
  padding: 0;
}
.index button {
  width: 100%;
  text-align: left;
  border: 0;
  background: none;
  padding: 4px 8px;
  cursor: pointer;
  font-size: 14px;
  color: var(--ink);
  border-left: 4px solid transparent;
}
.index button.reading {
  color: var(--amber);
}
.index button[aria-current] {
  border-left-color: var(--violet);
  background: var(--violet-soft);
  font-weight: 600;
  color: var(--ink);
}
.entry {
  min-height: 400px;
}
header {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  gap: 12px;
}
h2 {
  text-transform: none;
  letter-spacing: 0;
  font-size: 20px;
  margin: 0;
}
.entry > p {
  margin: 4px 0;
}
.caution {
  border-left: 4px solid var(--amber);
  padding-left: 8px;
  color: var(--amber-dark);
}
.body {
  display: grid;
  grid-template-columns: minmax(0, 1.5fr) minmax(0, 1fr);
  gap: 24px;
}
h3 {
  font-size: 14px;
  margin: 10px 0 4px;
}
.signature {
  width: 100%;
  border-collapse: collapse;
  font-size: 13.5px;
}
.signature th {
  text-align: right;
  font-weight: 600;
  font-size: 12px;
  color: var(--ink-soft);
  border-bottom: 2px solid var(--violet);
  padding: 3px 6px;
}
.signature td {
  padding: 2px 6px;
  text-align: right;
  border-bottom: 1px solid var(--line);
}
.signature td:first-child {
  text-align: left;
  white-space: nowrap;
}
.up b {
  color: var(--high);
}
.down b {
  color: var(--low);
}
.same b {
  color: var(--ink-soft);
}
.out {
  color: var(--amber);
  font-size: 12px;
}
svg {
  display: block;
  margin-left: auto;
}
svg path {
  fill: none;
  stroke: var(--ink);
  stroke-width: 1.8;
}
ul {
  margin: 0;
  padding-left: 18px;
  font-size: 14px;
}
.body p {
  margin: 0 0 6px;
  font-size: 14px;
}
.near {
  list-style: none;
  padding: 0;
}
.near li {
  display: grid;
  grid-template-columns: 96px 34px 1fr;
  align-items: center;
  gap: 6px;
  font-size: 13px;
}
.near .plain {
  border: 0;
  background: none;
  padding: 0;
  color: var(--violet);
  cursor: pointer;
  text-align: left;
  font-size: 13px;
  text-decoration: underline;
}
.bar {
  position: relative;
  height: 10px;
  background: linear-gradient(90deg, var(--amber-tint) 0 10%, var(--el-fill-color) 10%);
}
.bar i {
  position: absolute;
  top: 0;
  width: 10px;
  height: 10px;
  border-radius: 50%;
  background: var(--violet);
  margin-left: -5px;
}
@media (max-width: 900px) {
  .pages,
  .body {
    grid-template-columns: 1fr;
  }
  .index {
    max-height: 200px;
  }
}
</style>
