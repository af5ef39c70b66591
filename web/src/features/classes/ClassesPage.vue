<script setup lang="ts">
import { computed, onMounted, ref, watch } from 'vue'
import { api, ask, type Schemas, sentence } from '@/api/client'
import { kept } from '@/shared/kept'
import { useLater } from '@/shared/later'
import PeopleTable from './PeopleTable.vue'

type Person = Schemas['Person']
const rows = ref<Schemas['ClassRow'][]>([])
const open = ref<Schemas['ClassRow'] | null>(null)
const archived = ref(false)
const draft = kept('class.draft', { name: '', term: '', list: '' })
const adding = ref(false)
const roster = ref<{ people: Person[]; problems: string[] }>({ people: [], problems: [] })
const failure = ref('')
const terms = computed(() => [...new Set(rows.value.map((c) => c.term))])
const rest = useLater(250)

async function load(): Promise<void> {
  rows.value = (await ask(api.GET('/api/v1/classes', { params: { query: { archived: archived.value } } }))).classes
  if (!rows.value.some((c) => c.id === open.value?.id)) open.value = null
  if (!open.value && rows.value[0]) await show(rows.value[0].id)
  if (!rows.value.length) adding.value = !archived.value
}
async function show(id: number): Promise<void> {
  open.value = await ask(api.GET('/api/v1/classes/{class_id}', { params: { path: { class_id: id } } }))
}
/** A class somebody chose; what the page shows by itself never closes a form that is open. */
async function pick(id: number): Promise<void> {
  await show(id)
  adding.value = false
}
async function run(work: () => Promise<Schemas['ClassRow'] | null>): Promise<void> {
  failure.value = ''
  try {
    const made = await work()
    if (made) open.value = made
    await load()
  } catch (error) {
    failure.value = sentence(error)
  }
}
const add = () =>
  run(async () => {
    const made = await ask(
      api.POST('/api/v1/classes', {
        body: { name: draft.value.name, term: draft.value.term, apprentices: roster.value.people },
      }),
    )
    draft.value = { name: '', term: draft.value.term, list: '' }
    adding.value = false
    return made
  })
const more = () =>
  run(async () => {
    const made = await ask(
      api.POST('/api/v1/classes/{class_id}/apprentices', {
        params: { path: { class_id: open.value?.id ?? 0 } },
        body: { people: roster.value.people },
      }),
    )
    draft.value.list = ''
    return made
  })
const change = (what: Partial<Schemas['ClassChange']>) =>
  run(() => {
    const c = open.value!
    return ask(
      api.PUT('/api/v1/classes/{class_id}', {
        params: { path: { class_id: c.id } },
        body: { name: c.name, term: c.term, archived: c.archived, ...what },
      }),
    )
  })
async function take(event: Event): Promise<void> {
  const file = (event.target as HTMLInputElement).files?.[0]
  if (file) draft.value.list = await file.text()
}
/** What the server reads out of the list, as one types. */
async function read(): Promise<void> {
  try {
    roster.value = draft.value.list.trim()
      ? await ask(api.POST('/api/v1/rosters', { body: { text: draft.value.list } }))
      : { people: [], problems: [] }
  } catch (error) {
    failure.value = sentence(error)
  }
}
watch(
  () => draft.value.list,
  () => {
    rest.push(() => void read())
  },
  { immediate: true },
)
watch(archived, () => void load().catch((error: Error) => (failure.value = error.message)))
onMounted(() => load().catch((error: Error) => (failure.value = error.message)))
</script>

<template>
  <main class="page">
    <div class="page-head">
      <h1>Classes</h1>
      <span
        ><el-checkbox v-model="archived">Archived</el-checkbox>
        <el-button type="primary" @click="adding = true">New class</el-button></span
      >
    </div>
    <p v-if="failure" class="error" role="alert">{{ failure }}</p>
    <div class="three">
      <nav class="card" aria-label="Classes">
        <template v-for="t in terms" :key="t"
          ><h2>{{ t || 'No term' }}</h2>
          <ul class="classes">
            <li v-for="c in rows.filter((r) => r.term === t)" :key="c.id">
              <button :class="{ on: open?.id === c.id && !adding }" @click="pick(c.id)">
                {{ c.name }}<span class="soft">{{ c.size }}</span>
              </button>
            </li>
          </ul></template
        >
        <p v-if="!rows.length" class="soft">
          {{ archived ? 'Nothing is archived.' : 'No class yet. Paste a list of names on the right.' }}
        </p>
      </nav>
      <section v-if="open && !adding" class="card">
        <div class="head">
          <h2>
            {{ open.name }}<template v-if="open.term"> · {{ open.term }}</template>
          </h2>
          <span class="doors"
            ><RouterLink :to="`/classes/${open.id}/results`">Results</RouterLink
            ><a :href="`/api/v1/classes/${open.id}/gradebook.xlsx`">Gradebook</a
            ><el-button size="small" @click="change({ archived: !open.archived })">{{
              open.archived ? 'Restore' : 'Archive'
            }}</el-button></span
          >
        </div>
        <PeopleTable
          :people="open.people ?? []"
          @changed="
            (c) => {
              open = c
              void load()
            }
          "
        />
        <details class="rename">
          <summary>Name and term</summary>
          <form class="pair" @submit.prevent="change({ name: open!.name, term: open!.term })">
            <el-input v-model="open.name" maxlength="80" aria-label="Name" /><el-input
              v-model="open.term"
              maxlength="40"
              placeholder="term"
              aria-label="Term"
            /><el-button native-type="submit">Save</el-button>
          </form>
        </details>
      </section>
      <form class="card" @submit.prevent="adding || !open ? add() : more()">
        <h2>{{ adding || !open ? 'New class' : 'Add to this class' }}</h2>
        <template v-if="adding || !open">
          <label class="field"><span>Name of the class</span><el-input v-model="draft.name" maxlength="80" /></label>
          <label class="field"
            ><span>Term</span><el-input v-model="draft.term" maxlength="40" placeholder="autumn"
          /></label>
        </template>
        <label class="field"
          ><span>Apprentices, one name per line ({{ roster.people.length }}); commas separate name, number, group</span
          ><el-input v-model="draft.list" type="textarea" :rows="adding || !open ? 12 : 6"
        /></label>
        <label class="file">or a CSV <input type="file" accept=".csv,text/csv,text/plain" @change="take" /></label>
        <ul v-if="roster.problems.length" class="problems">
          <li v-for="p in roster.problems" :key="p">{{ p }}</li>
        </ul>
        <el-button
          v-if="adding || !open"
          type="primary"
          native-type="submit"
          :disabled="!draft.name.trim() || !roster.people.length"
          >Add class</el-button
        >
        <el-button v-else type="primary" native-type="submit" :disabled="!roster.people.length"
          >Add {{ roster.people.length || '' }}</el-button
        >
        <el-button v-if="adding && open" @click="adding = false">Cancel</el-button>
      </form>
    </div>
  </main>
</template>

<style scoped>
.page {
  max-width: 1280px;
}
.three {
  display: grid;
  grid-template-columns: 230px minmax(0, 1fr) 300px;
  gap: 14px;
  align-items: start;
}
.classes {
  margin: 0 0 10px;
  padding: 0;
  list-style: none;
}
.classes button {
  width: 100%;
  display: flex;
  justify-content: space-between;
  padding: 8px 10px;
  border: 1px solid transparent;
  border-radius: 3px;
  background: none;
  font-size: 15px;
  cursor: pointer;
  color: var(--ink);
  text-align: left;
}
.classes button.on {
  background: var(--violet-soft);
  border-color: var(--violet);
  font-weight: 600;
}
.head {
  display: flex;
  justify-content: space-between;
  gap: 12px;
  align-items: baseline;
  flex-wrap: wrap;
}
.doors {
  display: flex;
  gap: 12px;
  align-items: baseline;
}
.rename {
  margin-top: 12px;
}
.rename summary {
  cursor: pointer;
  color: var(--violet);
}
.pair {
  display: flex;
  gap: 8px;
  margin-top: 8px;
}
.problems {
  color: var(--amber);
  padding-left: 18px;
  margin: 0 0 10px;
  font-size: 14px;
}
.file {
  display: block;
  margin-bottom: 10px;
  font-size: 13.5px;
  color: var(--ink-soft);
}
.file input {
  max-width: 100%;
}
@media (max-width: 1000px) {
  .three {
    grid-template-columns: 1fr;
  }
}
</style>
