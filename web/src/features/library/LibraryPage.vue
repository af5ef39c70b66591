<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, type Schemas, sentence } from '@/api/client'
import { kept, units } from '@/shared/kept'
import FileButton from '@/shared/FileButton.vue'
import VersionsPanel from './VersionsPanel.vue'
import { choices, ids, EVERYTHING, found, read } from './find'
import RowsSkeleton from '@/shared/RowsSkeleton.vue'

type Row = Schemas['ScenarioRow']
const rows = ref<Row[] | null>(null)
const chosen = kept<number[]>('sheet.scenarios', [])
const wanted = kept('library.wanted', { ...EVERYTHING })
const archived = ref(false)
const unfolded = ref(0)
const failure = ref('')
const said = ref('')
const refused = ref<Schemas['Refused'][]>([])
const router = useRouter()
const shown = computed(() => found(rows.value ?? [], wanted.value))
const narrowed = computed(() => JSON.stringify(wanted.value) !== JSON.stringify(EVERYTHING))
const tags = computed(() => choices(rows.value ?? [], (r) => r.tags))
const machines = computed(() => choices(rows.value ?? [], (r) => [r.machine_name]))
const faults = computed(() => choices(rows.value ?? [], ids))
const words = (id: string) => id.replace(/_/g, ' ')
const exported = computed(() => `/api/v1/scenarios/files?ids=${chosen.value.join(',')}`)

async function run(work: () => Promise<unknown>): Promise<void> {
  failure.value = said.value = ''
  try {
    await work()
    await load()
  } catch (error) {
    failure.value = sentence(error)
  }
}
async function load(): Promise<void> {
  rows.value = (
    await ask(api.GET('/api/v1/scenarios', { params: { query: { archived: archived.value, units: units.value } } }))
  ).scenarios
  void prove(rows.value)
  if (!archived.value) chosen.value = chosen.value.filter((id) => rows.value?.some((r) => r.id === id))
}
/** What came in unproved is proved here one after the other, and no longer once the page is left or the list is another one. */
async function prove(list: Row[]): Promise<void> {
  for (const row of list.filter((r) => !r.proof && !r.archived)) {
    if (rows.value !== list) return
    try {
      const done = await ask(
        api.PUT('/api/v1/scenarios/{scenario_id}/proof', { params: { path: { scenario_id: row.id } } }),
      )
      Object.assign(row, { proof: done.proof, level: done.level, one_answer: done.one_answer })
    } catch {
      return
    }
  }
}
const at = (row: Row) => ({ params: { path: { scenario_id: row.id } } })
const archive = (row: Row) =>
  run(async () => {
    await ask(api.DELETE('/api/v1/scenarios/{scenario_id}', at(row)))
    said.value = `“${row.title}” is archived; issued sheets keep it.`
  })
const restore = (row: Row) => run(() => ask(api.POST('/api/v1/scenarios/{scenario_id}/restore', at(row))))
const copy = (row: Row) => run(() => ask(api.POST('/api/v1/scenarios/{scenario_id}/copy', at(row))))
const share = (row: Row) =>
  run(() => ask(api.PUT('/api/v1/scenarios/{scenario_id}/sharing', { ...at(row), body: { shared: !row.shared } })))
const flip = () => run(async () => (archived.value = !archived.value))

async function take(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement
  const files = [...(input.files ?? [])]
  await run(async () => {
    const lists = await Promise.all(files.map(async (file) => read(file.name, await file.text())))
    const reply = await ask(api.POST('/api/v1/scenarios/import', { body: { scenarios: lists.flat() } }))
    refused.value = reply.refused
    said.value = `${reply.added.length} ${reply.added.length === 1 ? 'scenario' : 'scenarios'} imported.`
  })
  input.value = ''
}
onMounted(() => run(async () => undefined))
watch(units, () => run(async () => undefined))
onBeforeUnmount(() => (rows.value = null))
</script>

<template>
  <main class="page wide">
    <div class="page-head">
      <h1>Library{{ archived ? ', archived' : '' }}</h1>
      <span class="acts">
        <el-button @click="flip">{{ archived ? 'Back to the library' : 'Archived' }}</el-button>
        <FileButton accept=".json,application/json" multiple data-test="import" @change="take">Import files</FileButton>
        <a v-if="chosen.length && !archived" class="as-button" :href="exported" download data-test="export"
          >Export {{ chosen.length }}</a
        >
        <el-button type="primary" :disabled="!chosen.length" @click="router.push('/sheets?new=1')"
          >Make a sheet of {{ chosen.length || 'the chosen' }}</el-button
        >
      </span>
    </div>
    <p v-if="failure" class="error" role="alert">{{ failure }}</p>
    <p v-if="said" role="status" data-test="said">{{ said }}</p>
    <ul v-if="refused.length" class="error">
      <li v-for="r in refused" :key="r.position">{{ r.position }}. {{ r.title }}: {{ r.message }}</li>
    </ul>
    <div class="find card">
      <input
        v-model="wanted.text"
        type="search"
        aria-label="Search"
        placeholder="Search title, fault, machine, tag, story"
        data-test="search"
      />
      <select v-model="wanted.level" aria-label="Level">
        <option value="">every level</option>
        <option v-for="n in 5" :key="n" :value="String(n)">level {{ n }}</option>
      </select>
      <select v-model="wanted.fault" aria-label="Fault">
        <option value="">every fault</option>
        <option value="none">nothing wrong</option>
        <option v-for="f in faults" :key="f" :value="f">{{ words(f) }}</option>
      </select>
      <select v-model="wanted.machine" aria-label="Machine">
        <option value="">every machine</option>
        <option v-for="m in machines" :key="m">{{ m }}</option>
      </select>
      <select v-model="wanted.tag" aria-label="Tag">
        <option value="">every tag</option>
        <option v-for="t in tags" :key="t">{{ t }}</option>
      </select>
      <select v-model="wanted.whose" aria-label="Whose">
        <option value="all">mine and shared</option>
        <option value="mine">mine</option>
        <option value="shared">colleagues'</option>
      </select>
      <button v-if="narrowed" type="button" class="plain" @click="wanted = { ...EVERYTHING }">show all</button>
    </div>
    <RowsSkeleton v-if="!rows && !failure" :cards="3" />
    <div v-if="rows && !rows.length" class="empty">
      <p>{{ archived ? 'Nothing is archived.' : 'No scenario yet. Add a fault on the bench and save it.' }}</p>
      <el-button v-if="!archived" type="primary" @click="router.push('/bench')">Go to the bench</el-button>
    </div>
    <div v-else-if="rows && !shown.length" class="empty">
      <p>Nothing matches your search.</p>
      <el-button @click="wanted = { ...EVERYTHING }">Show all {{ rows.length }}</el-button>
    </div>
    <div v-else-if="rows" class="card">
      <table class="list rows">
        <thead>
          <tr>
            <th><span class="off">Chosen</span></th>
            <th>Title</th>
            <th>Fault</th>
            <th>Level</th>
            <th>Proof</th>
            <th><span class="off">What to do with it</span></th>
          </tr>
        </thead>
        <tbody>
          <template v-for="r in shown" :key="r.id">
            <tr>
              <td><input :id="`s${r.id}`" v-model="chosen" type="checkbox" :value="r.id" :disabled="archived" /></td>
              <td>
                <label :for="`s${r.id}`"
                  ><b>{{ r.title }}</b></label
                ><small class="soft">{{ r.machine_name }}</small
                ><small
                  ><template v-if="r.tags.length"
                    ><i v-for="t in r.tags" :key="t" class="tag">{{ t }}</i></template
                  ><span v-if="!r.mine" class="soft">{{ r.owner }}</span
                  ><span v-else-if="r.shared" class="soft">shared</span
                  ><span v-if="!r.on_paper" class="soft"> bench only</span></small
                >
              </td>
              <td>
                {{ r.fault_name }}<small class="soft">{{ r.severity_text }}</small>
              </td>
              <td>
                <span v-if="r.level" class="level" role="img" :aria-label="`Level ${r.level} of 5`"
                  ><i v-for="n in 5" :key="n" :class="{ on: n <= r.level }" /></span
                ><span v-else class="soft">–</span>
              </td>
              <td :class="['proof', { one: r.one_answer, open: r.one_answer === false }]">
                {{ r.proof || 'Proving…' }}
              </td>
              <td class="tools">
                <template v-if="!archived"
                  ><el-button
                    size="small"
                    :aria-label="`Open ${r.title}`"
                    @click="router.push(`/bench?scenario=${r.id}`)"
                    >Open</el-button
                  ><el-button size="small" :aria-label="`Duplicate ${r.title}`" @click="copy(r)"
                    >Duplicate</el-button
                  ></template
                >
                <el-button
                  size="small"
                  :aria-expanded="unfolded === r.id"
                  :aria-label="`v${r.version}: versions of ${r.title}`"
                  @click="unfolded = unfolded === r.id ? 0 : r.id"
                  >v{{ r.version }}</el-button
                >
                <template v-if="r.mine && !archived"
                  ><el-button
                    size="small"
                    :aria-label="`${r.shared ? 'Unshare' : 'Share'} ${r.title}`"
                    @click="share(r)"
                    >{{ r.shared ? 'Unshare' : 'Share' }}</el-button
                  ><el-button size="small" :aria-label="`Archive ${r.title}`" @click="archive(r)"
                    >Archive</el-button
                  ></template
                >
                <el-button v-if="r.mine && archived" size="small" @click="restore(r)">Restore</el-button>
              </td>
            </tr>
            <tr v-if="unfolded === r.id">
              <td colspan="6"><VersionsPanel :row="r" @changed="run(async () => undefined)" /></td>
            </tr>
          </template>
        </tbody>
      </table>
    </div>
  </main>
</template>

<style scoped>
.wide {
  max-width: 1480px;
  padding-top: 16px;
}
.page-head {
  margin-bottom: 10px;
}
.acts {
  display: flex;
  gap: 8px;
  align-items: center;
}
.acts .el-button {
  margin: 0;
}
.find {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  padding: 8px 12px;
  margin-bottom: 10px;
}
.find input {
  flex: 1;
  min-width: 190px;
}
.find select {
  max-width: 170px;
}
.plain {
  border: 0;
  background: none;
  color: var(--violet);
  cursor: pointer;
}
.tools {
  white-space: nowrap;
  text-align: right;
}
.tools .el-button {
  margin-left: 4px;
  padding: 5px 8px;
}
td {
  font-size: 14px;
}
td small {
  display: block;
  font-size: 12px;
  line-height: 1.3;
}
.list th:nth-child(2) {
  width: 27%;
}
.list th:nth-child(3) {
  width: 20%;
}
.tag {
  white-space: nowrap;
  display: inline-block;
  font-style: normal;
  background: var(--violet-soft);
  border-radius: 8px;
  padding: 0 7px;
  margin-right: 4px;
}
.level {
  display: inline-flex;
  gap: 2px;
}
.level i {
  width: 8px;
  height: 15px;
  background: var(--violet-edge);
  border-radius: 1px;
}
.level i.on {
  background: var(--violet);
}
.proof {
  font-size: 12.5px;
}
.proof.one {
  color: var(--good);
}
.proof.open {
  color: var(--amber);
}
input[type='checkbox'] {
  width: 18px;
  height: 18px;
  accent-color: var(--violet);
}
</style>
