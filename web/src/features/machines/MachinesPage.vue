<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, type Schemas, sentence } from '@/api/client'
import { offerUndo } from '@/shared/asking'
import { finding } from '@/shared/finding'
import { kept, units } from '@/shared/kept'
import { called } from '@/shared/title'
import { startOnBench } from '@/shared/toBench'
import type { PlateForm } from './form'
import MachineCard from './MachineCard.vue'
import PlateFormPanel from './PlateForm.vue'
import ReportPicture from './ReportPicture.vue'

const catalogue = ref<Schemas['CatalogueReply'] | null>(null)
const own = ref<Schemas['OwnRow'][]>([])
const failure = ref('')
const typed = ref('')
const picked = kept('machines.picked', { id: '' })
/** The form of a new machine, or of one that is changed or copied; null while machines are looked at. */
const adding = kept<{ open: boolean }>('machines.adding', { open: false })
const changing = ref<Schemas['OwnRow'] | null>(null)
const start = ref<PlateForm | null>(null)
const report = ref(false)
const router = useRouter()
const GROUPS: [string, (m: Schemas['MachineRow']) => boolean][] = [
  ['Yours', (m) => m.id.startsWith('own-')],
  ['Air conditioners', (m) => m.application === 'air_conditioner' && m.condenser !== 'water_cooled'],
  ['Heat pumps', (m) => m.application.startsWith('heat_pump')],
  ['Rooftop and water-cooled', (m) => m.application === 'package_unit' || m.condenser === 'water_cooled'],
  ['Walk-ins', (m) => m.application.startsWith('walk_in')],
  ['Reach-ins and rails', (m) => m.application === 'reach_in'],
]
const rows = computed(() =>
  finding(
    (catalogue.value?.machines ?? []).map((m) => ({ ...m, label: `${m.name}, ${m.refrigerant}` })),
    typed.value,
  ),
)
const groups = computed(() => {
  const taken = new Set<string>()
  return GROUPS.flatMap(([name, fits]) => {
    const some = rows.value.filter((m) => !taken.has(m.id) && fits(m))
    some.forEach((m) => taken.add(m.id))
    return some.length ? [[name, some] as const] : []
  })
})
const shown = computed(() => {
  const every = catalogue.value?.machines ?? []
  return every.find((m) => m.id === picked.value.id) ?? every[0] ?? null
})
const mine = computed(() => own.value.find((m) => m.id === shown.value?.id) ?? null)
const refrigerants = computed(() =>
  [...new Set(catalogue.value?.machines.map((m) => m.refrigerant) ?? ['R-410A'])].sort(),
)

async function load(): Promise<void> {
  try {
    const [found, list] = await Promise.all([
      ask(api.GET('/api/v1/catalogue')),
      ask(api.GET('/api/v1/machines', { params: { query: { units: units.value } } })),
    ])
    catalogue.value = found
    own.value = list.machines
    failure.value = ''
  } catch (error) {
    failure.value = sentence(error)
  }
}
function pick(id: string): void {
  picked.value.id = id
  adding.value.open = report.value = false
  window.scrollTo({ top: 0 })
}
function first(): void {
  const hit = groups.value[0]?.[1][0]
  if (hit) pick(hit.id)
}
/** A plate as the form has it: text in every field. */
function asForm(row: Schemas['OwnRow']): PlateForm {
  const plate = row.tuned.plate as Record<string, unknown>
  return Object.fromEntries(
    Object.entries(plate).flatMap(([key, value]) =>
      typeof value === 'string' || typeof value === 'number' ? [[key, String(value)]] : [],
    ),
  )
}
function fresh(): void {
  changing.value = start.value = null
  adding.value.open = true
}
function change(row: Schemas['OwnRow']): void {
  changing.value = row
  start.value = asForm(row)
  adding.value.open = true
}
function copy(row: Schemas['OwnRow']): void {
  changing.value = null
  start.value = { ...asForm(row), name: `${row.name} copy` }
  adding.value.open = true
}
async function saved(machines: Schemas['OwnRow'][], name: string): Promise<void> {
  own.value = machines
  adding.value.open = false
  changing.value = start.value = null
  await load()
  const made = machines.find((m) => m.name === name.trim())
  if (made) picked.value.id = made.id
}
async function remove(row: Schemas['OwnRow']): Promise<void> {
  try {
    const at = { params: { path: { machine_id: row.id }, query: { units: units.value } } }
    own.value = (await ask(api.DELETE('/api/v1/machines/{machine_id}', at))).machines
    await load()
    offerUndo(`${row.name} is deleted; scenarios that use it keep their copy.`, async () => {
      const plate = Object.fromEntries(Object.entries(row.tuned.plate).filter(([, value]) => value !== null))
      await ask(
        api.POST('/api/v1/machines', { body: { ...plate, name: row.name, units: 'us' } as Schemas['PlateBody'] }),
      )
      await load()
      picked.value.id = row.id
    })
  } catch (error) {
    failure.value = sentence(error)
  }
}
const toBench = (id: string) => catalogue.value && startOnBench(router, catalogue.value, { machine: id })
watch(units, () => void load(), { immediate: true })
watch(
  () => (adding.value.open ? 'New machine' : shown.value?.name),
  (name) => name && called(name),
)
</script>

<template>
  <main class="machines">
    <nav class="card" aria-label="Machines">
      <div class="line">
        <h1>Machines</h1>
        <el-button size="small" type="primary" data-test="new-machine" @click="fresh">New</el-button>
      </div>
      <input
        v-model="typed"
        type="search"
        placeholder="Find: piston, 410A, walk-in …"
        aria-label="Find a machine"
        data-test="find-machine"
        @keydown.enter="first"
      />
      <template v-for="[name, some] in groups" :key="name"
        ><h2>{{ name }}</h2>
        <ul>
          <li v-for="m in some" :key="m.id">
            <button type="button" :class="{ on: shown?.id === m.id && !adding.open }" @click="pick(m.id)">
              {{ m.name }}<small>{{ m.refrigerant }}</small>
            </button>
          </li>
        </ul></template
      >
      <p v-if="catalogue && !groups.length" class="soft">No machine of that name.</p>
    </nav>
    <div class="found">
      <p v-if="failure" class="card error" role="alert">{{ failure }}</p>
      <template v-if="adding.open">
        <p class="soft">
          Enter the nameplate and any known ratings. Wolfsbane finds a machine that matches them, says how closely, and
          names figures that contradict each other.
        </p>
        <PlateFormPanel
          :refrigerants="refrigerants"
          :changing="changing"
          :start="start"
          @kept="saved"
          @close="adding.open = false"
        />
      </template>
      <template v-else-if="shown && catalogue">
        <MachineCard :machine="shown" :catalogue="catalogue">
          <el-button type="primary" size="small" data-test="to-bench" @click="toBench(shown.id)"
            >On the bench</el-button
          >
          <template v-if="mine"
            ><el-button size="small" @click="report = !report">Report</el-button
            ><el-button size="small" data-test="change-machine" @click="change(mine)">Change</el-button
            ><el-button size="small" @click="copy(mine)">Copy</el-button
            ><el-button size="small" @click="remove(mine)">Delete</el-button></template
          >
        </MachineCard>
        <div v-if="mine && report" class="card"><ReportPicture :tuned="mine.tuned" /></div>
      </template>
    </div>
  </main>
</template>

<style scoped>
.machines {
  display: grid;
  grid-template-columns: 250px minmax(0, 1fr);
  gap: 14px;
  padding: 14px;
  max-width: 1300px;
  margin: 0 auto;
  align-items: start;
}
nav {
  position: sticky;
  top: 10px;
  max-height: calc(100vh - 20px);
  overflow-y: auto;
}
.line {
  display: flex;
  justify-content: space-between;
  align-items: center;
}
h1 {
  font-size: 20px;
  margin: 0;
}
nav h2 {
  margin: 12px 0 2px;
}
nav ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
nav li button {
  width: 100%;
  display: flex;
  justify-content: space-between;
  gap: 8px;
  border: 1px solid transparent;
  border-radius: 3px;
  background: none;
  color: var(--ink);
  font: inherit;
  font-size: 14px;
  text-align: left;
  padding: 4px 6px;
  min-height: 28px;
  cursor: pointer;
}
nav li button.on {
  background: var(--violet-soft);
  border-color: var(--violet);
  font-weight: 600;
}
nav small {
  color: var(--ink-soft);
  white-space: nowrap;
}
input {
  width: 100%;
  margin-top: 8px;
  border: 1px solid var(--edge);
  border-radius: 3px;
  padding: 5px 8px;
  background: var(--card);
  color: var(--ink);
  font-size: 14px;
}
.found {
  display: flex;
  flex-direction: column;
  gap: 14px;
  min-width: 0;
}
@media (max-width: 900px) {
  .machines {
    grid-template-columns: 1fr;
  }
  nav {
    position: static;
    max-height: 300px;
  }
}
@media print {
  nav {
    display: none;
  }
}
</style>
