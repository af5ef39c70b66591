<script setup lang="ts">
import { computed, onMounted, onUnmounted, ref } from 'vue'
import { useRoute } from 'vue-router'
import { api, ask, type Schemas } from '@/api/client'
import { localTime } from '@/shared/session'

const id = Number(useRoute().params.id)
const sheet = ref<Schemas['SheetRow'] | null>(null)
const results = ref<Schemas['ResultReply'] | null>(null)
const failure = ref('')
const building = computed(() => sheet.value?.status === 'queued' || sheet.value?.status === 'building')
const percent = (earned: number, possible: number) => (possible ? Math.round((100 * earned) / possible) : 0)
const calls = computed(() => results.value?.rows[0]?.cells.map((c) => c.position) ?? [])
let timer = 0

async function load(): Promise<void> {
  try {
    const path = { sheet_id: id }
    sheet.value = await ask(api.GET('/api/v1/sheets/{sheet_id}', { params: { path } }))
    if (sheet.value.status === 'ready') results.value = await ask(api.GET('/api/v1/sheets/{sheet_id}/results', { params: { path } }))
    failure.value = ''
  } catch (error) {
    failure.value = (error as Error).message
  }
}
onMounted(() => {
  void load()
  timer = window.setInterval(() => building.value && void load(), 1000)
})
onUnmounted(() => window.clearInterval(timer))
</script>

<template>
  <main class="page">
    <p v-if="failure" class="error" role="alert">{{ failure }}</p>
    <template v-if="sheet">
      <div class="page-head">
        <div><h1>{{ sheet.title }}</h1><span class="soft">{{ sheet.class_name }} · issued {{ localTime(sheet.created_at) }} · seed <span class="num">{{ sheet.seed }}</span> · solver {{ sheet.solver_version }}, tables <span class="num">{{ sheet.table_hash?.slice(0, 8) }}</span></span></div>
        <div v-if="sheet.status === 'ready'" class="doors">
          <a class="door main" :href="`/api/v1/sheets/${id}/documents/packet`" target="_blank">Packet to print</a>
          <a class="door" :href="`/api/v1/sheets/${id}/documents/key`" target="_blank">Key</a>
          <a class="door" :href="`/api/v1/sheets/${id}/marks.csv`">CSV</a>
          <RouterLink class="door" to="/marking">Mark papers</RouterLink>
        </div>
      </div>
      <div v-if="building" class="card work" role="status"><h2>Drawing variants and printing</h2><el-progress :percentage="percent(sheet.done, sheet.total)" :stroke-width="12" /><p class="soft">Go on working elsewhere; this goes on by itself.</p></div>
      <div v-else-if="sheet.status === 'failed'" class="card work" role="alert"><p class="error">This sheet could not be made.</p><p>{{ sheet.problem }}</p><RouterLink to="/library">Back to the scenarios</RouterLink></div>
      <div v-else-if="results" class="two">
        <section class="card">
          <table class="list">
            <thead><tr><th>Apprentice</th><th>Code</th><th v-for="n in calls" :key="n">Call {{ n }}</th><th class="right">Marks</th></tr></thead>
            <tbody>
              <tr v-for="r in results.rows" :key="r.code">
                <td>{{ r.name }}</td><td class="num"><RouterLink :to="`/marking/${r.code}`">{{ r.code }}</RouterLink></td>
                <td v-for="c in r.cells" :key="c.position"><span v-if="r.marked" class="cell" :aria-label="`${c.earned} of ${c.possible}`"><i :style="{ width: `${percent(c.earned, c.possible)}%` }" /><span class="num">{{ c.earned }}</span></span><span v-else class="soft">–</span></td>
                <td class="right num"><b v-if="r.marked">{{ r.earned }}/{{ r.possible }}</b><span v-else class="soft">not yet</span></td>
              </tr>
            </tbody>
          </table>
        </section>
        <section class="card">
          <h2>Missed most</h2>
          <p v-if="!results.misses.length" class="soft">Nothing missed yet.</p>
          <ol class="misses"><li v-for="m in results.misses" :key="`${m.position}${m.question}`"><span>{{ m.text }} <small class="soft">call {{ m.position }}</small></span><b class="num">{{ m.missed }} of {{ m.of }}</b><i :style="{ width: `${percent(m.missed, m.of)}%` }" /></li></ol>
        </section>
      </div>
    </template>
  </main>
</template>

<style scoped>
.doors { display: flex; gap: 8px; flex-shrink: 0; }
.door { padding: 7px 14px; border: 1px solid var(--violet); border-radius: 3px; text-decoration: none; font-weight: 600; }
.door.main { background: var(--violet); color: #fff; }
.two { display: grid; grid-template-columns: minmax(0, 1fr) 320px; gap: 16px; align-items: start; }
.work { max-width: 640px; }
.cell { position: relative; display: block; width: 92px; height: 24px; background: #ece7dc; border-radius: 2px; overflow: hidden; }
.cell i { position: absolute; inset: 0 auto 0 0; background: #c3b8e6; }
.cell span { position: relative; padding-left: 8px; line-height: 24px; }
.misses { list-style: none; margin: 0; padding: 0; }
.misses li { display: grid; grid-template-columns: 1fr auto; gap: 2px 8px; padding: 6px 0; border-bottom: 1px solid var(--line); font-size: 14px; }
.misses i { grid-column: 1 / -1; height: 6px; background: var(--violet); border-radius: 2px; }
</style>
