<script setup lang="ts">
import { computed, nextTick, onMounted, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, ask, type Schemas } from '@/api/client'
import { kept } from '@/shared/kept'
import { afterEnter, nextCall, verdictWord } from './order'

const route = useRoute()
const router = useRouter()
const typed = ref('')
const paper = ref<Schemas['PaperReply'] | null>(null)
const position = ref(1)
const failure = ref('')
const busy = ref(false)
/** Answers not sent yet, by code and call: they survive a reload and an expired log-in. */
const drafts = kept<Record<string, Record<string, string>>>('marking.drafts', {})
const codeField = ref<HTMLInputElement>()
const fields = ref<HTMLInputElement[]>([])
const call = computed(() => paper.value?.calls.find((c) => c.position === position.value))
const waiting = ref<Schemas['SheetRow'][]>([])
const draftKey = computed(() => `${paper.value?.code}.${position.value}`)
const answers = ref<Record<string, string>>({})
const markOf = (id: string) => call.value?.marks.find((m) => m.question === id)
const marked = computed(() => (call.value?.marks.length ?? 0) > 0)
const hint = (kind: string) => (kind === 'verdict' ? 'L R H' : kind === 'letters' ? 'letters' : kind === 'letter' ? 'letter' : '')

function show(to: number): void {
  position.value = to
  const c = call.value
  answers.value = Object.fromEntries(c?.questions.map((q) => [q.id, drafts.value[draftKey.value]?.[q.id] ?? q.raw]) ?? [])
  void nextTick(() => fields.value[0]?.focus())
}
async function open(code: string): Promise<void> {
  failure.value = ''
  try {
    paper.value = await ask(api.GET('/api/v1/papers/{code}', { params: { path: { code } } }))
    typed.value = ''
    show(nextCall(paper.value.calls, 0) ?? 1)
    if (route.params.code !== paper.value.code) await router.replace(`/marking/${paper.value.code}`)
  } catch (error) {
    failure.value = (error as Error).message
    void nextTick(() => codeField.value?.select())
  }
}
function keep(): void {
  drafts.value[draftKey.value] = { ...answers.value }
}
async function mark(): Promise<void> {
  if (!paper.value || busy.value) return
  busy.value = true
  failure.value = ''
  try {
    paper.value = await ask(api.PUT('/api/v1/papers/{code}/answers', {
      params: { path: { code: paper.value.code } }, body: { call: position.value, answers: answers.value },
    }))
    delete drafts.value[draftKey.value]
    void nextTick(() => document.getElementById('onward')?.focus())
  } catch (error) {
    failure.value = (error as Error).message
  } finally {
    busy.value = false
  }
}
function enter(index: number): void {
  const step = afterEnter(index, call.value?.questions.length ?? 0)
  if (step.kind === 'mark') void mark()
  else fields.value[step.index]?.focus()
}
function onward(): void {
  const next = paper.value ? nextCall(paper.value.calls, position.value) : null
  if (next !== null) show(next)
  else void anotherPaper()
}
async function anotherPaper(): Promise<void> {
  paper.value = null
  await router.replace('/marking')
  await nextTick()
  codeField.value?.focus()
  void listWaiting()
}
/** Sheets with papers that have no mark yet, to see how far the pile is. */
async function listWaiting(): Promise<void> {
  try {
    waiting.value = (await ask(api.GET('/api/v1/sheets'))).sheets.filter((s) => s.status === 'ready' && s.marked < s.papers)
  } catch (error) {
    failure.value = (error as Error).message
  }
}
function back(index: number): void {
  if (index > 0) fields.value[index - 1]?.focus()
}
watch(() => route.params.code, (code) => {
  if (typeof code === 'string' && code && code !== paper.value?.code) void open(code)
})
onMounted(() => {
  const code = route.params.code
  if (typeof code === 'string' && code) void open(code)
  else {
    codeField.value?.focus()
    void listWaiting()
  }
})
</script>

<template>
  <main class="page" @keydown.esc="anotherPaper" @keydown.ctrl.enter.prevent="mark">
    <div class="page-head">
      <h1>{{ paper ? paper.name : 'Marking' }}</h1>
      <span v-if="paper" class="soft">{{ paper.sheet_title }} · <span class="num">{{ paper.code }}</span> · <b class="num" data-test="total">{{ paper.earned }}/{{ paper.possible }}</b></span>
    </div>
    <p v-if="failure" class="error" role="alert">{{ failure }}</p>
    <div v-if="!paper" class="start">
    <form class="card ask" @submit.prevent="open(typed)">
      <label class="field"><span>Code at the top right of the paper</span><input ref="codeField" v-model="typed" class="code" autocomplete="off" spellcheck="false" maxlength="9" name="code" /></label>
      <el-button type="primary" native-type="submit" :disabled="!typed.trim()">Open</el-button>
      <p class="soft keys"><kbd>Enter</kbd> next field, after the last one marks · <kbd>↑</kbd> back · <kbd>Ctrl</kbd> <kbd>Enter</kbd> marks at once · <kbd>Esc</kbd> another paper</p>
    </form>
    <section class="card">
      <h2>Waiting to be marked</h2>
      <p v-if="!waiting.length" class="soft">No paper is waiting. <RouterLink to="/sheets">All sheets</RouterLink></p>
      <ul class="waiting"><li v-for="s in waiting" :key="s.id"><RouterLink :to="`/sheets/${s.id}`"><b>{{ s.title }}</b></RouterLink><span class="soft">{{ s.class_name }}</span><b class="num">{{ s.papers - s.marked }} of {{ s.papers }} left</b><i :style="{ width: `${(100 * s.marked) / s.papers}%` }" /></li></ul>
    </section>
    </div>
    <div v-else-if="call" class="sheet">
      <nav class="calls" aria-label="Calls"><button v-for="c in paper.calls" :key="c.position" :class="{ on: c.position === position }" @click="show(c.position)">Call {{ c.position }}<span class="num">{{ c.marks.length ? `${c.earned}/${c.possible}` : '·' }}</span></button></nav>
      <form class="card" @submit.prevent>
        <table class="answers">
          <tbody>
            <tr v-for="(q, i) in call.questions" :key="q.id" :class="{ missed: markOf(q.id) && markOf(q.id)!.earned < markOf(q.id)!.points }">
              <td class="no num">{{ i + 1 }}</td>
              <td><label :for="q.id">{{ q.text }}</label></td>
              <td class="in"><input :id="q.id" ref="fields" v-model="answers[q.id]" :name="q.id" autocomplete="off" spellcheck="false" maxlength="80" @input="keep" @keydown.enter.exact.prevent="enter(i)" @keydown.up.prevent="back(i)" @focus="($event.target as HTMLInputElement).select()" @blur="q.kind === 'verdict' && (answers[q.id] = verdictWord(answers[q.id] ?? ''))" /><span class="soft unit">{{ q.unit ?? hint(q.kind) }}</span></td>
              <td class="mark" :data-mark="q.id"><div v-if="markOf(q.id)"><b class="num">{{ markOf(q.id)!.earned ? '✓' : '✗' }} {{ markOf(q.id)!.earned }}</b><span>{{ markOf(q.id)!.text }}</span></div></td>
            </tr>
          </tbody>
        </table>
        <div class="foot">
          <el-button v-if="!marked || drafts[draftKey]" type="primary" :loading="busy" @click="mark">Mark this call</el-button>
          <template v-else><b class="num sum">{{ call.earned }}/{{ call.possible }}</b><button id="onward" type="button" class="onward" @click="onward">{{ nextCall(paper.calls, position) === null ? 'Next paper' : `Call ${nextCall(paper.calls, position)}` }} <kbd>Enter</kbd></button></template>
        </div>
      </form>
      <aside class="card">
        <h2>Key: {{ call.title }}</h2>
        <p class="soft">{{ call.complaint }}</p>
        <table class="read"><tbody><tr v-for="r in call.readings" :key="String(r.label)"><td>{{ r.label }}</td><td class="num">{{ r.text }}</td></tr></tbody></table>
        <template v-for="kind in (['fault', 'evidence', 'action'] as const)" :key="kind">
          <ul class="choices"><li v-for="c in call.choices[kind]" :key="c.letter"><b class="num">{{ c.letter }}</b>{{ c.text }}</li></ul>
        </template>
      </aside>
    </div>
  </main>
</template>

<style scoped>
.page { max-width: 1260px; padding-top: 14px; }
.page-head { margin-bottom: 8px; }
.start { display: grid; grid-template-columns: 520px minmax(0, 1fr); gap: 16px; align-items: start; }
.waiting { list-style: none; margin: 0; padding: 0; }
.waiting li { display: grid; grid-template-columns: 1fr auto auto; gap: 2px 14px; padding: 7px 0; border-bottom: 1px solid var(--line); }
.waiting i { grid-column: 1 / -1; height: 6px; background: var(--violet); border-radius: 2px; }
.code { font: 700 30px var(--mono); letter-spacing: 0.18em; text-transform: uppercase; width: 100%; padding: 8px 12px; border: 2px solid var(--violet); border-radius: 3px; background: #fff; }
.keys { margin-bottom: 0; font-size: 13px; }
kbd { font: 12px var(--mono); border: 1px solid #8d889c; border-bottom-width: 2px; border-radius: 3px; padding: 0 5px; background: #fff; color: var(--ink); }
.sheet { display: grid; grid-template-columns: 84px minmax(0, 1fr) 336px; gap: 12px; align-items: start; }
.calls { display: grid; gap: 6px; }
.calls button { display: flex; flex-direction: column; align-items: center; padding: 8px 4px; border: 1px solid var(--line); background: var(--card); border-radius: 3px; cursor: pointer; color: var(--ink); }
.calls button.on { border-color: var(--violet); box-shadow: inset 4px 0 var(--violet); font-weight: 700; }
.answers { width: 100%; border-collapse: collapse; }
.answers td { padding: 2px 6px; border-bottom: 1px solid var(--line); height: 38px; font-size: 14.5px; }
.no { color: var(--violet); font-weight: 700; width: 26px; }
.in { width: 152px; white-space: nowrap; }
.in input { width: 84px; font: 700 16px var(--mono); padding: 4px 7px; border: 1px solid #8d889c; border-radius: 3px; background: #fff; }
.unit { margin-left: 6px; font-size: 12.5px; }
.mark { width: 44%; font-size: 13px; line-height: 1.25; }
.mark > div { display: flex; align-items: baseline; gap: 4px; }
.mark b { flex: none; width: 36px; color: var(--good); }
.missed .mark b { color: var(--high); }
.missed { background: #fbeeea; }
.foot { display: flex; align-items: center; gap: 16px; margin-top: 10px; }
.sum { font-size: 22px; }
.onward { font: 600 15px Archivo; padding: 8px 16px; background: var(--violet); color: #fff; border: 0; border-radius: 3px; cursor: pointer; }
.onward kbd { background: none; color: #fff; border-color: #b9add9; margin-left: 6px; }
aside { font-size: 12.5px; padding: 10px 14px; }
aside p { margin: 0 0 4px; }
.read { width: 100%; border-collapse: collapse; margin-bottom: 8px; }
.read td { border-bottom: 1px solid var(--line); padding: 1px 0; }
.read td:last-child { text-align: right; font-weight: 700; }
.choices { list-style: none; margin: 0 0 5px; padding: 0; font-size: 12px; line-height: 1.28; }
.choices li { padding-left: 20px; position: relative; }
.choices b { position: absolute; left: 0; color: var(--violet); }
@media (max-width: 900px) { .sheet, .start { grid-template-columns: 1fr; } }
</style>
