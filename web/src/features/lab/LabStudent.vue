<script setup lang="ts">
/** A lab session on a phone at the bench: one step at a time, in order, kept here until the line is there. */
import { computed, nextTick, onBeforeUnmount, onMounted, ref } from 'vue'
import LabQuestion from './LabQuestion.vue'
import LabResult from './LabResult.vue'
import WeighPanel from './WeighPanel.vue'
import { since, type Carried } from './session'

const props = defineProps<{ carried: Carried }>()
const { session, waiting, lost, refused, say } = props.carried
const now = ref(Date.now())
let timer = 0
onMounted(() => (timer = window.setInterval(() => (now.value = Date.now()), 1000)))
onBeforeUnmount(() => window.clearInterval(timer))
const s = computed(() => session.value!)
const index = computed(() => s.value.phases.findIndex((p) => p.id === s.value.phase))
const ended = computed(() => s.value.ended_at !== null)
const over = computed(() => ended.value || s.value.state.finished)
const go = computed(() => s.value.signed === 'go')
const ticks = computed(() => s.value.ticks.filter((t) => t.phase === s.value.phase))
const asked = computed(() => s.value.questions.filter((q) => q.phase === s.value.phase))
const left = (phase: string) => {
  const open = s.value.ticks.filter((t) => t.phase === phase && !(t.id in s.value.state.ticks)).length
  return open + s.value.questions.filter((q) => q.phase === phase && !s.value.state.answers[q.id]?.trim()).length
}
const locked = (phase: string) =>
  over.value || (phase !== 'prove' && phase !== 'record' && phase !== 'close' && go.value && phase !== 'act')
async function move(by: number): Promise<void> {
  const to = s.value.phases[index.value + by]
  if (!to) return
  say('phase', { to: to.id })
  await nextTick()
  window.scrollTo(0, 0)
}
const status = computed(() =>
  lost.value
    ? `No line. ${waiting.value ? `${waiting.value} kept here, sent later.` : 'What you type is kept here.'}`
    : waiting.value
      ? 'Sending…'
      : 'Saved',
)
const words = (id: string) => s.value.state.answers[id] ?? ''
</script>

<template>
  <div v-if="session" class="session">
    <header class="bar">
      <div class="where">
        <b>{{ s.rig }}</b><span class="soft">{{ s.people.join(', ') }}</span
        ><span :class="['line', { lost }]" role="status" data-test="line">{{ status }}</span>
      </div>
      <nav class="steps" aria-label="Steps">
        <button
          v-for="(p, i) in s.phases"
          :key="p.id"
          type="button"
          :class="{ now: i === index, done: i < index && !left(p.id) }"
          :aria-label="p.name"
          :aria-current="i === index ? 'step' : undefined"
          :title="p.name"
          @click="say('phase', { to: p.id })"
        >
          {{ i + 1 }}
        </button>
      </nav>
    </header>
    <LabResult v-if="ended && s.result" :session="s" :result="s.result" />
    <section v-else class="step" :aria-label="s.phase_name">
      <h1>
        {{ s.phase_name }} <span class="num soft">{{ since(s.phase_since, now) }}</span>
      </h1>
      <p v-for="(r, i) in refused" :key="i" class="error" role="alert">{{ r }}</p>

      <template v-if="s.phase === 'card'">
        <p class="complaint">“{{ s.card.complaint }}”</p>
        <p v-if="s.card.history">{{ s.card.history }}</p>
        <p v-for="line in s.card.look_round" :key="line">{{ line }}</p>
        <dl class="plate">
          <div>
            <dt>Machine</dt>
            <dd>{{ s.card.machine }}</dd>
          </div>
          <div v-for="l in s.card.plate" :key="l.label">
            <dt>{{ l.label }}</dt>
            <dd class="num">{{ l.text }}</dd>
          </div>
        </dl>
        <p><b>You may touch:</b> {{ s.card.touch.join('; ') }}.</p>
        <p class="warn">{{ s.card.never }}</p>
      </template>

      <ul v-if="ticks.length" class="ticks">
        <li v-for="t in ticks" :key="t.id">
          <label :class="{ on: t.id in s.state.ticks }"
            ><input
              type="checkbox"
              :checked="t.id in s.state.ticks"
              :disabled="over"
              :data-test="`tick-${t.id}`"
              @change="say('tick', { step: t.id, on: ($event.target as HTMLInputElement).checked })"
            />{{ t.text }}</label
          >
        </li>
      </ul>
      <p v-if="s.phase === 'safety' && s.countersign" class="sign" role="status">
        {{
          s.countersigned
            ? 'Countersigned. Gauges may go on.'
            : 'This rig asks for a countersign: call your instructor before gauges go on.'
        }}
      </p>
      <p v-if="s.phase === 'safety'" class="soft small">
        For training. Local codes, the manufacturer’s instructions and whoever runs this lab come first.
      </p>
      <label v-if="s.phase === 'look'" class="text"
        ><span>What you saw</span
        ><textarea
          :value="s.state.note"
          rows="4"
          maxlength="600"
          :disabled="over"
          data-test="note"
          @input="say('note', { text: ($event.target as HTMLTextAreaElement).value })"
        />
      </label>
      <p v-if="s.phase === 'measure'" class="soft small">
        From your own instruments, after 10 to 15 min of running. Each reading is kept with its time.
      </p>
      <LabQuestion
        v-for="q in asked"
        :key="q.id"
        :question="q"
        :value="words(q.id)"
        :locked="locked(s.phase)"
        @typed="(text) => say('answer', { question: q.id, text })"
      />

      <template v-if="s.phase === 'plan'">
        <p v-if="s.signed === 'stop'" class="stop" role="alert" data-test="stopped">
          <b>Stop.</b> {{ s.why }} Change your plan, then hand it in again.
        </p>
        <p v-else-if="go" class="go" role="status"><b>Go ahead.</b> {{ s.why }}</p>
        <p v-else-if="s.signed === 'asked'" class="sign" role="status" data-test="asked">
          Handed in. Wait for your instructor’s word: touch nothing yet.
        </p>
        <button
          v-if="!go && s.signed !== 'asked'"
          type="button"
          class="big"
          :disabled="over"
          data-test="hand-in"
          @click="say('plan')"
        >
          Hand in the plan
        </button>
      </template>

      <template v-if="s.phase === 'act'">
        <p v-if="!go" class="stop" role="alert">No go-ahead yet. Hand your plan in and wait for your instructor.</p>
        <WeighPanel :session="s" :locked="over || !go" @weigh="(data) => say('weigh', data)" />
        <button type="button" class="big" :disabled="over || !go || s.state.done" data-test="done" @click="say('done')">
          {{ s.state.done ? 'Work done' : 'My work is done' }}
        </button>
      </template>

      <template v-if="s.phase === 'prove'">
        <p class="soft small">Let it run 10 to 15 min after the last step, then read again.</p>
        <LabQuestion
          v-for="p in s.proofs"
          :key="p.reading"
          :question="{
            id: `proof_${p.reading}`,
            text: p.label,
            kind: 'number',
            unit: p.unit,
            points: 0,
            phase: 'prove',
            band: '',
            choices: [],
          }"
          :value="s.state.proofs[p.reading] ?? ''"
          :locked="over"
          @typed="(text) => say('proof', { reading: p.reading, text })"
        />
      </template>

      <template v-if="s.phase === 'record'">
        <label class="text"
          ><span>What was wrong, what you did, what went where</span
          ><textarea
            :value="s.state.record"
            rows="5"
            maxlength="600"
            :disabled="over"
            data-test="record"
            @input="say('record', { text: ($event.target as HTMLTextAreaElement).value })"
          />
        </label>
        <button
          v-if="!over"
          type="button"
          class="big"
          :disabled="!s.state.record.trim()"
          data-test="finish"
          @click="say('finish')"
        >
          Finish
        </button>
        <p v-else class="go" role="status">Finished. Your instructor puts the rig back and ends the session.</p>
      </template>
    </section>
    <footer v-if="!ended" class="hands">
      <button type="button" :disabled="index <= 0" @click="move(-1)">Back</button>
      <button
        type="button"
        :class="{ called: s.wants_help }"
        :disabled="s.wants_help"
        data-test="help"
        @click="say('help')"
      >
        {{ s.wants_help ? 'Help is called' : 'Help' }}
      </button>
      <button type="button" class="next" :disabled="index >= s.phases.length - 1" data-test="next" @click="move(1)">
        Next<small v-if="left(s.phase)"> · {{ left(s.phase) }} open</small>
      </button>
    </footer>
  </div>
</template>

<style scoped>
.session {
  max-width: 640px;
  margin: 0 auto;
  padding: 0 12px 84px;
}
.bar {
  position: sticky;
  top: 0;
  z-index: 5;
  background: var(--paper);
  padding: 8px 0 6px;
  border-bottom: 1px solid var(--line);
}
.where {
  display: flex;
  gap: 4px 10px;
  flex-wrap: wrap;
  align-items: baseline;
}
.line {
  margin-left: auto;
  color: var(--good);
  font-size: 13.5px;
}
.line.lost {
  color: var(--high-dark);
  font-weight: 600;
}
.steps {
  display: grid;
  grid-auto-flow: column;
  grid-auto-columns: 1fr;
  gap: 3px;
  margin-top: 6px;
}
.steps button {
  min-height: 30px;
  padding: 0;
  border: 1px solid var(--line);
  border-radius: 3px;
  background: var(--card);
  color: var(--ink-soft);
  font-size: 13px;
  cursor: pointer;
}
.steps .done {
  background: var(--violet-soft);
  color: var(--ink);
}
.steps .now {
  background: var(--violet);
  border-color: var(--violet);
  color: var(--white);
  font-weight: 700;
}
h1 {
  font-size: 22px;
  margin: 12px 0 6px;
}
h1 span {
  font-size: 15px;
  font-weight: 400;
}
.complaint {
  font-size: 19px;
}
.plate {
  display: grid;
  margin: 0 0 10px;
}
.plate div {
  display: flex;
  justify-content: space-between;
  gap: 12px;
  padding: 3px 0;
  border-bottom: 1px solid var(--line);
}
.plate dt {
  color: var(--ink-soft);
}
.plate dd {
  margin: 0;
  text-align: right;
}
.ticks {
  list-style: none;
  margin: 0 0 8px;
  padding: 0;
  display: grid;
  gap: 8px;
}
.ticks label {
  display: flex;
  gap: 12px;
  align-items: center;
  min-height: 54px;
  padding: 8px 12px;
  border: 1px solid var(--edge);
  border-radius: 4px;
  background: var(--card);
  font-size: 16px;
  cursor: pointer;
}
.ticks label.on {
  background: var(--violet-soft);
  border-color: var(--violet);
}
.ticks input {
  width: 24px;
  height: 24px;
  flex: 0 0 auto;
}
.text span {
  display: block;
  font-weight: 600;
  padding: 6px 0;
}
textarea {
  width: 100%;
  font-size: 16px;
}
.sign,
.go,
.stop,
.warn {
  padding: 10px 12px;
  border-left: 5px solid var(--amber);
  background: var(--amber-tint);
  margin: 10px 0;
}
.go {
  border-color: var(--good);
  background: var(--violet-soft);
}
.stop {
  border-color: var(--high);
  background: var(--high-tint);
}
.big {
  width: 100%;
  min-height: 54px;
  margin-top: 12px;
  border: 0;
  border-radius: 4px;
  background: var(--violet);
  color: var(--white);
  font-size: 18px;
  font-weight: 600;
  cursor: pointer;
}
.big:disabled {
  background: var(--line);
  color: var(--ink-mid);
  cursor: default;
}
.hands {
  position: fixed;
  left: 0;
  right: 0;
  bottom: 0;
  display: grid;
  grid-template-columns: 1fr 1fr 1.6fr;
  gap: 8px;
  padding: 8px 12px;
  max-width: 640px;
  margin: 0 auto;
  background: var(--paper);
  border-top: 1px solid var(--line);
}
.hands button {
  min-height: 52px;
  border: 1px solid var(--edge);
  border-radius: 4px;
  background: var(--card);
  color: var(--ink);
  font-size: 16px;
  cursor: pointer;
}
.hands .next {
  background: var(--violet);
  border-color: var(--violet);
  color: var(--white);
  font-weight: 600;
}
.hands .called {
  background: var(--amber-tint);
}
.hands button:disabled {
  opacity: 0.6;
  cursor: default;
}
</style>
