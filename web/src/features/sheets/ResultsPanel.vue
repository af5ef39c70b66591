<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { api, ask, type Schemas, sentence } from '@/api/client'
import { user } from '@/shared/session'
import FileButton from '@/shared/FileButton.vue'
import PointsCard from './PointsCard.vue'

const props = defineProps<{ sheet: Schemas['SheetRow'] }>()
defineEmits<{ exclude: [position: number] }>()
const results = ref<Schemas['ResultReply'] | null>(null)
const failure = ref('')
const said = ref('')
const askedBack = ref<Schemas['AskedBackRow'][]>([])
const open = ref(false)
const text = ref('')
const teaches = computed(() => user.value?.role === 'instructor')
const percent = (earned: number, possible: number) => (possible ? Math.round((100 * earned) / possible) : 0)
const calls = computed(() => results.value?.rows[0]?.cells.map((c) => c.position) ?? [])
/** Points of a call; where papers differ, the most that one is worth. */
const worth = (position: number) =>
  Math.max(...(results.value?.rows.map((r) => r.cells.find((c) => c.position === position)?.possible ?? 0) ?? [0]))
/** Whether a call counts for nobody. */
const left = (position: number) => props.sheet.items.find((i) => i.position === position)?.rules.excluded === true
/** How many calls of a paper are marked: a half of it is no whole that was lost. */
const markedCalls = (row: Schemas['ResultRow']) => row.cells.filter((c) => c.marked).length
const at = { params: { path: { sheet_id: props.sheet.id } } }

async function load(): Promise<void> {
  try {
    results.value = await ask(api.GET('/api/v1/sheets/{sheet_id}/results', at))
  } catch (error) {
    failure.value = sentence(error)
  }
}
async function take(event: Event): Promise<void> {
  const file = (event.target as HTMLInputElement).files?.[0]
  if (file) text.value = await file.text()
}
async function readIn(): Promise<void> {
  failure.value = said.value = ''
  askedBack.value = []
  try {
    const done = await ask(api.POST('/api/v1/sheets/{sheet_id}/answers', { ...at, body: { text: text.value } }))
    said.value = `${done.answers} answers on ${done.papers} papers are saved and marked.`
    askedBack.value = done.not_understood ?? []
    text.value = ''
    open.value = false
    await load()
  } catch (error) {
    failure.value = sentence(error)
  }
}
onMounted(load)
</script>

<template>
  <p v-if="failure" class="error" role="alert">{{ failure }}</p>
  <p v-if="said" role="status">{{ said }}</p>
  <ul v-if="askedBack.length" class="error" data-test="asked-back">
    <li v-for="row in askedBack" :key="`${row.code}${row.call}${row.question}`">
      {{ row.code }}, call {{ row.call }}, {{ row.question.replaceAll('_', ' ') }}: {{ row.said }}
    </li>
  </ul>
  <div v-if="results" class="two">
    <section class="card wide">
      <table class="list">
        <thead>
          <tr>
            <th>Apprentice</th>
            <th>Code</th>
            <th v-for="n in calls" :key="n">
              Call {{ n }} <span class="soft worth">{{ left(n) ? 'excluded' : `${worth(n)} points` }}</span><button
                v-if="teaches"
                type="button"
                class="exclude"
                :data-test="`exclude-${n}`"
                @click="$emit('exclude', n)"
              >
                {{ left(n) ? 'count it' : 'exclude' }}
              </button>
            </th>
            <th class="right">Marks</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="r in results.rows" :key="r.code">
            <td>
              <RouterLink v-if="teaches" :to="`/apprentices/${r.apprentice_id}`">{{ r.name }}</RouterLink><template
                v-else
                >{{ r.name }}</template
              ><small v-if="r.attempt > 1" class="soft"> attempt {{ r.attempt }}</small>
            </td>
            <td class="num">
              <RouterLink :to="`/marking/${r.code}`">{{ r.code }}</RouterLink>
            </td>
            <td v-for="c in r.cells" :key="c.position">
              <span v-if="c.marked" class="cell" :aria-label="`${c.earned} of ${c.possible}`"
                ><i :style="{ width: `${percent(c.earned, c.possible)}%` }" /><span class="num">{{
                  c.earned
                }}</span></span
              ><span v-else class="soft">–</span>
            </td>
            <td class="right num">
              <small v-if="r.to_confirm" class="soft">{{ r.to_confirm }} to confirm </small
              ><template v-if="r.marked"
                ><b>{{ r.earned }}/{{ r.possible }}</b
                ><small v-if="markedCalls(r) < r.cells.length" class="soft partly"
                  >{{ markedCalls(r) }} of {{ r.cells.length }} calls marked</small
                ></template
              ><span v-else class="soft">not yet</span>
            </td>
          </tr>
        </tbody>
      </table>
    </section>
    <div class="side">
      <section class="card">
        <h2>Missed most</h2>
        <p v-if="!results.misses.length" class="soft">Nothing missed yet.</p>
        <ol class="misses">
          <li v-for="m in results.misses" :key="`${m.position}${m.question}`">
            <span
              >{{ m.text }} <small class="soft">call {{ m.position }}</small></span
            ><b class="num">{{ m.missed }} of {{ m.of }}</b
            ><i :style="{ width: `${percent(m.missed, m.of)}%` }" />
          </li>
        </ol>
        <p v-if="teaches">
          <RouterLink :to="`/classes/${sheet.class_id}/results`">The class over the term</RouterLink>
        </p>
      </section>
      <PointsCard :sheet="sheet.id" :sends="teaches" />
      <section class="card">
        <h2>Files</h2>
        <p v-if="teaches" class="files">
          <a :href="`/api/v1/sheets/${sheet.id}/marks.csv`">Marks as CSV</a>
          <a :href="`/api/v1/classes/${sheet.class_id}/gradebook.xlsx`">Gradebook XLSX</a>
          <a :href="`/api/v1/classes/${sheet.class_id}/gradebook.csv`">Gradebook CSV</a>
          <a :href="`/api/v1/sheets/${sheet.id}/qti.zip`">QTI package</a>
        </p>
        <el-button @click="open = !open">Import answers</el-button>
        <form v-if="open" class="csv" @submit.prevent="readIn">
          <p class="soft">
            A CSV whose first line names code, call, question, answer. All lines are imported, or none.
          </p>
          <FileButton accept=".csv,text/csv" aria-label="CSV file" @change="take">Take a CSV file</FileButton>
          <el-input v-model="text" type="textarea" :rows="5" aria-label="CSV of answers" />
          <el-button type="primary" native-type="submit" :disabled="!text.trim()">Save and mark</el-button>
        </form>
      </section>
    </div>
  </div>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 320px;
  gap: 16px;
  align-items: start;
}
.wide {
  overflow-x: auto;
}
.wide :deep(th),
.wide :deep(td) {
  padding-inline: 8px;
}
.partly {
  display: block;
}
.exclude {
  border: 0;
  background: none;
  padding: 0;
  min-height: 24px;
  color: var(--violet);
  text-decoration: underline;
  cursor: pointer;
  font-size: 12.5px;
}
.worth {
  display: block;
  white-space: nowrap;
}
.side {
  display: grid;
  gap: 14px;
}
.cell {
  position: relative;
  display: block;
  min-width: 40px;
  max-width: 92px;
  height: 24px;
  background: var(--el-fill-color);
  border-radius: 2px;
  overflow: hidden;
}
.cell i {
  position: absolute;
  inset: 0 auto 0 0;
  background: var(--violet-line);
}
.cell span {
  position: relative;
  padding-left: 8px;
  line-height: 24px;
}
.misses {
  list-style: none;
  margin: 0;
  padding: 0;
}
.misses li {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 2px 8px;
  padding: 6px 0;
  border-bottom: 1px solid var(--line);
  font-size: 14px;
}
.misses i {
  grid-column: 1 / -1;
  height: 6px;
  background: var(--violet);
  border-radius: 2px;
}
.files {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  margin: 0 0 10px;
}
.csv {
  display: grid;
  gap: 8px;
  margin-top: 8px;
}
@media (max-width: 900px) {
  .two {
    grid-template-columns: 1fr;
  }
}
</style>
