<script setup lang="ts">
import { computed, nextTick, onMounted, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, ask, type Schemas, sentence, FailedRequest } from '@/api/client'
import { kept } from '@/shared/kept'
import { user } from '@/shared/session'
import KeyPanel from './KeyPanel.vue'
import MarkCell from './MarkCell.vue'
import { afterEnter, command, nextCall, toSend, verdictWord } from './order'
import RowsSkeleton from '@/shared/RowsSkeleton.vue'

const route = useRoute()
const router = useRouter()
const typed = ref('')
const paper = ref<Schemas['PaperReply'] | null>(null)
const position = ref(1)
const failure = ref('')
/** The server's code of what failed: what can be done about it hangs on that, not on its words. */
const failedBy = ref('')
const busy = ref(false)
const line = ref('')
const said = ref('')
/** Answers not sent yet, by code and call: they survive a reload and an expired log-in. */
const drafts = kept<Record<string, Record<string, string>>>('marking.drafts', {})
const codeField = ref<HTMLInputElement>()
const quick = ref<HTMLInputElement>()
const fields = ref<HTMLInputElement[]>([])
const call = computed(() => paper.value?.calls.find((c) => c.position === position.value))
const waiting = ref<Schemas['SheetRow'][] | null>(null)
const draftKey = computed(() => `${paper.value?.code}.${position.value}`)
const answers = ref<Record<string, string>>({})
const markOf = (id: string) => call.value?.marks.find((m) => m.question === id)
const marked = computed(() => (call.value?.marks.length ?? 0) > 0)
const done = computed(
  () => (marked.value || (call.value?.waits && call.value.answered)) && !drafts.value[draftKey.value],
)
const teaches = computed(() => user.value?.role === 'instructor')
const hint = (kind: string) =>
  ({ verdict: 'L N H', change: 'D S U', letters: 'letters', letter: 'letter', steps: 'numbers' })[kind] ?? ''
const next = computed(() => (paper.value ? nextCall(paper.value.calls, position.value) : null))

function show(to: number): void {
  position.value = to
  const c = call.value
  answers.value = Object.fromEntries(
    c?.questions.map((q) => [q.id, drafts.value[draftKey.value]?.[q.id] ?? q.raw]) ?? [],
  )
  line.value = said.value = ''
  void nextTick(() => quick.value?.focus())
}
async function open(code: string): Promise<void> {
  failure.value = ''
  try {
    paper.value = await ask(
      api.GET('/api/v1/papers/{code}', { params: { path: { code: code.replace(/^.*[/:#]/, '') } } }),
    )
    typed.value = ''
    show(nextCall(paper.value.calls, 0) ?? 1)
    if (route.params.code !== paper.value.code) await router.replace(`/marking/${paper.value.code}`)
  } catch (error) {
    fail(error)
    void nextTick(() => codeField.value?.select())
  }
}
function keep(): void {
  drafts.value[draftKey.value] = { ...answers.value }
}
function allAsKey(): void {
  if (!call.value) return
  answers.value = Object.fromEntries(call.value.questions.map((q) => [q.id, q.key]))
  keep()
  said.value = 'All as key: now only what differs.'
}
/** The marker's line: "k", "9 h", "9 .", or nothing to mark and go on. */
function give(): void {
  const c = call.value
  if (!c) return
  const wanted = command(line.value)
  if (wanted.kind === 'mark') {
    if (done.value) onward()
    else void mark()
    return
  }
  line.value = ''
  if (wanted.kind === 'key') return allAsKey()
  if (wanted.kind === 'confirm') return void confirmAll()
  if (wanted.kind === 'unknown') {
    said.value = wanted.text.includes('!')
      ? 'Your own mark needs points and a reason: 9 !1 seen at the rig.'
      : `“${wanted.text}”? Type a number and what stands there, k for all as key, or nothing to mark.`
    return
  }
  const q = c.questions[wanted.number - 1]
  if (!q) {
    said.value = `There is no question ${wanted.number}; this call has 1 to ${c.questions.length}.`
    return
  }
  if (wanted.kind === 'own') return void ownMark(q.id, wanted.number, wanted.points, wanted.reason)
  answers.value[q.id] = q.kind === 'verdict' || q.kind === 'change' ? verdictWord(wanted.value, q.kind) : wanted.value
  keep()
  said.value = `${wanted.number} · ${q.text}: ${answers.value[q.id] || 'blank'}`
}
/** The score, or how far the marking has come. */
const total = computed(() => {
  const calls = paper.value?.calls ?? []
  const marked = calls.filter((c) => c.marks.length)
  if (!marked.length) return 'not marked yet'
  const sum = `${marked.reduce((n, c) => n + c.earned, 0)}/${marked.reduce((n, c) => n + c.possible, 0)}`
  return marked.length === calls.length ? sum : `${sum} so far, ${marked.length} of ${calls.length} calls marked`
})
async function mark(): Promise<void> {
  const c = call.value
  if (!paper.value || !c || busy.value) return
  busy.value = true
  failure.value = ''
  try {
    const sent = toSend(c.questions, answers.value, marked.value || c.answered)
    paper.value = await ask(
      api.PUT('/api/v1/papers/{code}/answers', {
        params: { path: { code: paper.value.code } },
        body: {
          call: position.value,
          answers: sent,
          base: Object.fromEntries(c.questions.map((q) => [q.id, q.revision])),
        },
      }),
    )
    delete drafts.value[draftKey.value]
    const now = call.value
    answers.value = Object.fromEntries(now?.questions.map((q) => [q.id, q.raw]) ?? [])
    said.value = now?.waits
      ? 'Saved. It is marked once somebody has entered what the rig read.'
      : `${now?.earned} of ${now?.possible}`
    void nextTick(() => quick.value?.focus())
  } catch (error) {
    fail(error)
  } finally {
    busy.value = false
  }
}
/** Points of one's own from the keyboard; without points back to the rubric. */
async function ownMark(question: string, number: number, points: number | null, reason: string): Promise<void> {
  if (!teaches.value || !markOf(question)) {
    said.value = teaches.value
      ? 'Mark the call first; then you can change a mark and say why.'
      : 'Only an instructor can change a mark.'
    return
  }
  await override(question, points, reason || 'back to the rubric')
  if (!failure.value) said.value = `${number}: ${markOf(question)?.text ?? ''}`
}
async function confirmAll(): Promise<void> {
  const open = call.value?.marks.filter((m) => m.code === 'to_confirm') ?? []
  if (!teaches.value || !open.length) {
    said.value = teaches.value ? 'Nothing on this call needs confirming.' : 'Only an instructor can confirm.'
    return
  }
  for (const m of open) await override(m.question, m.suggested ?? 0, '')
  if (!failure.value) said.value = `Confirmed: ${open.length}.`
}
async function override(question: string, earned: number | null, reason: string): Promise<void> {
  if (!paper.value) return
  failure.value = ''
  try {
    paper.value = await ask(
      api.PUT('/api/v1/papers/{code}/override', {
        params: { path: { code: paper.value.code } },
        body: { call: position.value, question, earned, reason },
      }),
    )
  } catch (error) {
    fail(error)
  }
}
async function reload(): Promise<void> {
  if (!paper.value) return
  const mine = { ...answers.value }
  const at = position.value
  paper.value = await ask(api.GET('/api/v1/papers/{code}', { params: { path: { code: paper.value.code } } }))
  failure.value = ''
  position.value = at
  // What stands there now is shown where the two differ; what only this marker changed stays.
  const questions = call.value?.questions ?? []
  answers.value = Object.fromEntries(questions.map((q) => [q.id, q.raw || mine[q.id] || '']))
  const other = questions
    .map((q, i) => (q.raw && mine[q.id] && q.raw !== mine[q.id] ? `${i + 1} ${mine[q.id]}` : ''))
    .filter(Boolean)
  said.value = other.length ? `You had otherwise: ${other.join(' · ')}` : ''
}
function enter(index: number): void {
  const step = afterEnter(index, call.value?.questions.length ?? 0)
  if (step.kind === 'mark') void mark()
  else fields.value[step.index]?.focus()
}
function onward(): void {
  if (next.value !== null) show(next.value)
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
    waiting.value = (await ask(api.GET('/api/v1/sheets'))).sheets.filter(
      (s) => s.status === 'ready' && s.marked < s.papers,
    )
  } catch (error) {
    fail(error)
  }
}
function back(index: number): void {
  if (index > 0) fields.value[index - 1]?.focus()
}
watch(
  () => route.params.code,
  (code) => {
    if (typeof code === 'string' && code && code !== paper.value?.code) void open(code)
  },
)
onMounted(() => {
  const code = route.params.code
  if (typeof code === 'string' && code) void open(code)
  else {
    codeField.value?.focus()
    void listWaiting()
  }
})

function fail(error: unknown): void {
  failure.value = sentence(error)
  failedBy.value = error instanceof FailedRequest ? error.code : ''
}
</script>

<template>
  <main class="page" @keydown.esc="anotherPaper" @keydown.ctrl.enter.prevent="mark">
    <div class="page-head">
      <h1>
        {{ paper ? paper.name : 'Marking'
        }}<small v-if="paper && paper.attempt > 1" class="soft"> attempt {{ paper.attempt }}</small>
      </h1>
      <span v-if="paper" class="soft"
        >{{ paper.sheet_title }} · <span class="num">{{ paper.code }}</span> ·
        <b class="num" data-test="total">{{ total }}</b><template v-if="teaches">
          · <RouterLink :to="`/feedback/${paper.code}`">Feedback</RouterLink></template
        ></span
      >
    </div>
    <p v-if="failure" class="error" role="alert">
      {{ failure }}
      <el-button v-if="paper && failedBy === 'marked_meanwhile'" size="small" data-test="reload" @click="reload"
        >Reload the paper</el-button
      >
    </p>
    <div v-if="!paper" class="start">
      <form class="card ask" @submit.prevent="open(typed)">
        <label class="field"
          ><span>Code at the top right of the paper, typed or scanned</span
          ><input
            ref="codeField"
            v-model="typed"
            class="code"
            autocomplete="off"
            spellcheck="false"
            maxlength="120"
            name="code"
        /></label>
        <el-button type="primary" native-type="submit" :disabled="!typed.trim()">Open</el-button>
        <p class="soft keys">
          <kbd>k</kbd> <kbd>Enter</kbd> all as key · <kbd>9 h</kbd> <kbd>Enter</kbd> what differs at 9 ·
          <kbd>9 .</kbd> blank · <kbd>Enter</kbd> alone marks, then goes on · <kbd>Esc</kbd> another paper<template
            v-if="teaches"
            ><br />Once marked: <kbd>c</kbd> confirms what is suggested for words · <kbd>9 !1 seen at the rig</kbd> your
            own mark and why · <kbd>9 !</kbd> back to the rubric</template
          >
        </p>
      </form>
      <section class="card">
        <h2>Waiting to be marked</h2>
        <RowsSkeleton v-if="!waiting && !failure" />
        <p v-else-if="waiting && !waiting.length" class="soft">
          No paper is waiting. <RouterLink to="/sheets">All sheets</RouterLink>
        </p>
        <ul class="waiting">
          <li v-for="s in waiting" :key="s.id">
            <RouterLink :to="`/sheets/${s.id}`"
              ><b>{{ s.title }}</b></RouterLink
            ><span class="soft">{{ s.class_name }}</span
            ><b class="num">{{ s.papers - s.marked }} of {{ s.papers }} left</b
            ><i :style="{ width: `${(100 * s.marked) / s.papers}%` }" />
          </li>
        </ul>
      </section>
    </div>
    <div v-else-if="call" class="sheet">
      <nav class="calls" aria-label="Calls">
        <button
          v-for="c in paper.calls"
          :key="c.position"
          :class="{ on: c.position === position }"
          @click="show(c.position)"
        >
          Call {{ c.position
          }}<span class="num">{{
            c.marks.length ? `${c.earned}/${c.possible}` : c.waits && c.answered ? 'rig' : '·'
          }}</span>
        </button>
      </nav>
      <form class="card" @submit.prevent>
        <div class="quick">
          <input
            ref="quick"
            v-model="line"
            name="quick"
            aria-label="What differs from the key"
            placeholder="k, then what differs: 9 h"
            autocomplete="off"
            spellcheck="false"
            maxlength="600"
            @keydown.enter.exact.prevent="give"
          />
          <button type="button" class="key" data-test="all-as-key" @click="allAsKey">All as key</button>
          <el-button v-if="!done" type="primary" :loading="busy" data-test="mark" @click="mark"
            >Mark this call</el-button
          >
          <template v-else
            ><b v-if="marked" class="num sum">{{ call.earned }}/{{ call.possible }}</b
            ><button id="onward" type="button" class="onward" @click="onward">
              {{ next === null ? 'Next paper' : `Call ${next}` }} <kbd>Enter</kbd>
            </button></template
          >
        </div>
        <p class="said soft" role="status">{{ said || '\u00a0' }}</p>
        <p v-if="call.waits" class="rigword">
          This call is marked against the rig, once somebody has
          <RouterLink :to="`/sheets/${paper.sheet_id}`">entered what it read</RouterLink>.
        </p>
        <table class="answers">
          <tbody>
            <tr
              v-for="(q, i) in call.questions"
              :key="q.id"
              :class="{
                missed: markOf(q.id) && markOf(q.id)!.earned < markOf(q.id)!.points,
                differs: answers[q.id] !== q.key,
              }"
            >
              <td class="no num">{{ i + 1 }}</td>
              <td>
                <label :for="q.id">{{ q.text }}</label>
              </td>
              <td class="in">
                <input
                  :id="q.id"
                  ref="fields"
                  v-model="answers[q.id]"
                  :name="q.id"
                  :class="{ long: q.kind === 'text' || q.kind === 'steps' }"
                  :placeholder="q.key"
                  autocomplete="off"
                  spellcheck="false"
                  :maxlength="q.kind === 'text' ? 600 : 80"
                  @input="keep"
                  @keydown.enter.exact.prevent="enter(i)"
                  @keydown.up.prevent="back(i)"
                  @keydown.down.prevent="fields[i + 1]?.focus()"
                  @focus="($event.target as HTMLInputElement).select()"
                  @blur="
                    (q.kind === 'verdict' || q.kind === 'change') &&
                    (answers[q.id] = verdictWord(answers[q.id] ?? '', q.kind))
                  "
                /><span class="soft unit">{{ q.unit ?? hint(q.kind) }}</span>
              </td>
              <MarkCell
                :mark="markOf(q.id)"
                :question="q.id"
                :teaches="teaches"
                @override="(earned, reason) => override(q.id, earned, reason)"
              />
            </tr>
          </tbody>
        </table>
      </form>
      <KeyPanel :call="call" />
    </div>
  </main>
</template>

<style scoped>
.page {
  max-width: 1290px;
  padding-top: 8px;
}
.page-head {
  margin-bottom: 4px;
}
.sheet .card {
  padding-top: 10px;
}
.start {
  display: grid;
  grid-template-columns: 520px minmax(0, 1fr);
  gap: 16px;
  align-items: start;
}
.waiting {
  list-style: none;
  margin: 0;
  padding: 0;
}
.waiting li {
  display: grid;
  grid-template-columns: 1fr auto auto;
  gap: 2px 14px;
  padding: 7px 0;
  border-bottom: 1px solid var(--line);
}
.waiting i {
  grid-column: 1 / -1;
  height: 6px;
  background: var(--violet);
  border-radius: 2px;
}
.code {
  font: 700 30px var(--mono);
  letter-spacing: 0.18em;
  text-transform: uppercase;
  width: 100%;
  padding: 8px 12px;
  border: 2px solid var(--violet);
  border-radius: 3px;
  background: var(--white);
}
.keys {
  margin-bottom: 0;
  font-size: 13px;
  line-height: 1.9;
}
kbd {
  font: 12px var(--mono);
  border: 1px solid var(--edge);
  border-bottom-width: 2px;
  border-radius: 3px;
  padding: 0 5px;
  background: var(--white);
  color: var(--ink);
}
.sheet {
  display: grid;
  grid-template-columns: 84px minmax(0, 1fr) 330px;
  gap: 12px;
  align-items: start;
}
.calls {
  display: grid;
  gap: 6px;
}
.calls button {
  display: flex;
  flex-direction: column;
  align-items: center;
  padding: 8px 4px;
  border: 1px solid var(--line);
  background: var(--card);
  border-radius: 3px;
  cursor: pointer;
  color: var(--ink);
}
.calls button.on {
  border-color: var(--violet);
  box-shadow: inset 4px 0 var(--violet);
  font-weight: 700;
}
.quick {
  display: flex;
  gap: 10px;
  align-items: center;
}
.quick input {
  flex: 1;
  min-width: 120px;
  font: 700 19px var(--mono);
  padding: 6px 10px;
  border: 2px solid var(--violet);
  border-radius: 3px;
  background: var(--white);
}
.quick input::placeholder {
  font: 400 14px Archivo;
  color: var(--ink-faint);
}
.key {
  border: 1px solid var(--violet);
  color: var(--violet);
  background: none;
  border-radius: 3px;
  padding: 7px 12px;
  font-weight: 600;
  font-size: 14.5px;
  cursor: pointer;
  white-space: nowrap;
}
.said {
  margin: 2px 0;
  font-size: 13.5px;
}
.rigword {
  border-left: 4px solid var(--amber);
  padding-left: 10px;
  margin: 0 0 6px;
}
.answers {
  width: 100%;
  border-collapse: collapse;
}
.answers td {
  padding: 0 6px;
  border-bottom: 1px solid var(--line);
  height: 27px;
  font-size: 13.5px;
  line-height: 1.15;
}
.no {
  color: var(--violet);
  font-weight: 700;
  width: 26px;
}
.in {
  width: 142px;
  white-space: nowrap;
}
.in input {
  width: 82px;
  height: 24px;
  font: 700 14.5px var(--mono);
  padding: 0 7px;
  border: 1px solid var(--edge);
  border-radius: 3px;
  background: var(--white);
}
.in input.long {
  width: 104px;
}
.in input::placeholder {
  color: var(--ink-faint);
  font-weight: 400;
}
.differs .in input {
  border-color: var(--violet);
  box-shadow: inset 3px 0 var(--violet);
}
.unit {
  margin-left: 6px;
  font-size: 12px;
}
.missed {
  background: var(--high-tint);
}
.sum {
  font-size: 22px;
}
.onward {
  font: 600 15px Archivo;
  padding: 8px 16px;
  background: var(--violet);
  color: var(--white);
  border: 0;
  border-radius: 3px;
  cursor: pointer;
  white-space: nowrap;
}
.onward kbd {
  background: none;
  color: var(--white);
  border-color: var(--violet-line);
  margin-left: 6px;
}
@media (max-width: 900px) {
  .sheet,
  .start {
    grid-template-columns: 1fr;
  }
}
@media (max-width: 600px) {
  .quick {
    flex-wrap: wrap;
  }
  .answers tr {
    display: grid;
    grid-template-columns: 26px minmax(0, 1fr);
    padding: 6px 0;
  }
  .answers tr,
  .answers tr > * {
    height: auto;
  }
  .answers tr > * {
    grid-column: 2;
    min-width: 0;
    border: 0;
    padding-block: 1px;
  }
  .answers .no {
    grid-column: 1;
    grid-row: 1;
  }
}
</style>
