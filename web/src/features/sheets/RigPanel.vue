<script setup lang="ts">
import { onMounted, ref, watch } from 'vue'
import { api, ask, type Schemas, sentence } from '@/api/client'
import { kept } from '@/shared/kept'
import { localTime } from '@/shared/session'
import AtRig from './AtRig.vue'
import MovesTable from './MovesTable.vue'

const props = defineProps<{ sheet: Schemas['SheetRow']; rigs: Schemas['ItemRow'][] }>()
const position = ref(props.rigs[0]?.position ?? 1)
const seen = ref<Schemas['MeasurementReply'] | null>(null)
/** What is typed and not confirmed yet, by sheet and call; it survives a reload. */
const typed = kept<Record<string, Record<string, string>>>('rig.typed', {})
const key = () => `${props.sheet.id}.${position.value}`
const values = ref<Record<string, string>>({})
const reply = ref<Schemas['MeasureReply'] | null>(null)
const failure = ref('')
const path = () => ({ params: { path: { sheet_id: props.sheet.id, position: position.value } } })

async function load(): Promise<void> {
  failure.value = ''
  reply.value = null
  try {
    seen.value = await ask(api.GET('/api/v1/sheets/{sheet_id}/measurements/{position}', path()))
    values.value = Object.fromEntries(
      seen.value.rows.map((r) => [r.key, typed.value[key()]?.[r.key] ?? (r.value === null ? '' : String(r.value))]),
    )
  } catch (error) {
    failure.value = sentence(error)
  }
}
function keep(): void {
  typed.value[key()] = { ...values.value }
  reply.value = null
}
async function send(confirmed: boolean): Promise<void> {
  failure.value = ''
  const readings: Record<string, number | null> = {}
  for (const [name, raw] of Object.entries(values.value)) {
    const text = raw.trim().replace(',', '.').replace('−', '-')
    if (!text) continue
    if (!/^-?\d+(\.\d+)?$/.test(text)) {
      failure.value = `${name.replace(/_/g, ' ')} “${raw}” is not a number`
      return
    }
    readings[name] = Number(text)
  }
  try {
    reply.value = await ask(
      api.PUT('/api/v1/sheets/{sheet_id}/measurements/{position}', { ...path(), body: { readings, confirmed } }),
    )
    if (confirmed) {
      delete typed.value[key()]
      seen.value = await ask(api.GET('/api/v1/sheets/{sheet_id}/measurements/{position}', path()))
    }
  } catch (error) {
    failure.value = sentence(error)
  }
}
watch(position, load, { immediate: true })

/** A rig's logger gives the readings of its settled stretch. */
const known = ref<Schemas['RigRow'][]>([])
const from = ref(0)
const told = ref<string[]>([])
onMounted(async () => {
  try {
    const found = await ask(api.GET('/api/v1/rigs', { params: { query: { units: 'us' } } }))
    known.value = found.rigs.filter((r) => r.logged)
    from.value = known.value.find((r) => r.settled_min > 0)?.id ?? known.value[0]?.id ?? 0
  } catch {
    known.value = []
  }
})
async function take(): Promise<void> {
  failure.value = ''
  try {
    const query = { units: props.sheet.units as 'us' | 'si' }
    const found = await ask(
      api.GET('/api/v1/rigs/{rig_id}/frozen', { params: { path: { rig_id: from.value }, query } }),
    )
    for (const row of seen.value?.rows ?? []) {
      const read = found.readings[row.key]
      if (read !== undefined) values.value[row.key] = String(read)
    }
    told.value = [`${found.minutes} settled minutes taken.`, ...found.astray, found.answer].filter(Boolean)
    keep()
  } catch (error) {
    failure.value = sentence(error)
  }
}
</script>

<template>
  <div class="two">
    <form v-if="seen" class="card" @submit.prevent="send(false)">
      <label v-if="rigs.length > 1" class="field"
        ><span>Rig</span
        ><select v-model="position" aria-label="Rig">
          <option v-for="i in rigs" :key="i.position" :value="i.position">Call {{ i.position }} · {{ i.title }}</option>
        </select></label
      >
      <h2>Call {{ seen.position }} · {{ seen.title }}: what the rig actually read</h2>
      <p v-if="seen.entered_at" class="soft">Last entered by {{ seen.writer }}, {{ localTime(seen.entered_at) }}.</p>
      <p v-if="known.length" class="take">
        <select v-model.number="from" aria-label="From which rig">
          <option v-for="r in known" :key="r.id" :value="r.id">{{ r.name }} · {{ r.machine_name }}</option></select
        ><el-button size="small" data-test="take-rig" @click="take">Take its settled readings</el-button>
      </p>
      <p v-for="t in told" :key="t" role="status" class="soft">{{ t }}</p>
      <table class="list">
        <thead>
          <tr>
            <th>Reading</th>
            <th class="right">Predicted</th>
            <th class="right">Rig</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="r in seen.rows" :key="r.key">
            <td>
              <label :for="`rig-${r.key}`">{{ r.label }}{{ r.needed ? ' *' : '' }}</label>
            </td>
            <td class="right num soft">{{ r.predicted }}</td>
            <td class="right">
              <input
                :id="`rig-${r.key}`"
                v-model="values[r.key]"
                autocomplete="off"
                inputmode="decimal"
                @input="keep"
              />
              <span class="soft">{{ r.unit }}</span>
            </td>
          </tr>
        </tbody>
      </table>
      <p class="soft">* needed before the class can be marked</p>
      <p v-if="failure" class="error" role="alert">{{ failure }}</p>
      <el-button type="primary" native-type="submit" data-test="check-rig">Check</el-button>
    </form>
    <section class="card">
      <h2>Worked out</h2>
      <p v-if="!reply" class="soft">
        Readings are checked against each other, the nameplate, the weather and the model before anybody is marked.
      </p>
      <template v-else>
        <ul v-if="reply.warnings.length" class="warn" data-test="warnings">
          <li v-for="w in reply.warnings" :key="w">{{ w }}</li>
        </ul>
        <p v-else data-test="warnings">Nothing contradicts the nameplate, the weather or the model.</p>
        <table class="list figures">
          <thead>
            <tr>
              <th>Figure</th>
              <th class="right">Rig</th>
              <th class="right">Predicted</th>
              <th>Is</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="f in reply.figures" :key="f.name">
              <td>{{ f.name }}</td>
              <td class="right num">
                <b>{{ f.now }}</b>
              </td>
              <td class="right num soft">{{ f.predicted }}</td>
              <td>{{ f.verdict }}</td>
            </tr>
          </tbody>
        </table>
        <MovesTable :moves="reply.moves" :done="reply.confirmed" />
        <p v-if="reply.confirmed" role="status"><b>The class is marked against these readings.</b></p>
        <el-button v-else type="primary" data-test="mark-rig" @click="send(true)"
          >Mark the class against the rig</el-button
        >
      </template>
    </section>
    <AtRig
      v-if="known.length && seen?.entered_at"
      :sheet-id="sheet.id"
      :position="seen.position"
      :rig-id="from"
      :times="seen.times"
      @changed="load"
    />
  </div>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: 520px minmax(0, 1fr);
  gap: 16px;
  align-items: start;
}
.list td {
  padding: 4px 8px;
}
input {
  width: 84px;
  font: 700 15px var(--mono);
  padding: 4px 7px;
  border: 1px solid var(--edge);
  border-radius: 3px;
  background: var(--white);
}
.take {
  display: flex;
  gap: 8px;
  align-items: center;
}
td input {
  margin-right: 5px;
}
.warn {
  border-left: 4px solid var(--amber);
  padding: 4px 0 4px 26px;
  margin: 0 0 12px;
}
.figures {
  margin-bottom: 12px;
}
@media (max-width: 1000px) {
  .two {
    grid-template-columns: 1fr;
  }
}
</style>
