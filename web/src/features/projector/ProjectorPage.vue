<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref } from 'vue'
import type { Schemas } from '@/api/client'
import CircuitPicture from '@/shared/circuit/CircuitPicture.vue'
import DigitalFace from '@/shared/circuit/DigitalFace.vue'
import DialFace from '@/shared/DialFace.vue'
import { units } from '@/shared/kept'

/** The class's screen. It knows a token and nothing else, and draws what the server lets it have. */
type Shown = Schemas['Shown']
const shown = ref<Shown | null>(null)
const failure = ref('')
let revision = 0
let drawnUnits = ''
let timer = 0
const EVERY_MS = 1200
const ASKS: Record<string, string> = {
  look: 'Look before gauges: what would you check first?',
  measure: 'Measure: stabilized? clamped where? What do you read?',
  convert: 'Convert: which PT scale, which point? Work out the four figures.',
  compare: 'Compare: what should it be today? Low, normal or high?',
  confirm: 'Confirm: which test comes out differently for the look-alikes?',
}

async function poll(): Promise<void> {
  window.clearTimeout(timer)
  const token = location.hash.slice(1)
  const now = units.value
  const since = drawnUnits === now ? revision : 0
  try {
    const reply = await fetch(`/api/v1/projected?units=${now}&since=${since}`, {
      headers: { 'X-Wolfsbane-Projection': token },
      credentials: 'omit',
    })
    const body = await reply.json()
    if (reply.ok) {
      failure.value = ''
      revision = body.revision
      drawnUnits = now
      if (body.shown) shown.value = body.shown
    } else {
      failure.value = body.error?.message ?? 'The server did not answer; trying again.'
      shown.value = null
    }
  } catch {
    failure.value = 'The server does not answer; trying again.'
  }
  timer = window.setTimeout(() => void poll(), EVERY_MS)
}
const texts = computed(() => Object.fromEntries((shown.value?.readings?.rows ?? []).map((r) => [r.id, r.text])))
const names = computed(() => Object.fromEntries((shown.value?.readings?.rows ?? []).map((r) => [r.id, r.label])))
const figures = computed(() => {
  const from = shown.value
  const ids = [
    ...new Set([...(from?.figures ?? []), ...(from?.targets ?? []), ...(from?.verdicts ?? [])].map((r) => r.id)),
  ]
  const row = (list: Shown['targets'] | undefined, id: string) => list?.find((r) => r.id === id)
  return ids.map((id) => ({
    id,
    label:
      row(from?.figures, id)?.label ??
      row(from?.targets, id)?.label ??
      from?.verdicts?.find((r) => r.id === id)?.label ??
      id,
    text: row(from?.figures, id)?.text,
    how: from?.figures?.find((r) => r.id === id)?.how,
    target: row(from?.targets, id)?.text,
    verdict: from?.verdicts?.find((r) => r.id === id)?.verdict,
  }))
})
const SIGN: Record<string, string> = { low: '▼ LOW', normal: '● NORMAL', high: '▲ HIGH' }
onMounted(poll)
onBeforeUnmount(() => window.clearTimeout(timer))

function turnUnits() {
  units.value = units.value === 'us' ? 'si' : 'us'
  void poll()
}
</script>

<template>
  <main class="wall">
    <header>
      <img src="/icon.svg" alt="" width="34" height="34" />
      <ol class="steps" aria-label="Steps">
        <li
          v-for="s in shown?.steps ?? []"
          :key="s"
          :class="{ on: s === shown?.step }"
          :aria-current="s === shown?.step ? 'step' : undefined"
        >
          {{ s }}
        </li>
      </ol>
      <button type="button" data-test="wall-units" @click="turnUnits">
        {{ units === 'us' ? '°F · psi' : '°C · kPa' }}
      </button>
    </header>
    <p v-if="failure && !shown" class="wait" role="alert">{{ failure }}</p>
    <template v-else-if="shown">
      <h1>{{ ASKS[shown.step] }}</h1>
      <div class="parts">
        <section class="left">
          <div v-if="shown.story" class="circuit">
            <CircuitPicture
              :shape="shown.story.picture"
              :fill="shown.answer?.fill ?? null"
              :fault-free="shown.answer?.fault_free_fill ?? null"
              :readings="texts"
              :names="names"
              :given="null"
              lively
            />
          </div>
          <div v-if="shown.answer" class="answer" data-test="answer">
            <h2>{{ shown.answer.name }}</h2>
            <p v-for="s in shown.answer.severities" :key="s">{{ s }}</p>
            <p v-for="s in shown.answer.signs" :key="s">{{ s }}</p>
          </div>
          <div v-if="figures.length" class="figures" data-test="wall-figures">
            <div v-for="f in figures" :key="f.id">
              <b>{{ f.label }}</b><span v-if="f.text" class="num big">{{ f.text }}</span
              ><small v-if="f.how">{{ f.how }}</small
              ><small v-if="f.target">target {{ f.target }}</small
              ><span v-if="f.verdict" :class="['verdict', f.verdict]">{{ SIGN[f.verdict] }}</span>
            </div>
          </div>
          <dl v-if="shown.tests?.length" class="tests">
            <template v-for="t in shown.tests" :key="t.id"
              ><dt>{{ t.name }}</dt>
              <dd>{{ t.text }}</dd></template
            >
          </dl>
          <p v-if="shown.story?.complaint && shown.step !== 'look'" class="reminder">“{{ shown.story.complaint }}”</p>
          <div v-if="shown.story && shown.step === 'look'" class="story">
            <p v-if="shown.story.complaint" class="say">“{{ shown.story.complaint }}”</p>
            <p>{{ shown.story.history }}</p>
            <ul>
              <li v-for="l in shown.story.look_round" :key="l">{{ l }}</li>
            </ul>
          </div>
        </section>
        <section class="right">
          <template v-if="shown.readings">
            <component
              :is="shown.readings.instruments === 'digital' ? DigitalFace : DialFace"
              v-for="d in shown.readings.dials"
              :key="String(d.side)"
              :drawing="d"
              class="dial"
            />
            <p v-for="c in shown.conversions" :key="c.id" class="converted">
              {{ c.from }} → <b class="num">{{ c.text }}</b><small>{{ c.label }}</small>
            </p>
          </template>
          <dl v-else-if="shown.story" class="plate">
            <template v-for="line in shown.story.plate" :key="line.label"
              ><dt>{{ line.label }}</dt>
              <dd class="num">{{ line.text }}</dd></template
            >
          </dl>
        </section>
      </div>
      <p class="care">
        For training, not a service instruction for a live machine. Local codes and licensed practice come first.
      </p>
    </template>
  </main>
</template>

<style scoped>
.wall {
  min-height: 100vh;
  padding: 12px 22px;
  font-size: 20px;
  display: flex;
  flex-direction: column;
}
header {
  display: flex;
  align-items: center;
  gap: 18px;
}
header button {
  margin-left: auto;
  border: 1px solid var(--edge);
  border-radius: 3px;
  background: var(--card);
  color: var(--ink);
  font-size: 17px;
  padding: 4px 12px;
  cursor: pointer;
}
.steps {
  display: flex;
  list-style: none;
  margin: 0;
  padding: 0;
  gap: 6px;
}
.steps li {
  padding: 4px 16px;
  font-size: 20px;
  text-transform: capitalize;
  border-bottom: 5px solid var(--line);
  color: var(--ink-soft);
}
.steps li.on {
  border-color: var(--violet);
  color: var(--violet);
  font-weight: 700;
}
h1 {
  font-size: 28px;
  margin: 8px 0;
}
.parts {
  display: grid;
  grid-template-columns: minmax(0, 1fr) clamp(250px, 24vw, 400px);
  gap: 20px;
  flex: 1;
}
.left {
  min-width: 0;
}
.circuit {
  height: clamp(300px, 58vh, 760px);
}
.figures {
  display: grid;
  grid-template-columns: repeat(4, minmax(0, 1fr));
  gap: 12px;
}
.figures div {
  border-top: 3px solid var(--violet);
  padding-top: 4px;
}
.figures b {
  display: block;
}
.figures small {
  display: block;
  font-size: 15px;
  color: var(--ink-soft);
}
.big {
  font-size: 30px;
  font-weight: 700;
  display: block;
}
.verdict {
  font-weight: 700;
  font-size: 22px;
}
.verdict.low {
  color: var(--low);
}
.verdict.high {
  color: var(--high);
}
.verdict.normal {
  color: var(--good);
}
.reminder {
  margin: 4px 0;
  color: var(--ink-soft);
}
.story .say {
  font-size: 27px;
  margin: 4px 0;
}
.story p {
  margin: 4px 0;
}
.story ul {
  margin: 4px 0;
  padding-left: 24px;
}
.tests {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 2px 16px;
  margin: 8px 0;
}
.tests dt {
  font-weight: 600;
}
.tests dd {
  margin: 0;
}
.answer {
  border-left: 8px solid var(--violet);
  padding-left: 14px;
  margin-bottom: 8px;
}
.answer h2 {
  font-size: 28px;
  text-transform: none;
  letter-spacing: 0;
  margin: 0;
}
.answer p {
  margin: 0;
}
.right {
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.dial {
  max-height: 40vh;
}
.converted {
  margin: 0;
  font-size: 22px;
}
.converted small {
  display: block;
  color: var(--ink-soft);
  font-size: 15px;
}
.plate {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 4px 12px;
  margin: 0;
  align-content: start;
  font-size: 18px;
}
.plate dt {
  color: var(--ink-soft);
}
.plate dd {
  margin: 0;
  text-align: right;
  white-space: normal;
}
.wait {
  font-size: 26px;
  margin: 20vh auto;
  max-width: 26em;
  text-align: center;
}
.care {
  font-size: 13px;
  color: var(--ink-soft);
  margin: 8px 0 0;
}
@media (max-width: 900px) {
  .parts {
    grid-template-columns: 1fr;
  }
  .figures {
    grid-template-columns: 1fr 1fr;
  }
  .circuit {
    height: auto;
  }
  .wall {
    padding: 10px 12px;
  }
  .steps li {
    padding: 4px 6px;
    font-size: 16px;
  }
  h1 {
    font-size: 22px;
  }
}
</style>
