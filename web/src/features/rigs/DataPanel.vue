<script setup lang="ts">
/** Readings in and out: a logger's file, another logger's token, the register map, export. */
import { computed, ref } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import { useFailing } from '@/shared/failing'
import { units } from '@/shared/kept'
import FileButton from '@/shared/FileButton.vue'

const props = defineProps<{ rigId: number; full: Schemas['RigFull'] }>()
const emit = defineEmits<{ changed: [full: Schemas['RigFull']] }>()
const { failure, busy, attempt } = useFailing()
const token = ref('')
const text = ref('')
const read = ref<Schemas['RigFileReply'] | null>(null)
const zone = ref('')
const path = { params: { path: { rig_id: props.rigId } } }
const exported = computed(() => `/api/v1/rigs/${props.rigId}/samples.csv?units=${units.value}`)
const mapHref = computed(() => `data:text/csv;charset=utf-8,${encodeURIComponent(props.full.map)}`)
const of = (id: string) => read.value?.points.find((p) => p.id === id) as { units: string[] } | undefined

async function chosen(event: Event): Promise<string> {
  const input = event.target as HTMLInputElement
  const found = (await input.files?.[0]?.text()) ?? ''
  input.value = ''
  return found
}
const takeFile = async (event: Event) => {
  text.value = await chosen(event)
  read.value = null
  await send(false, null)
}
const send = (confirmed: boolean, columns: Record<string, Record<string, string>> | null) =>
  attempt(async () => {
    const body = { text: text.value, columns, zone: zone.value, confirmed }
    read.value = await ask(api.POST('/api/v1/rigs/{rig_id}/file', { ...path, body }))
  })
function match(head: string, point: string): void {
  if (!read.value) return
  const columns = { ...read.value.columns }
  if (!point) delete columns[head]
  else columns[head] = { point, unit: of(point)?.units[0] ?? '' }
  void send(false, columns)
}
function inUnit(head: string, unit: string): void {
  const columns = { ...read.value?.columns }
  columns[head] = { point: columns[head]?.point ?? '', unit }
  void send(false, columns)
}
const takeMap = async (event: Event) => {
  const body = { text: await chosen(event) }
  await attempt(async () => emit('changed', await ask(api.PUT('/api/v1/rigs/{rig_id}/map', { ...path, body }))))
}
const make = () =>
  attempt(async () => {
    token.value = (await ask(api.POST('/api/v1/rigs/{rig_id}/token', path))).token
  })
</script>

<template>
  <section class="card" aria-label="Readings in and out">
    <h2>Readings in and out</h2>
    <div class="row">
      <a class="as-button" :href="exported" download>Last day as CSV</a>
      <FileButton accept=".csv,.txt,text/csv" data-test="file" @change="takeFile">Import a logger's CSV</FileButton>
      <a class="as-button" :href="mapHref" :download="`map-rig-${rigId}.csv`">Register map</a>
      <FileButton accept=".csv,text/csv" data-test="map" @change="takeMap">New map</FileButton>
      <button type="button" class="as-button" @click="make">
        {{ full.has_token ? 'New token' : 'Token for another logger' }}
      </button>
    </div>
    <p v-if="token" class="token" role="status">
      <code>{{ token }}</code><small class="soft"
        >It is shown once. Send samples to <code>POST /api/v1/rigs/{{ rigId }}/samples</code> with the header
        X-Rig-Token.</small
      >
    </p>
    <p v-if="failure" class="error" role="alert">{{ failure }}</p>
    <div v-if="read" data-test="matched">
      <p v-if="read.stored" role="status">{{ read.rows }} readings stored.</p>
      <template v-else>
        <table class="list">
          <thead>
            <tr>
              <th>Column of the file</th>
              <th>is</th>
              <th>in</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="head in read.heads" :key="head">
              <td>{{ head }}</td>
              <td v-if="read.columns.time?.point === head">time</td>
              <td v-else>
                <select
                  :aria-label="`What ${head} is`"
                  :value="read.columns[head]?.point ?? ''"
                  @change="match(head, ($event.target as HTMLSelectElement).value)"
                >
                  <option value="">left out</option>
                  <option v-for="p in read.points" :key="String(p.id)" :value="p.id">{{ p.name }}</option>
                </select>
              </td>
              <td>
                <select
                  v-if="read.columns[head]?.unit"
                  :aria-label="`Unit of ${head}`"
                  :value="read.columns[head]?.unit"
                  @change="inUnit(head, ($event.target as HTMLSelectElement).value)"
                >
                  <option v-for="u in of(read.columns[head]?.point ?? '')?.units" :key="u">{{ u }}</option>
                </select>
              </td>
            </tr>
          </tbody>
        </table>
        <p>
          {{ read.rows }} readings, {{ read.first.slice(0, 19).replace('T', ' ') }} to
          {{ read.last.slice(0, 19).replace('T', ' ') }}.
        </p>
        <ul v-if="read.left_out.length" class="soft">
          <li v-for="l in read.left_out" :key="l">{{ l }}</li>
        </ul>
        <el-button
          type="primary"
          :loading="busy"
          :disabled="!read.rows"
          data-test="store"
          @click="send(true, read.columns)"
          >Store them</el-button
        >
        <el-button @click="read = null">Cancel</el-button>
      </template>
    </div>
  </section>
</template>

<style scoped>
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
.token code {
  font-size: 15px;
  word-break: break-all;
}
.token small {
  display: block;
}
</style>
