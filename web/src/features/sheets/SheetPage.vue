<script setup lang="ts">
import { computed, onMounted, onUnmounted, ref } from 'vue'
import { useRoute } from 'vue-router'
import { api, ask, type Schemas, sentence } from '@/api/client'
import { askFirst } from '@/shared/asking'
import { localTime, user } from '@/shared/session'
import { called } from '@/shared/title'
import BuilderPanel from './BuilderPanel.vue'
import HistoryPanel from './HistoryPanel.vue'
import PrintPanel from './PrintPanel.vue'
import ResultsPanel from './ResultsPanel.vue'
import RigPanel from './RigPanel.vue'
import RulesPanel from './RulesPanel.vue'
import ScreenPanel from '@/features/screen/ScreenPanel.vue'
import { arrows } from '@/shared/tabs'
import RowsSkeleton from '@/shared/RowsSkeleton.vue'

const id = Number(useRoute().params.id)
const sheet = ref<Schemas['SheetRow'] | null>(null)
const failure = ref('')
const tab = ref<'results' | 'screen' | 'print' | 'rules' | 'rig' | 'history'>('results')
const excluding = ref<number | null>(null)
function open(key: typeof tab.value): void {
  excluding.value = null
  tab.value = key
}
function exclude(position: number): void {
  excluding.value = position
  tab.value = 'rules'
}
const building = computed(() => ['queued', 'building', 'cancelling'].includes(sheet.value?.status ?? ''))
const teaches = computed(() => user.value?.role === 'instructor')
const has = (kind: string) => sheet.value?.at_hand.includes(kind) ?? false
/** What is printed while the rest still is. */
const printed = computed(() =>
  (
    [
      ['packet', 'Packet'],
      ['key', 'Key'],
      ['slips', 'Sealed slips'],
    ] as const
  ).filter(([kind]) => has(kind)),
)
const rigs = computed(() => sheet.value?.items.filter((i) => i.kind === 'rig') ?? [])
const tabs = computed(
  () =>
    [
      ['results', 'Results'],
      ['screen', 'On screen'],
      ['print', 'Print'],
      ...(rigs.value.length ? [['rig', 'Rig readings']] : []),
      ['rules', 'Rules'],
      ['history', 'History'],
    ] as [typeof tab.value, string][],
)
const at = { params: { path: { sheet_id: id } } }
let timer = 0

async function load(): Promise<void> {
  try {
    sheet.value = await ask(api.GET('/api/v1/sheets/{sheet_id}', at))
    called(sheet.value.title)
    failure.value = ''
  } catch (error) {
    failure.value = sentence(error)
  }
}
async function run(work: () => Promise<Schemas['SheetRow']>): Promise<void> {
  try {
    sheet.value = await work()
    failure.value = ''
  } catch (error) {
    failure.value = sentence(error)
  }
}
const cancel = () => run(() => ask(api.POST('/api/v1/sheets/{sheet_id}/cancel', at)))
const issue = () => run(() => ask(api.POST('/api/v1/sheets/{sheet_id}/issue', at)))
async function release(): Promise<void> {
  const now = sheet.value
  if (!now) return
  if (!now.released && now.marked < now.papers) {
    const going = await askFirst({
      title: `Release feedback: ${now.marked} of ${now.papers} marked`,
      lines: [
        now.marked
          ? 'Apprentices whose paper is marked see it now; the others as soon as theirs is.'
          : 'No paper is marked yet: apprentices see their feedback as soon as it is.',
        'It can be taken back at any time.',
      ],
      yes: 'Release feedback',
    })
    if (!going) return
  }
  await run(() => ask(api.PUT('/api/v1/sheets/{sheet_id}/release', { ...at, body: { released: !now.released } })))
}
async function toDraft(): Promise<void> {
  const going =
    sheet.value?.status !== 'ready' ||
    (await askFirst({
      title: 'Take it back to a draft?',
      lines: [
        `Its ${sheet.value?.papers ?? 0} papers are void: what is printed already must not be handed out, it could not be marked.`,
        'The draft keeps its calls; issued again, everybody gets other numbers.',
      ],
      yes: 'Back to a draft',
      danger: true,
    }))
  if (going) await run(() => ask(api.POST('/api/v1/sheets/{sheet_id}/draft', at)))
}
const print = (kinds: ('packet' | 'key' | 'feedback')[]) =>
  run(() => ask(api.POST('/api/v1/sheets/{sheet_id}/print', { ...at, body: { kinds } })))
const stopPrinting = () => run(() => ask(api.POST('/api/v1/sheets/{sheet_id}/print/stop', at)))
onMounted(() => {
  void load()
  timer = window.setInterval(() => (building.value || sheet.value?.printing) && void load(), 1000)
})
onUnmounted(() => window.clearInterval(timer))
</script>

<template>
  <main class="page" :class="{ wide: sheet?.status === 'draft' }">
    <p v-if="failure" class="error" role="alert">{{ failure }}</p>
    <RowsSkeleton v-else-if="!sheet" :cards="3" />
    <BuilderPanel v-if="sheet?.status === 'draft' && teaches" :sheet="sheet" @issued="load" />
    <template v-else-if="sheet">
      <div class="page-head">
        <div>
          <h1>{{ sheet.title }}</h1>
          <span class="soft"
            >{{ sheet.class_name }} · issued {{ localTime(sheet.created_at) }} · seed
            <span class="num">{{ sheet.seed }}</span> · solver {{ sheet.solver_version }}, tables
            <span class="num">{{ sheet.table_hash?.slice(0, 8) }}</span></span
          >
        </div>
        <div v-if="sheet.status === 'ready'" class="doors">
          <template v-if="teaches">
            <a v-if="has('packet')" class="door main" :href="`/api/v1/sheets/${id}/documents/packet`" target="_blank"
              >Packet to print</a
            >
            <button
              v-else-if="!sheet.printing"
              class="door main"
              data-test="print-again"
              @click="print(['packet', 'key'])"
            >
              Print packet and key
            </button>
            <a v-if="has('key')" class="door" :href="`/api/v1/sheets/${id}/documents/key`" target="_blank">Key</a>
            <a
              v-if="rigs.length"
              class="door"
              :href="`/api/v1/sheets/${id}/documents/plants`"
              target="_blank"
              data-test="rig-card"
              >Rig setup card</a
            >
          </template>
          <RouterLink class="door" to="/marking">Mark papers</RouterLink>
          <button v-if="teaches" class="door" data-test="release" @click="release">
            {{
              sheet.released ? 'Take feedback back' : `Release feedback (${sheet.marked} of ${sheet.papers} marked)`
            }}</button><button v-if="teaches && !sheet.marked" class="door" data-test="to-draft" @click="toDraft">
            Back to a draft
          </button>
        </div>
      </div>
      <div v-if="building" class="card work" role="status">
        <h2>{{ sheet.status === 'cancelling' ? 'Stopping' : 'Drawing variants and printing' }}</h2>
        <el-progress :percentage="Math.round((100 * sheet.done) / sheet.total)" :stroke-width="12" />
        <p v-if="teaches && printed.length" class="there" data-test="printed-so-far">
          Printed so far:
          <a
            v-for="[kind, name] in printed"
            :key="kind"
            :href="`/api/v1/sheets/${id}/documents/${kind}`"
            target="_blank"
            >{{ name }}</a
          >
        </p>
        <p class="soft">You can leave this page; the sheet keeps building.</p>
        <el-button v-if="teaches" :disabled="sheet.status === 'cancelling'" @click="cancel">Cancel</el-button>
      </div>
      <div v-else-if="sheet.status === 'cancelled'" class="card work">
        <p>This sheet was cancelled before it was printed.</p>
        <el-button v-if="teaches" type="primary" @click="issue">Issue it anyway</el-button
        ><el-button v-if="teaches" data-test="to-draft" @click="toDraft">Back to a draft</el-button>
      </div>
      <div v-else-if="sheet.status === 'failed'" class="card work" role="alert">
        <p class="error">This sheet could not be made.</p>
        <p>{{ sheet.problem }}</p>
        <el-button v-if="teaches" type="primary" data-test="to-draft" @click="toDraft">Change it</el-button
        ><el-button v-if="teaches" @click="issue">Try again</el-button>
      </div>
      <template v-else-if="sheet.status === 'ready'">
        <div v-if="sheet.printing" class="printing" role="status">
          <span>{{ sheet.printing === 'stop' ? 'Stopping' : 'Printing in the background' }}</span><el-progress
            :percentage="Math.round((100 * sheet.done) / sheet.total)"
            :stroke-width="10"
          /><el-button v-if="teaches" size="small" :disabled="sheet.printing === 'stop'" @click="stopPrinting"
            >Stop</el-button
          >
        </div>
        <nav v-if="teaches" class="tabs" role="tablist" aria-label="Of this sheet" @keydown="arrows">
          <button
            v-for="[key, name] in tabs"
            :key="key"
            role="tab"
            :tabindex="tab === key ? 0 : -1"
            :aria-selected="tab === key"
            :class="{ on: tab === key }"
            @click="open(key)"
          >
            {{ name }}
          </button>
        </nav>
        <ResultsPanel v-if="tab === 'results' || !teaches" :sheet="sheet" @exclude="exclude" />
        <ScreenPanel v-else-if="tab === 'screen'" :sheet="sheet" />
        <PrintPanel v-else-if="tab === 'print'" :sheet="sheet" @print="print" />
        <RulesPanel v-else-if="tab === 'rules'" :sheet="sheet" :exclude="excluding" @changed="load" />
        <RigPanel v-else-if="tab === 'rig'" :sheet="sheet" :rigs="rigs" />
        <HistoryPanel v-else :sheet-id="id" />
      </template>
    </template>
  </main>
</template>

<style scoped>
.wide {
  max-width: 1300px;
  padding-top: 12px;
}
.doors {
  display: flex;
  gap: 8px;
  flex-shrink: 0;
  flex-wrap: wrap;
}
.door {
  padding: 7px 14px;
  border: 1px solid var(--violet);
  border-radius: 3px;
  text-decoration: none;
  font-weight: 600;
  background: none;
  color: var(--violet);
  font-size: 15px;
  cursor: pointer;
}
.door.main {
  background: var(--violet);
  color: var(--white);
}
.printing {
  display: grid;
  grid-template-columns: auto 1fr auto;
  gap: 14px;
  align-items: center;
  margin-bottom: 10px;
}
.work {
  max-width: 640px;
}
.there a {
  margin-left: 10px;
  font-weight: 600;
}
.tabs {
  display: flex;
  gap: 4px;
  border-bottom: 2px solid var(--violet);
  margin-bottom: 14px;
  flex-wrap: wrap;
}
.tabs button {
  border: 0;
  background: none;
  padding: 8px 14px;
  font-size: 15px;
  cursor: pointer;
  color: var(--ink);
}
.tabs button.on {
  background: var(--violet);
  color: var(--white);
  border-radius: 3px 3px 0 0;
  font-weight: 600;
}
</style>
