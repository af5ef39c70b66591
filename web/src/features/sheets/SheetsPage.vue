<script setup lang="ts">
import { computed, onMounted, onUnmounted, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, ask, type Schemas, sentence } from '@/api/client'
import { kept, units } from '@/shared/kept'
import { localTime, user } from '@/shared/session'
import { plainCall } from './draft'
import { vFocus } from '@/shared/focus'
import RowsSkeleton from '@/shared/RowsSkeleton.vue'

const rows = ref<Schemas['SheetRow'][] | null>(null)
const classes = ref<Schemas['ClassRow'][] | null>(null)
const chosen = kept<number[]>('sheet.scenarios', [])
const draft = kept<{ title: string; class_id: number | null }>('sheet.draft', { title: '', class_id: null })
const failure = ref('')
const busy = ref(false)
const route = useRoute()
const router = useRouter()
const teaches = computed(() => user.value?.role === 'instructor')
const adding = ref(route.query.new === '1')
const WORDS: Record<string, string> = {
  draft: 'draft, not issued',
  failed: 'could not be made',
  cancelled: 'cancelled',
  cancelling: 'stopping',
}
let timer = 0

async function load(): Promise<void> {
  rows.value = (await ask(api.GET('/api/v1/sheets'))).sheets
}
async function loadClasses(): Promise<void> {
  const { classes: found } = await ask(api.GET('/api/v1/classes', { params: { query: { archived: false } } }))
  classes.value = found
  if (!found.some((c) => c.id === draft.value.class_id)) draft.value.class_id = found[0]?.id ?? null
}
async function start(): Promise<void> {
  busy.value = true
  failure.value = ''
  try {
    const made = await ask(
      api.POST('/api/v1/sheets', {
        body: {
          title: draft.value.title,
          class_id: draft.value.class_id ?? 0,
          items: chosen.value.map(plainCall),
          scenario_ids: null,
          units: units.value,
          paper: null,
          seed: null,
          draft: true,
          large: false,
        },
      }),
    )
    draft.value.title = ''
    chosen.value = []
    await router.push(`/sheets/${made.id}`)
  } catch (error) {
    failure.value = sentence(error)
  } finally {
    busy.value = false
  }
}
onMounted(() => {
  Promise.all([load(), teaches.value ? loadClasses() : null]).catch((error: Error) => (failure.value = error.message))
  timer = window.setInterval(() => {
    if (rows.value?.some((r) => ['queued', 'building', 'cancelling'].includes(r.status)))
      void load().catch(() => undefined)
  }, 1500)
})
onUnmounted(() => window.clearInterval(timer))
</script>

<template>
  <main class="page">
    <div class="page-head">
      <h1>Sheets</h1>
      <el-button v-if="!adding && teaches" type="primary" @click="adding = true">New sheet</el-button>
    </div>
    <form v-if="adding" class="card new" @submit.prevent="start">
      <h2>New sheet: every apprentice gets different numbers, equally hard</h2>
      <div class="line">
        <label class="field"
          ><span>Title</span><el-input v-model="draft.title" v-focus maxlength="120" data-test="sheet-title"
        /></label>
        <label class="field"
          ><span>Class</span
          ><select v-model="draft.class_id" aria-label="Class" data-test="sheet-class">
            <option v-for="c in classes" :key="c.id" :value="c.id">
              {{ c.name }}{{ c.term ? `, ${c.term}` : '' }} ({{ c.size }})
            </option>
          </select></label
        >
        <el-button
          type="primary"
          native-type="submit"
          :loading="busy"
          :disabled="!draft.title.trim() || !draft.class_id"
          >{{ chosen.length ? `Start with ${chosen.length} from the library` : 'Start' }}</el-button
        >
        <el-button @click="adding = false">Cancel</el-button>
      </div>
      <p v-if="classes && !classes.length" class="soft">
        No class yet: <RouterLink to="/classes">add one first</RouterLink>.
      </p>
      <p class="soft">
        Next you put calls on it: from a one-sentence request, from the library, drills, or a fault set on a rig.
      </p>
      <p v-if="failure" class="error" role="alert">{{ failure }}</p>
    </form>
    <p v-else-if="failure" class="error" role="alert">{{ failure }}</p>
    <RowsSkeleton v-if="!rows && !failure" :cards="3" />
    <div v-if="rows && !rows.length && !adding" class="empty">
      <p>No sheet yet. A title and a class are all it takes to start one.</p>
      <el-button v-if="teaches" type="primary" @click="adding = true">New sheet</el-button>
    </div>
    <div v-else-if="rows?.length" class="card">
      <table class="list rows">
        <thead>
          <tr>
            <th>Title</th>
            <th>Class</th>
            <th class="right">Calls</th>
            <th>Issued</th>
            <th style="width: 250px">State</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="r in rows" :key="r.id">
            <td>
              <RouterLink :to="`/sheets/${r.id}`"
                ><b>{{ r.title }}</b></RouterLink
              >
            </td>
            <td>{{ r.class_name }}</td>
            <td class="right">{{ r.calls }}</td>
            <td class="soft">{{ r.status === 'draft' ? '' : localTime(r.created_at) }}</td>
            <td>
              <template v-if="r.status === 'ready'">{{ r.marked }} of {{ r.papers }} papers marked</template
              ><span v-else-if="WORDS[r.status]" :class="{ error: r.status === 'failed' }">{{ WORDS[r.status] }}</span
              ><el-progress v-else :percentage="Math.round((100 * r.done) / r.total)" />
            </td>
          </tr>
        </tbody>
      </table>
    </div>
  </main>
</template>

<style scoped>
.new {
  margin-bottom: 18px;
}
.line {
  display: flex;
  gap: 14px;
  align-items: end;
  flex-wrap: wrap;
}
.line .field {
  flex: 1 1 240px;
  margin: 0;
}
</style>
