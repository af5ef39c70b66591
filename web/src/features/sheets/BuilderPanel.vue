<script setup lang="ts">
import { computed, nextTick, onMounted, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, type Schemas, sentence } from '@/api/client'
import { askFirst, offerUndo } from '@/shared/asking'
import { kept, units } from '@/shared/kept'
import { called } from '@/shared/title'
import AddPanel from './AddPanel.vue'
import AskedPanel from './AskedPanel.vue'
import { useAhead } from './ahead'
import PreviewPanel from './PreviewPanel.vue'
import { asLadder, fromRow, KIND_WORDS, moved, sum, toBody, type Item } from './draft'

const props = defineProps<{ sheet: Schemas['SheetRow'] }>()
const emit = defineEmits<{ issued: [] }>()
const router = useRouter()
/** What is changed and not with the server yet, by sheet: it survives a reload and an expired log-in. */
const unsent = kept<
  Record<string, { title: string; class_id: number; items: Item[]; paper: 'letter' | 'A4'; large: boolean }>
>('sheet.unsent', {})
const own = String(props.sheet.id)
const before = unsent.value[own]
const title = ref(before?.title ?? props.sheet.title)
const classId = ref(before?.class_id ?? props.sheet.class_id)
const paper = ref<'letter' | 'A4'>(
  before?.paper ?? (props.sheet.paper as 'letter' | 'A4' | null) ?? (props.sheet.units === 'us' ? 'letter' : 'A4'),
)
const large = ref(before?.large ?? props.sheet.large)
const items = ref<Item[]>(before?.items ?? props.sheet.items.map(fromRow))
const picked = ref(0)
const classes = ref<Schemas['ClassRow'][]>([])
const catalogue = ref<Schemas['CatalogueReply'] | null>(null)
const failure = ref('')
const saved = ref(!before)
const changes = ref(0)
const busy = ref(false)
const preview = ref<InstanceType<typeof PreviewPanel> | null>(null)
const panel = ref<'add' | 'asked'>((before?.items ?? props.sheet.items).length ? 'asked' : 'add')
const minutes = computed(() => sum(items.value))
const size = computed(() => classes.value.find((c) => c.id === classId.value)?.size ?? 0)
const at = { params: { path: { sheet_id: props.sheet.id } } }
let timer = 0
const ahead = useAhead(props.sheet.id, saved)
let saving: Promise<void> = Promise.resolve()

async function save(): Promise<void> {
  window.clearTimeout(timer)
  try {
    await ask(
      api.PUT('/api/v1/sheets/{sheet_id}', {
        ...at,
        body: {
          title: title.value.trim() || props.sheet.title,
          class_id: classId.value,
          items: items.value.map(toBody),
          units: units.value,
          paper: paper.value,
          large: large.value,
        },
      }),
    )
    saved.value = true
    delete unsent.value[own]
    failure.value = ''
  } catch (error) {
    failure.value = sentence(error)
    throw error
  }
}
function soon(): void {
  saved.value = false
  changes.value += 1
  unsent.value[own] = {
    title: title.value,
    class_id: classId.value,
    items: items.value,
    paper: paper.value,
    large: large.value,
  }
  window.clearTimeout(timer)
  timer = window.setTimeout(() => {
    saving = saving.then(save).catch(() => undefined)
  }, 500)
}
watch([title, classId, paper, large, units], soon)
watch(items, soon, { deep: true })
async function settled(): Promise<void> {
  await saving
  if (!saved.value) await save()
}
function add(more: Item[]): void {
  items.value = [...items.value, ...more]
  picked.value = items.value.length - 1
}
function remove(index: number): void {
  items.value = items.value.filter((_, i) => i !== index)
  picked.value = Math.min(picked.value, Math.max(items.value.length - 1, 0))
}
function shift(index: number, by: number): void {
  items.value = moved(items.value, index, by)
  picked.value = Math.min(Math.max(index + by, 0), items.value.length - 1)
}
/** A call was changed or drawn again: whoever looks at the paper sees the new one. */
async function changed(): Promise<void> {
  if (!preview.value?.open) return
  await nextTick()
  await preview.value.draw(picked.value)
}
async function issue(): Promise<void> {
  const count = items.value.length
  const drills = items.value.some((i) => i.kind === 'drill')
  const going = await askFirst({
    title: `Issue “${title.value.trim() || props.sheet.title}”?`,
    lines: [
      `${size.value} papers for ${props.sheet.class_id === classId.value ? props.sheet.class_name : 'the class'}, each with ${count} ${drills ? 'calls and drills' : count === 1 ? 'call' : 'calls'} and its own numbers, are drawn, proved and printed, with the key.`,
      'Their calls are frozen then. Until the first answer is entered it can be taken back to a draft.',
    ],
    yes: 'Issue and print',
  })
  if (!going) return
  busy.value = true
  try {
    await settled()
    await ask(api.POST('/api/v1/sheets/{sheet_id}/issue', at))
    emit('issued')
  } catch (error) {
    failure.value = sentence(error)
  } finally {
    busy.value = false
  }
}
async function forget(): Promise<void> {
  try {
    window.clearTimeout(timer)
    await ask(api.DELETE('/api/v1/sheets/{sheet_id}', at))
    delete unsent.value[own]
    const again = {
      title: title.value.trim() || props.sheet.title,
      class_id: classId.value,
      items: items.value.map(toBody),
      scenario_ids: null,
      units: units.value,
      paper: paper.value,
      large: large.value,
      seed: props.sheet.seed ?? null,
      draft: true,
    }
    offerUndo(`The draft “${again.title}” is deleted.`, async () => {
      const made = await ask(api.POST('/api/v1/sheets', { body: again }))
      await router.push(`/sheets/${made.id}`)
    })
    await router.push('/sheets')
  } catch (error) {
    failure.value = sentence(error)
  }
}
const where = (item: Item) =>
  [
    KIND_WORDS[item.kind],
    item.level ? `level ${item.level}` : '',
    `${item.minutes} min`,
    item.kind === 'drill' ? `${item.items} items` : '',
  ]
    .filter(Boolean)
    .join(' · ')
watch(title, (now) => called(now.trim() || props.sheet.title), { immediate: true })
onMounted(async () => {
  if (before) soon()
  try {
    classes.value = (await ask(api.GET('/api/v1/classes', { params: { query: { archived: false } } }))).classes
    catalogue.value = await ask(api.GET('/api/v1/catalogue'))
  } catch (error) {
    failure.value = sentence(error)
  }
})

function pick(i: number) {
  picked.value = i
  preview.value?.turnTo(i)
  panel.value = 'asked'
}
</script>

<template>
  <div class="bar">
    <h1>Draft</h1>
    <el-input v-model="title" maxlength="120" aria-label="Title" class="title" />
    <select v-model="classId" aria-label="Class" class="class">
      <option v-for="c in classes" :key="c.id" :value="c.id">
        {{ c.name }}{{ c.term ? `, ${c.term}` : '' }} ({{ c.size }})
      </option>
    </select>
    <select v-model="paper" aria-label="Paper" class="paper">
      <option value="letter">Letter</option>
      <option value="A4">A4</option>
    </select>
    <el-checkbox v-model="large">Large print</el-checkbox>
    <span class="soft" role="status">{{ saved ? 'kept as a draft' : 'keeping …' }}</span>
    <span class="grow" />
    <el-button link @click="forget">Delete draft</el-button>
    <el-button :loading="preview?.drawing" :disabled="!items.length" data-test="preview" @click="preview?.draw()"
      >Preview</el-button
    >
    <el-button type="primary" :loading="busy" :disabled="!items.length || !size" data-test="issue" @click="issue"
      >Issue and print</el-button
    >
  </div>
  <p v-if="failure" class="error" role="alert">{{ failure }}</p>
  <div class="three">
    <section class="card ladder">
      <h2>On the sheet · {{ minutes }} min</h2>
      <ol>
        <li v-for="(item, i) in items" :key="i" :class="{ on: i === picked && panel === 'asked' }">
          <button class="pick" @click="pick(i)">
            <span class="step" aria-hidden="true"
              ><i v-for="n in 5" :key="n" :class="{ in: n <= (item.level ?? 0) }" /></span
            ><span
              ><b>{{ i + 1 }} · {{ item.title }}</b
              ><small class="soft">{{ where(item) }}</small></span
            >
          </button>
          <span class="hands"
            ><button :disabled="i === 0" :aria-label="`Move ${item.title} up`" @click="shift(i, -1)">↑</button
            ><button :disabled="i === items.length - 1" :aria-label="`Move ${item.title} down`" @click="shift(i, 1)">
              ↓</button
            ><button :aria-label="`Take ${item.title} off`" @click="remove(i)">×</button></span
          >
        </li>
      </ol>
      <p v-if="!items.length" class="soft">
        Nothing on it yet. Say in one sentence what you need, in the middle panel.
      </p>
      <p v-else class="soft small">
        {{ items.length }} × {{ size }} apprentices = {{ items.length * size }} variants, in
        {{ units === 'us' ? '°F and psi' : '°C and kPa' }}
      </p>
      <p v-if="ahead?.problem" class="error small" role="alert">It cannot be issued as it is. {{ ahead.problem }}</p>
      <p v-else-if="ahead?.of" class="soft small drawn" data-test="ahead">
        <progress :value="ahead.drawn" :max="ahead.of" aria-hidden="true" />
        {{
          ahead.drawn < ahead.of
            ? `${ahead.drawn} of ${ahead.of} drawn and proved so far`
            : `All ${ahead.of} drawn, ready to print`
        }}
      </p>
      <div class="foot">
        <el-button size="small" data-test="add" @click="panel = 'add'">Add</el-button
        ><el-button v-if="items.length > 1" size="small" @click="items = asLadder(items)">Order easy to hard</el-button>
      </div>
    </section>
    <section class="card">
      <AddPanel v-if="panel === 'add' || !items[picked]" :catalogue="catalogue" :title="title" @add="add" />
      <AskedPanel
        v-else
        :key="picked"
        v-model="items[picked]!"
        :catalogue="catalogue"
        :number="picked + 1"
        @changed="changed"
      />
    </section>
    <section class="card sheetview">
      <PreviewPanel ref="preview" :sheet-id="sheet.id" :changes="changes" :empty="!items.length" :settle="settled" />
    </section>
  </div>
</template>

<style scoped>
.bar {
  display: flex;
  gap: 10px;
  align-items: center;
  margin-bottom: 12px;
  flex-wrap: wrap;
}
.title {
  width: 230px;
}
.class {
  width: 210px;
}
.paper {
  width: 92px;
}
.grow {
  flex: 1;
}
.three {
  display: grid;
  grid-template-columns: 330px minmax(0, 1fr) 392px;
  gap: 12px;
  align-items: start;
}
.ladder ol {
  list-style: none;
  margin: 0;
  padding: 0;
}
.ladder li {
  display: flex;
  align-items: center;
  border-bottom: 1px solid var(--line);
}
.ladder li.on {
  background: var(--violet-soft);
  box-shadow: inset 4px 0 var(--violet);
}
.pick {
  flex: 1;
  min-width: 0;
  display: flex;
  gap: 8px;
  text-align: left;
  border: 0;
  background: none;
  padding: 7px 8px;
  cursor: pointer;
  color: var(--ink);
  font-size: 14.5px;
}
.pick small {
  display: block;
}
.step {
  display: flex;
  flex-direction: column-reverse;
  gap: 2px;
  padding-top: 3px;
}
.step i {
  width: 14px;
  height: 4px;
  background: var(--line);
  border-radius: 1px;
}
.step i.in {
  background: var(--violet);
}
.hands button {
  border: 0;
  background: none;
  font-size: 15px;
  width: 24px;
  height: 30px;
  cursor: pointer;
  color: var(--ink);
}
.hands button:disabled {
  opacity: 0.3;
}
.foot {
  display: flex;
  gap: 8px;
  margin-top: 10px;
}
.small {
  font-size: 13px;
}
.drawn {
  display: flex;
  align-items: center;
  gap: 8px;
}
.drawn progress {
  flex: none;
  width: 72px;
  height: 8px;
  accent-color: var(--violet);
}
@media (max-width: 1120px) {
  .three {
    grid-template-columns: 300px minmax(0, 1fr);
  }
  .sheetview {
    grid-column: 1 / -1;
  }
}
@media (max-width: 760px) {
  .three {
    grid-template-columns: 1fr;
  }
}
</style>
