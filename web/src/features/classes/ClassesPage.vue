<script setup lang="ts">
import { computed, nextTick, onMounted, ref, watch } from 'vue'
import { api, ask, type Schemas, sentence } from '@/api/client'
import { askFirst, offerUndo } from '@/shared/asking'
import { kept } from '@/shared/kept'
import { useLater } from '@/shared/later'
import CodeSlips, { type Slip } from '@/shared/CodeSlips.vue'
import FileButton from '@/shared/FileButton.vue'
import PeopleTable from './PeopleTable.vue'
import RosterPreview from './RosterPreview.vue'
import { vFocus } from '@/shared/focus'
import RowsSkeleton from '@/shared/RowsSkeleton.vue'

type Read = Schemas['RosterReply']
type Roles = Read['columns'][number]['role'][]
const rows = ref<Schemas['ClassRow'][]>([])
const known = ref(false)
const open = ref<Schemas['ClassRow'] | null>(null)
const archived = ref(false)
const draft = kept('class.draft', { name: '', term: '' })
/** Lists that are not sent yet, each with the class it belongs to; 0 is a class that is not there yet. */
const lists = kept<Record<number, string>>('class.lists', {})
const adding = ref(false)
const to = computed(() => (adding.value || !open.value ? 0 : open.value.id))
const list = computed({
  get: () => lists.value[to.value] ?? '',
  set: (text: string) => {
    lists.value = { ...lists.value, [to.value]: text }
  },
})
const NOBODY: Read = { people: [], problems: [], header: false, columns: [], rows: [] }
const roster = ref<Read>(NOBODY)
/** What somebody corrected in this list. */
const corrected = ref<{ columns?: Roles; header?: boolean }>({})
const failure = ref('')
const terms = computed(() => [...new Set(rows.value.map((c) => c.term))])
const rest = useLater(250)

async function load(): Promise<void> {
  rows.value = (await ask(api.GET('/api/v1/classes', { params: { query: { archived: archived.value } } }))).classes
  known.value = true
  if (!rows.value.some((c) => c.id === open.value?.id)) open.value = null
  if (!open.value && rows.value[0]) await show(rows.value[0].id)
  if (!rows.value.length) adding.value = !archived.value
}
async function show(id: number): Promise<void> {
  slips.value = []
  open.value = await ask(api.GET('/api/v1/classes/{class_id}', { params: { path: { class_id: id } } }))
}
/** A new class; its name has the focus also where the field stood there already, before any class was loaded. */
const form = ref<HTMLElement | null>(null)
function begin(): void {
  adding.value = true
  void nextTick(() => form.value?.querySelector('input')?.focus())
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
    draft.value = { name: '', term: draft.value.term }
    list.value = ''
    adding.value = false
    return made
  })
const more = () =>
  run(async () => {
    const there = new Set(open.value?.people?.map((p) => p.id))
    const made = await ask(
      api.POST('/api/v1/classes/{class_id}/apprentices', {
        params: { path: { class_id: open.value?.id ?? 0 } },
        body: { people: roster.value.people },
      }),
    )
    const [text, id] = [list.value, made.id]
    list.value = ''
    const fresh = (made.people ?? []).filter((p) => !there.has(p.id)).map((p) => p.id)
    offerUndo(`${fresh.length} added to ${made.name}.`, async () => {
      await ask(
        api.POST('/api/v1/classes/{class_id}/apprentices/undo', {
          params: { path: { class_id: id } },
          body: { apprentice_ids: fresh },
        }),
      )
      lists.value = { ...lists.value, [id]: text }
      await load()
      await show(id)
    })
    return made
  })
/** Who is in the open class and has no log-in. */
const without = computed(() => (open.value?.people ?? []).filter((p) => !p.gone && !p.erase_at && !p.login).length)
const slips = ref<Slip[]>([])
const days = ref(14)
const giveLogIns = (only: number[] | null = null) =>
  run(async () => {
    const path = { params: { path: { class_id: open.value?.id ?? 0 } } }
    const given = await ask(api.POST('/api/v1/classes/{class_id}/log-ins', { ...path, body: { apprentice_ids: only } }))
    slips.value = given.slips
    days.value = given.days
    return ask(api.GET('/api/v1/classes/{class_id}', path))
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
type Taken = Schemas['OneRosterTaken']
/** Classes and people of another system: read first, then asked, then kept. */
async function takeOneRoster(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  if (!file) return
  const send = (dry: boolean) =>
    ask(
      api.POST('/api/v1/school/oneroster', {
        params: { query: { dry } },
        body: file as never,
        bodySerializer: (b: unknown) => b as never,
        headers: { 'Content-Type': 'application/zip' },
      } as never),
    ) as Promise<Taken>
  await run(async () => {
    const found = await send(true)
    const sure = await askFirst({
      title: `Take ${found.classes.length} ${found.classes.length === 1 ? 'class' : 'classes'} in?`,
      lines: found.classes.map(
        (c) =>
          `${c.title}${c.new ? ' (new)' : ''}: ${c.added} added, ${c.there} there already${c.left ? `, ${c.left} left` : ''}`,
      ),
      yes: 'Take them in',
    })
    if (sure) await send(false)
    return null
  })
  input.value = ''
}
async function take(event: Event): Promise<void> {
  const file = (event.target as HTMLInputElement).files?.[0]
  if (file) list.value = decoded(await file.arrayBuffer())
}
/** A file's text: spreadsheets save accents in either way. */
function decoded(bytes: ArrayBuffer): string {
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes)
  } catch {
    return new TextDecoder('windows-1252').decode(bytes)
  }
}
/** What the server reads out of the list, as one types. */
async function read(): Promise<void> {
  const text = list.value
  const of = to.value
  try {
    const found = text.trim()
      ? await ask(
          api.POST('/api/v1/rosters', {
            body: {
              text,
              columns: corrected.value.columns ?? null,
              header: corrected.value.header ?? null,
              class_id: of || null,
            },
          }),
        )
      : NOBODY
    if (text === list.value && of === to.value) roster.value = found
  } catch (error) {
    failure.value = sentence(error)
  }
}
function correct(what: { columns?: Roles; header?: boolean }): void {
  corrected.value = { ...corrected.value, ...what }
  void read()
}
watch(
  [list, to],
  ([text, of], before) => {
    if (of !== before?.[1] || !text) {
      roster.value = NOBODY
      corrected.value = {}
    }
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
      <span class="doors"
        ><el-checkbox v-model="archived">Archived</el-checkbox><a href="/api/v1/school/oneroster.zip">OneRoster out</a
        ><FileButton accept=".zip,application/zip" data-test="oneroster" @change="takeOneRoster"
          >OneRoster in</FileButton
        >
        <el-button type="primary" @click="begin">New class</el-button></span
      >
    </div>
    <p v-if="failure" class="error" role="alert">{{ failure }}</p>
    <div :class="['three', { filling: roster.rows.length }]">
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
        <RowsSkeleton v-if="!known && !failure" />
        <p v-else-if="known && !rows.length" class="soft">
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
            ><el-button v-if="without" size="small" data-test="log-ins" @click="giveLogIns()"
              >Log-ins for {{ without }}</el-button
            ><el-button size="small" @click="change({ archived: !open.archived })">{{
              open.archived ? 'Restore' : 'Archive'
            }}</el-button></span
          >
        </div>
        <CodeSlips v-if="slips.length" :slips="slips" :days="days" @close="slips = []" />
        <PeopleTable
          :people="open.people ?? []"
          :class-id="open.id"
          :classes="rows"
          @code="(id) => giveLogIns([id])"
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
      <form ref="form" class="card" @submit.prevent="adding || !open ? add() : more()">
        <h2>{{ adding || !open ? 'New class' : 'Add to this class' }}</h2>
        <template v-if="adding || !open">
          <label class="field"
            ><span>Name of the class</span><el-input v-model="draft.name" v-focus maxlength="80"
          /></label>
          <label class="field"
            ><span>Term</span><el-input v-model="draft.term" maxlength="40" placeholder="autumn"
          /></label>
        </template>
        <label class="field"
          ><span>Apprentices, one name per line ({{ roster.people.length }}); or a table pasted from a spreadsheet</span
          ><el-input v-model="list" type="textarea" :rows="roster.rows.length ? 4 : adding || !open ? 12 : 6"
        /></label>
        <p class="file">or <FileButton accept=".csv,text/csv,text/plain" @change="take">Take a CSV file</FileButton></p>
        <RosterPreview
          v-if="roster.rows.length"
          :read="roster"
          @columns="(columns) => correct({ columns })"
          @header="(header) => correct({ header })"
        />
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
.three.filling {
  grid-template-columns: 230px minmax(0, 1fr);
}
.three.filling > form {
  grid-column: 2;
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
  .three,
  .three.filling {
    grid-template-columns: 1fr;
  }
  .three.filling > form {
    grid-column: 1;
  }
}
nav h2,
.classes button {
  overflow-wrap: anywhere;
}
</style>
