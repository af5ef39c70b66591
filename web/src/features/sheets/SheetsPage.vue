<script setup lang="ts">
import { computed, onMounted, onUnmounted, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, ask, type Schemas } from '@/api/client'
import { kept, units } from '@/shared/kept'
import { localTime } from '@/shared/session'

const rows = ref<Schemas['SheetRow'][] | null>(null)
const scenarios = ref<Schemas['ScenarioRow'][]>([])
const classes = ref<Schemas['ClassRow'][]>([])
const chosen = kept<number[]>('sheet.scenarios', [])
const draft = kept<{ title: string; class_id: number | null }>('sheet.draft', { title: '', class_id: null })
const failure = ref('')
const busy = ref(false)
const route = useRoute()
const router = useRouter()
const adding = ref(route.query.new === '1')
const picked = computed(() => chosen.value.map((id) => scenarios.value.find((s) => s.id === id)).filter((s) => s !== undefined))
const size = computed(() => classes.value.find((c) => c.id === draft.value.class_id)?.size ?? 0)
let timer = 0

async function load(): Promise<void> {
  rows.value = (await ask(api.GET('/api/v1/sheets'))).sheets
}
async function loadParts(): Promise<void> {
  scenarios.value = (await ask(api.GET('/api/v1/scenarios', { params: { query: { archived: false, units: 'us' } } }))).scenarios
  classes.value = (await ask(api.GET('/api/v1/classes'))).classes
  if (!classes.value.some((c) => c.id === draft.value.class_id)) draft.value.class_id = classes.value[0]?.id ?? null
}
async function issue(): Promise<void> {
  busy.value = true
  failure.value = ''
  try {
    const made = await ask(api.POST('/api/v1/sheets', {
      body: { title: draft.value.title, class_id: draft.value.class_id ?? 0, scenario_ids: picked.value.map((s) => s.id), units: units.value, seed: null },
    }))
    draft.value.title = ''
    chosen.value = []
    await router.push(`/sheets/${made.id}`)
  } catch (error) {
    failure.value = (error as Error).message
  } finally {
    busy.value = false
  }
}
function move(index: number, by: number): void {
  const list = [...chosen.value]
  const [one] = list.splice(index, 1)
  if (one !== undefined) list.splice(index + by, 0, one)
  chosen.value = list
}
onMounted(() => {
  Promise.all([load(), loadParts()]).catch((error: Error) => (failure.value = error.message))
  timer = window.setInterval(() => {
    if (rows.value?.some((r) => r.status === 'queued' || r.status === 'building')) void load().catch(() => undefined)
  }, 1500)
})
onUnmounted(() => window.clearInterval(timer))
</script>

<template>
  <main class="page">
    <div class="page-head"><h1>Sheets</h1><el-button v-if="!adding" type="primary" @click="adding = true">New sheet</el-button></div>
    <form v-if="adding" class="card new" @submit.prevent="issue">
      <h2>New sheet: every apprentice gets other numbers, equally hard</h2>
      <div class="two">
        <div>
          <label class="field"><span>Title</span><el-input v-model="draft.title" maxlength="120" data-test="sheet-title" /></label>
          <label class="field"><span>Class</span><el-select v-model="draft.class_id" aria-label="Class"><el-option v-for="c in classes" :key="c.id" :value="c.id" :label="`${c.name} (${c.size})`" /></el-select></label>
          <p class="soft">{{ picked.length }} calls × {{ size }} apprentices = {{ picked.length * size }} variants, in {{ units === 'us' ? '°F and psi' : '°C and kPa' }}.</p>
          <p v-if="failure" class="error" role="alert">{{ failure }}</p>
          <el-button type="primary" native-type="submit" :loading="busy" :disabled="!draft.title.trim() || !picked.length || !draft.class_id">Issue and print</el-button>
          <el-button @click="adding = false">Not now</el-button>
        </div>
        <div>
          <h2>Calls in this order</h2>
          <ol class="calls">
            <li v-for="(s, i) in picked" :key="s.id"><span><b>{{ s.title }}</b> <span class="soft">{{ s.fault_name }}</span></span>
              <span><button type="button" :disabled="i === 0" :aria-label="`Move ${s.title} up`" @click="move(i, -1)">↑</button><button type="button" :disabled="i === picked.length - 1" :aria-label="`Move ${s.title} down`" @click="move(i, 1)">↓</button></span></li>
          </ol>
          <p v-if="!picked.length" class="soft">Choose them under <RouterLink to="/library">Scenarios</RouterLink>.</p>
        </div>
      </div>
    </form>
    <p v-else-if="failure" class="error" role="alert">{{ failure }}</p>
    <div v-if="rows && !rows.length && !adding" class="empty"><p>No sheet yet. Choose scenarios, then make a sheet of them.</p><el-button type="primary" @click="router.push('/library')">Choose scenarios</el-button></div>
    <div v-else-if="rows?.length" class="card">
      <table class="list">
        <thead><tr><th>Title</th><th>Class</th><th class="right">Calls</th><th>Issued</th><th style="width: 250px">State</th></tr></thead>
        <tbody>
          <tr v-for="r in rows" :key="r.id">
            <td><RouterLink :to="`/sheets/${r.id}`"><b>{{ r.title }}</b></RouterLink></td><td>{{ r.class_name }}</td><td class="right">{{ r.calls }}</td><td class="soft">{{ localTime(r.created_at) }}</td>
            <td><template v-if="r.status === 'ready'">{{ r.marked }} of {{ r.papers }} papers marked</template><span v-else-if="r.status === 'failed'" class="error">could not be made</span><el-progress v-else :percentage="Math.round((100 * r.done) / r.total)" /></td>
          </tr>
        </tbody>
      </table>
    </div>
  </main>
</template>

<style scoped>
.new { margin-bottom: 18px; }
.two { display: grid; grid-template-columns: 1fr 1fr; gap: 28px; }
.calls { margin: 0; padding-left: 22px; }
.calls li > span { display: inline-block; }
.calls li { padding: 4px 0; }
.calls li > span:last-child { float: right; }
.calls button { border: 1px solid #8d889c; background: none; border-radius: 3px; width: 28px; height: 26px; cursor: pointer; margin-left: 4px; }
.calls button:disabled { opacity: 0.35; }
</style>
