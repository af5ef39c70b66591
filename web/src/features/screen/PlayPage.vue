<script setup lang="ts">
/** A call on screen: look, measure, work out, name it, work on it, read again. */
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import type { Schemas } from '@/api/client'
import { useRoute } from 'vue-router'
import ActPanel from '@/shared/ActPanel.vue'
import { askFirst } from '@/shared/asking'
import type { Acting } from '@/shared/acting'
import LabQuestion from '@/features/lab/LabQuestion.vue'
import { user } from '@/shared/session'
import MeasurePanel from './MeasurePanel.vue'
import SitePicture from './SitePicture.vue'
import WaysPicture from './WaysPicture.vue'
import { clock, usePlay } from './play'
import { tr } from '@/shared/language'

const play = usePlay(Number(useRoute().params.id))
const { run, last, waiting, busy, lost, failure, say } = play
const r = computed(() => run.value!)
const tab = ref<'look' | 'measure' | 'think' | 'act'>('look')
const TABS = computed(
  () =>
    [
      ['look', tr('Look and test')],
      ['measure', tr(r.value.named ? 'Read again' : 'Measure')],
      ['think', tr('Work out')],
      ['act', tr('Work on it')],
    ] as const,
)
const arrivedAt = ref(Date.now())
const now = ref(Date.now())
let timer = 0
onMounted(() => (timer = window.setInterval(() => (now.value = Date.now()), 1000)))
onBeforeUnmount(() => window.clearInterval(timer))
const left = computed(() => {
  const seconds = r.value.left_s
  return seconds === null || seconds === undefined ? null : Math.max(seconds - (now.value - arrivedAt.value) / 1000, 0)
})
const timeLeft = computed(() => {
  const s = Math.round(left.value ?? 0)
  return `${Math.floor(s / 60)}:${String(s % 60).padStart(2, '0')}`
})
const seen = computed(() => {
  const found: Record<string, string> = {}
  for (const s of r.value.steps) if (s.kind === 'look' && !s.refused) found[s.data.check as string] = s.said.join(' ')
  return found
})
const tested = computed(() => {
  const found: Record<string, string> = {}
  for (const s of r.value.steps) if (s.kind === 'test' && !s.refused) found[s.data.test as string] = s.said.join(' ')
  return found
})
const gauges = computed(() => {
  const g = r.value.steps.filter((s) => s.kind === 'gauges' && !s.refused).at(-1)
  return g !== undefined && (g.data.low !== 'off' || g.data.high !== 'off')
})
const questions = computed(() =>
  r.value.questions.map((q) => ({
    id: q.id,
    text: q.text,
    kind: q.kind,
    unit: q.unit ?? '',
    points: 0,
    phase: '',
    band: q.band,
    choices: q.id === 'fault' ? r.value.faults : q.id === 'evidence' ? r.value.evidence : [],
  })),
)
/** What was typed for each reading, to work with. */
const own = computed(() =>
  r.value.points
    .map((p) => ({ label: p.label, text: r.value.answers[`read_${p.point}`] ?? '' }))
    .filter((o) => o.text.trim()),
)
const figures = computed(() => questions.value.filter((q) => q.id !== 'fault' && q.id !== 'evidence'))
const naming = computed(() => questions.value.filter((q) => q.id === 'fault' || q.id === 'evidence'))
const actions = ref<Schemas['ActionRow'][]>([])
watch(
  () => run.value?.actions,
  (found) => (actions.value = found ?? []),
  { immediate: true },
)
const work: Acting = {
  actions,
  steps: ref([]),
  act: (action, given = {}) => {
    if (action === 'settle' || action === 'wait') say(action, action === 'wait' ? { minutes: given.minutes } : {})
    else say('act', { action, arguments: given })
  },
  undo: () => undefined,
  restart: () => undefined,
  busy,
}
async function name(): Promise<void> {
  const sure = await askFirst({
    title: tr('Lock in your diagnosis?'),
    lines: [tr('Your readings, figures and diagnosis cannot be changed after this. Next you do the repair.')],
    yes: tr('Lock it in'),
  })
  if (sure) {
    say('name')
    tab.value = 'act'
  }
}
async function finish(): Promise<void> {
  const sure = await askFirst({
    title: tr(r.value.named ? 'Hand this call in?' : 'Hand it in without a diagnosis?'),
    lines: [tr('It is marked as it stands.')],
    yes: tr('Hand it in'),
  })
  if (sure) say('finish')
}
const status = computed(() =>
  lost.value
    ? waiting.value
      ? tr('No line. {n} kept here, sent later.', { n: waiting.value })
      : tr('No line. What you type is kept here.')
    : waiting.value
      ? tr('Sending…')
      : tr('Saved'),
)
</script>

<template>
  <main class="page play">
    <p v-if="failure" class="error" role="alert">{{ failure }}</p>
    <p v-if="!run" class="soft">{{ failure ? '' : tr('Starting the machine…') }}</p>
    <template v-else>
      <header class="head">
        <div>
          <h1>{{ tr('{title}, call {n}', { title: r.title, n: r.position }) }}</h1>
          <p class="complaint">
            “{{ r.complaint }}” <span v-if="r.history" class="soft">{{ r.history }}</span>
          </p>
        </div>
        <dl class="meters">
          <div>
            <dt>{{ tr('On site') }}</dt>
            <dd class="num" data-test="minutes">{{ clock(r.minutes) }} h</dd>
          </div>
          <div>
            <dt>{{ tr('Bill') }}</dt>
            <dd class="num" data-test="bill">{{ Math.round(r.bill) }}</dd>
          </div>
          <div v-if="left !== null">
            <dt>{{ tr('Time left') }}</dt>
            <dd class="num" data-test="left">{{ timeLeft }}</dd>
          </div>
          <div>
            <dt>{{ tr('Line') }}</dt>
            <dd data-test="line" aria-live="polite">{{ status }}</dd>
          </div>
        </dl>
      </header>
      <WaysPicture v-if="r.judged" :judged="r.judged" />
      <p v-else-if="r.finished" class="card" role="status">
        {{ tr('Handed in. Your instructor shows the marks when everybody is done.') }}
      </p>
      <template v-if="!r.finished">
        <div :class="['told', { harm: last?.harm.length, refused: last?.refused }]" aria-live="polite" data-test="told">
          <template v-if="busy">…</template>
          <template v-else-if="last">
            <span v-for="line in last.said" :key="line">{{ line }} </span>
            <span v-if="last.reading?.text" class="num">{{ last.reading.text }}</span>
            <span v-else-if="last.reading">{{ tr('Read the dial under Measure.') }}</span>
            <b v-for="line in last.harm" :key="line" role="alert"> {{ line }}</b>
            <small v-if="last.caution" class="soft"> {{ last.caution }}</small>
          </template>
          <template v-else>{{ tr('You just arrived. Nothing has been touched yet.') }}</template>
        </div>
        <nav class="tabs" :aria-label="tr('What to do')">
          <button
            v-for="[key, words] in TABS"
            :key="key"
            type="button"
            :aria-current="tab === key ? 'true' : undefined"
            :class="{ on: tab === key }"
            :data-test="`tab-${key}`"
            @click="tab = key"
          >
            {{ words }}
          </button>
        </nav>
        <div class="grid">
          <section class="card site" aria-labelledby="site">
            <h2 id="site">{{ tr('The site: {machine}', { machine: r.machine }) }}</h2>
            <div :class="{ away: tab !== 'look' }">
              <SitePicture
                :looks="r.looks"
                :seen="seen"
                :box="r.refrigeration"
                :busy="busy"
                :gauges="gauges"
                @look="say('look', { check: $event })"
              />
              <div class="plate">
                <el-button
                  v-if="!r.plate.length"
                  size="small"
                  :disabled="busy"
                  data-test="plate"
                  @click="say('plate')"
                  >{{ tr('Read the nameplate') }}</el-button
                >
                <details v-else open>
                  <summary>{{ tr('Nameplate') }}</summary>
                  <dl>
                    <template v-for="p in r.plate" :key="p.label"
                      ><dt>{{ p.label }}</dt>
                      <dd>{{ p.text }}</dd></template
                    >
                  </dl>
                </details>
              </div>
            </div>
            <dl v-if="own.length" class="own" data-test="own">
              <template v-for="o in own" :key="o.label"
                ><dt>{{ o.label }}</dt>
                <dd class="num">{{ o.text }}</dd></template
              >
            </dl>
          </section>
          <div class="side">
            <section v-if="tab === 'look'" class="card" aria-labelledby="tests">
              <h2 id="tests">{{ tr('Tests') }}</h2>
              <ul class="tests">
                <li v-for="t in r.tests" :key="t.id">
                  <el-button
                    size="small"
                    :disabled="busy"
                    :data-test="`test-${t.id}`"
                    @click="say('test', { test: t.id })"
                    >{{ t.name }}</el-button><small class="soft num">{{ t.minutes }} min</small>
                  <span v-if="tested[t.id]" class="answer">{{ tested[t.id] }}</span>
                </li>
              </ul>
              <p v-if="r.tests.some((t) => t.caution)" class="soft small">
                {{ tr('Pressure, live parts and hot lines: glasses and gloves on; lock out before a hand goes in.') }}
              </p>
            </section>
            <MeasurePanel v-else-if="tab === 'measure'" :play="play" :proving="r.named" />
            <section v-else-if="tab === 'think'" class="card" aria-labelledby="think">
              <h2 id="think">{{ tr('Work out, from your own readings') }}</h2>
              <p class="soft">
                {{ tr('Conversions: the ring on the dial, or') }}
                <a href="/reference" target="_blank" rel="noopener">{{ tr('the charts') }}</a>.
              </p>
              <div class="asked">
                <LabQuestion
                  v-for="q in figures"
                  :key="q.id"
                  :question="q"
                  :value="r.answers[q.id] ?? ''"
                  :locked="r.named"
                  @typed="say('answer', { question: q.id, text: $event })"
                />
              </div>
              <LabQuestion
                v-for="q in naming"
                :key="q.id"
                :question="q"
                :value="r.answers[q.id] ?? ''"
                :locked="r.named"
                @typed="say('answer', { question: q.id, text: $event })"
              />
              <el-button
                v-if="!r.named"
                type="primary"
                data-test="name"
                :disabled="busy || !(r.answers.fault ?? '').trim()"
                @click="name"
                >{{ tr('Lock in diagnosis') }}</el-button
              >
              <p v-else role="status">{{ tr('Diagnosis locked in. Now do the repair.') }}</p>
            </section>
            <template v-else>
              <p v-if="!r.named" class="card soft">
                {{ tr('Lock in a diagnosis first, under Work out: repairs without a diagnosis earn little.') }}
              </p>
              <ActPanel :work="work" once />
              <section class="card">
                <h2>{{ tr('Ticket') }}</h2>
                <label class="field"
                  ><span>{{ tr('What was wrong, what was done, what proves it') }}</span
                  ><textarea
                    :value="r.ticket"
                    rows="3"
                    maxlength="600"
                    data-test="ticket"
                    @input="say('ticket', { text: ($event.target as HTMLTextAreaElement).value })"
                  />
                </label>
                <el-button type="primary" :disabled="busy" data-test="finish" @click="finish">{{
                  tr('Hand it in')
                }}</el-button>
              </section>
            </template>
            <p v-if="r.mode === 'practice'" class="hint">
              <el-button size="small" :disabled="busy" data-test="hint" @click="say('hint')">{{
                tr('A hint')
              }}</el-button>
              <small class="soft">{{ tr('The first costs 3 points, the second 4, each further one 6.') }}</small>
            </p>
          </div>
        </div>
      </template>
      <details class="card rubric">
        <summary>{{ tr('What earns what') }}</summary>
        <dl>
          <template v-for="line in r.rubric" :key="line.what"
            ><dt>{{ line.what }}</dt>
            <dd>{{ line.earns }}</dd></template
          >
        </dl>
      </details>
    </template>
    <p v-if="user?.role !== 'apprentice'" class="soft">{{ tr('Only whoever plays a call sees this page.') }}</p>
  </main>
</template>

<style scoped>
.head {
  display: flex;
  gap: 12px 30px;
  justify-content: space-between;
  align-items: start;
  flex-wrap: wrap;
}
h1 {
  margin: 0;
  font-size: 22px;
}
.complaint {
  margin: 4px 0 8px;
  max-width: 70ch;
}
.meters {
  display: flex;
  gap: 20px;
  margin: 0;
}
.meters dt {
  font-size: 12px;
  color: var(--ink-soft);
}
.meters dd {
  margin: 0;
  font-size: 17px;
  min-width: 48px;
}
.told {
  min-height: 40px;
  padding: 8px 12px;
  background: var(--violet-soft);
  border-left: 4px solid var(--violet);
  margin-bottom: 8px;
}
.told.refused {
  background: var(--amber-tint);
  border-left-color: var(--amber);
}
.told.harm {
  background: var(--high-tint);
  border-left-color: var(--high);
}
.tabs {
  display: flex;
  gap: 4px;
  margin-bottom: 8px;
}
.tabs button {
  font: inherit;
  padding: 7px 14px;
  border: 1px solid var(--line);
  background: var(--card);
  border-radius: 3px;
  cursor: pointer;
}
.tabs button.on {
  background: var(--violet);
  color: var(--white);
}
.grid {
  display: grid;
  grid-template-columns: minmax(0, 1.35fr) minmax(360px, 1fr);
  gap: 14px;
  align-items: start;
}
.own {
  display: grid;
  grid-template-columns: 1fr auto 1fr auto;
  gap: 2px 14px;
  margin: 10px 0 0;
}
.own dd {
  margin: 0;
}
@media (min-width: 901px) {
  .site {
    position: sticky;
    top: 8px;
  }
}
.side {
  display: grid;
  gap: 12px;
}
.tests {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 6px;
}
.answer {
  display: block;
  margin: 2px 0 4px;
}
.tests small {
  margin-left: 8px;
}
.plate dl,
.rubric dl {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 2px 14px;
  margin: 8px 0 0;
}
.plate dt,
.rubric dt {
  font-weight: 600;
}
.plate dd,
.rubric dd {
  margin: 0;
}
.rubric {
  margin-top: 14px;
}
.hint {
  display: flex;
  gap: 10px;
  align-items: center;
  margin: 0;
}
textarea {
  width: 100%;
  font: inherit;
  padding: 8px;
}
.small {
  font-size: 13px;
}
@media (max-width: 900px) {
  .away {
    display: none;
  }
  .grid {
    grid-template-columns: minmax(0, 1fr);
  }
  .tabs {
    flex-wrap: wrap;
  }
  .tabs button {
    flex: 1 1 40%;
    min-height: 44px;
  }
}
</style>
