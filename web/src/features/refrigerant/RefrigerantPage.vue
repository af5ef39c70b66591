<script setup lang="ts">
/** Cylinders and the refrigerant log: what is where, what moved, whether it adds up. */
import { computed, onMounted, ref, watch } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import { useFailing } from '@/shared/failing'
import { units } from '@/shared/kept'
import RowsSkeleton from '@/shared/RowsSkeleton.vue'
import { user } from '@/shared/session'
import CylinderShelf from './CylinderShelf.vue'
import LogTable from './LogTable.vue'
import MoveForm from './MoveForm.vue'
import NewCylinder from './NewCylinder.vue'

const log = ref<Schemas['LogReply'] | null>(null)
const rigs = ref<Schemas['RigRow'][]>([])
const chosen = ref<number | null>(null)
const entering = ref(false)
const first = ref('')
const last = ref('')
const { failure, busy, attempt } = useFailing()
const teaches = computed(() => user.value?.role === 'instructor')
const open = computed(() => log.value?.moves.filter((m) => m.differences.length && !m.explained).length ?? 0)
const closed = computed(() => log.value?.days.some((d) => d.day === log.value?.today) ?? false)
const spans = computed(() => first.value !== last.value)
const query = computed(() => ({ units: units.value, first: first.value || undefined, last: last.value || undefined }))
const asked = computed(() => new URLSearchParams(Object.entries(query.value).filter((e) => e[1]) as [string, string][]))

async function load(): Promise<void> {
  log.value = await ask(api.GET('/api/v1/refrigerant', { params: { query: query.value } }))
  if (!first.value) first.value = last.value = log.value.today
}
/** What was written shows today; other days are asked for again. */
function take(next: Schemas['LogReply']): void {
  if (first.value === next.today && last.value === next.today) log.value = next
  else void attempt(load)
}
const close = () =>
  attempt(async () => {
    if (!log.value) return
    take(await ask(api.POST('/api/v1/refrigerant/close', { body: { day: log.value.today, units: units.value } })))
  })
watch([units, first, last], () => log.value && void attempt(load))
onMounted(() =>
  attempt(async () => {
    await load()
    rigs.value = (await ask(api.GET('/api/v1/rigs', { params: { query: { units: units.value } } }))).rigs
  }),
)
const KINDS = ['received', 'charge', 'recover', 'transfer', 'returned', 'lost'] as const
const BALANCES = [
  ['by_refrigerant', 'Refrigerant'],
  ['by_cylinder', 'Cylinder'],
  ['by_rig', 'Rig'],
] as const
</script>

<template>
  <main class="page wide">
    <div class="page-head">
      <h1>Refrigerant</h1>
      <span class="acts">
        <RouterLink class="as-button" to="/rigs">Rigs</RouterLink>
        <a class="as-button" href="/api/v1/cylinders/labels.pdf" target="_blank">Labels</a>
        <el-button type="primary" data-test="new-cylinder" @click="entering = true">Add a cylinder</el-button>
      </span>
    </div>
    <p v-if="failure" class="error" role="alert">{{ failure }}</p>
    <RowsSkeleton v-if="!log && !failure" :cards="3" />
    <template v-if="log">
      <NewCylinder v-if="entering" :refrigerants="log.refrigerants" @made="take" @close="entering = false" />
      <p v-if="!log.cylinders.length && !entering" class="card">
        No cylinder yet. Enter the ones in the shop as they are stamped: tare, water capacity, what they weigh now.
      </p>
      <CylinderShelf :cylinders="log.cylinders" :chosen="chosen" @choose="chosen = $event" />
      <div class="two">
        <MoveForm
          v-if="log.cylinders.length && !closed"
          :cylinders="log.cylinders"
          :refrigerants="log.refrigerants"
          :rigs="rigs"
          :chosen="chosen"
          @written="take"
        />
        <p v-else-if="closed" class="card" role="status">Today is closed. What moves now is written down tomorrow.</p>
        <section class="card" aria-label="Log">
          <div class="head">
            <h2>Log</h2>
            <label>from <input v-model="first" type="date" :max="last" /></label>
            <label>to <input v-model="last" type="date" :min="first" :max="log.today" /></label>
            <span class="grow" />
            <template v-if="teaches">
              <a class="as-button" :href="`/api/v1/refrigerant/log.csv?${asked}`">CSV</a>
              <a class="as-button" :href="`/api/v1/refrigerant/log.pdf?${asked}`" target="_blank">Print</a>
              <el-button
                v-if="!spans && !closed && first === log.today"
                :disabled="open > 0"
                :loading="busy"
                data-test="close-day"
                @click="close"
                >Close the day</el-button
              >
            </template>
          </div>
          <p v-if="open" class="open" role="status" data-test="open">
            {{ open === 1 ? 'One move does not add up' : `${open} moves do not add up` }}: explain before the day
            closes.
          </p>
          <LogTable :moves="log.moves" :teaches="teaches" :days="spans" @changed="take" />
          <template v-for="[key, name] in BALANCES" :key="key">
            <section v-if="log[key].length" class="balance" tabindex="0" :aria-label="name">
              <table class="list">
                <thead>
                  <tr>
                    <th>{{ name }}</th>
                    <th v-for="k in KINDS" :key="k" class="right">{{ k }}</th>
                    <th class="right">charged less recovered</th>
                  </tr>
                </thead>
                <tbody>
                  <tr v-for="r in log[key]" :key="r.name">
                    <td>{{ r.name }}</td>
                    <td v-for="k in KINDS" :key="k" class="right num">{{ r[k] }}</td>
                    <td class="right num">{{ r.net }}</td>
                  </tr>
                </tbody>
              </table>
            </section>
          </template>
          <p class="soft small">{{ log.no_advice }}</p>
        </section>
      </div>
    </template>
  </main>
</template>

<style scoped>
.wide {
  max-width: 1480px;
  padding-top: 16px;
}
.acts {
  display: flex;
  gap: 10px;
  align-items: center;
}
.two {
  display: grid;
  grid-template-columns: minmax(0, 380px) minmax(0, 1fr);
  gap: 12px;
  margin-top: 12px;
  align-items: start;
}
.two > p {
  margin: 0;
}
.head {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 10px;
  align-items: center;
  margin-bottom: 8px;
}
.head h2 {
  margin: 0;
}
.grow {
  flex: 1;
}
.open {
  margin: 0 0 8px;
  padding: 6px 10px;
  border-left: 5px solid var(--amber);
  background: var(--amber-tint);
}
.balance {
  margin-top: 14px;
  overflow-x: auto;
}
.balance :deep(th),
.balance td {
  padding: 4px 8px;
  font-size: 13px;
}
.small {
  margin: 14px 0 0;
  font-size: 12.5px;
}
@media (max-width: 1000px) {
  .two {
    grid-template-columns: 1fr;
  }
}
</style>
