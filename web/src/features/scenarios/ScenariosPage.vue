<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, type Schemas } from '@/api/client'
import { kept } from '@/shared/kept'
import { localTime } from '@/shared/session'

const rows = ref<Schemas['ScenarioRow'][] | null>(null)
const chosen = kept<number[]>('sheet.scenarios', [])
const failure = ref('')
const router = useRouter()

async function load(): Promise<void> {
  try {
    rows.value = (await ask(api.GET('/api/v1/scenarios'))).scenarios
    chosen.value = chosen.value.filter((id) => rows.value?.some((r) => r.id === id))
  } catch (error) {
    failure.value = (error as Error).message
  }
}
async function archive(row: Schemas['ScenarioRow']): Promise<void> {
  try {
    rows.value = (await ask(api.DELETE('/api/v1/scenarios/{scenario_id}', { params: { path: { scenario_id: row.id } } }))).scenarios
    chosen.value = chosen.value.filter((id) => id !== row.id)
  } catch (error) {
    failure.value = (error as Error).message
  }
}
onMounted(load)
</script>

<template>
  <main class="page">
    <div class="page-head">
      <h1>Scenarios</h1>
      <el-button type="primary" :disabled="!chosen.length" @click="router.push('/sheets?new=1')">Make a sheet of {{ chosen.length || 'the chosen' }}</el-button>
    </div>
    <p v-if="failure" class="error" role="alert">{{ failure }}</p>
    <div v-if="rows && !rows.length" class="empty"><p>No scenario yet. Plant a fault on the bench and save it.</p><el-button type="primary" @click="router.push('/bench')">Go to the bench</el-button></div>
    <div v-else-if="rows" class="card">
      <table class="list">
        <thead><tr><th><span class="off">On the next sheet</span></th><th>Title</th><th>Machine</th><th>Fault</th><th>Severity</th><th>Saved</th><th></th></tr></thead>
        <tbody>
          <tr v-for="r in rows" :key="r.id">
            <td><input :id="`s${r.id}`" v-model="chosen" type="checkbox" :value="r.id" /></td>
            <td><label :for="`s${r.id}`"><b>{{ r.title }}</b></label></td>
            <td>{{ r.machine_name }}</td><td>{{ r.fault_name }}</td><td class="soft">{{ r.severity_text || '–' }}</td>
            <td class="soft">{{ localTime(r.created_at) }}<small v-if="r.version > 1"> · version {{ r.version }}</small></td>
            <td class="right tools"><el-button size="small" @click="router.push(`/bench?scenario=${r.id}`)">Open</el-button><el-button size="small" @click="archive(r)">Archive</el-button></td>
          </tr>
        </tbody>
      </table>
    </div>
  </main>
</template>

<style scoped>
.tools { white-space: nowrap; }
input { width: 18px; height: 18px; accent-color: var(--violet); }
.off { position: absolute; width: 1px; height: 1px; overflow: hidden; clip-path: inset(50%); }
</style>
