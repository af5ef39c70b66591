<script setup lang="ts">
import { computed, ref } from 'vue'
import { units } from '@/shared/kept'
import ActPanel from '@/shared/ActPanel.vue'
import RoomPanel from '@/shared/RoomPanel.vue'
import NumberField from '@/shared/NumberField.vue'
import TracePicture from './TracePicture.vue'
import WeightsPicture from './WeightsPicture.vue'
import { useWork } from './useWork'
import { arrows } from '@/shared/tabs'

const work = useWork()
const { machine, planted, reply, plan, failure, drift, steps, playPlan } = work
const standing = ref(false)
const degree = computed(() => (units.value === 'us' ? '°F' : 'K'))
const side = ref<'done' | 'plan'>('done')
const stands = computed(() => {
  const now = reply.value
  if (!now || now.tripped) return `stands: ${now?.tripped ?? ''}`
  if (now.controls && now.running) return now.controls.said
  return now.running ? 'running' : 'stands'
})
const minutes = (s: number) => `${Math.round(s / 60)} min`

function playIt() {
  playPlan()
  side.value = 'done'
}
</script>

<template>
  <main class="work">
    <h1 class="off">Work on the machine</h1>
    <section class="left">
      <div class="card">
        <h2>On site</h2>
        <p class="site">
          <b>{{ machine?.name }}</b><br />{{ planted }} <RouterLink to="/bench">change on the bench</RouterLink>
        </p>
        <div class="drift">
          <label>Outdoors, {{ degree }} an hour <NumberField v-model="drift.outdoor" :min="-20" :max="20" /></label
          ><label>Room, {{ degree }} an hour <NumberField v-model="drift.room" :min="-20" :max="20" /></label>
        </div>
      </div>
      <RoomPanel :living="work" />
      <ActPanel :work="work" />
    </section>
    <section class="middle">
      <p v-if="failure" class="card error" role="alert">{{ failure }}</p>
      <template v-if="reply && !reply.refusal">
        <div class="card picture">
          <div class="head">
            <h2>Gauges and clamps</h2>
            <span :class="['state', { off: !reply.running }]" data-test="state"
              >{{ stands }} · {{ Math.round(reply.minutes) }} min since arrival</span
            ><span v-if="reply.controls" class="soft num" data-test="room-now"
              >room {{ reply.controls.room }} {{ reply.units.temperature }}, {{ reply.controls.humidity_pct }} % RH ·
              {{ reply.controls.starts }} starts, ran {{ Math.round(reply.controls.ran_pct) }} %</span
            >
            <label v-if="!reply.controls" class="soft"><input v-model="standing" type="checkbox" /> off time too</label>
          </div>
          <TracePicture :reply="reply" :standing="standing || !!reply.controls" />
          <p class="soft legend">
            Shaded: target bands of the practice. Dotted: the numbered steps.<template v-if="reply.controls">
              Below, gray: off; violet: defrost, drip, fan delay; red: off on low pressure.</template
            >
          </p>
        </div>
        <WeightsPicture v-if="reply.weights" :weights="reply.weights" />
        <p v-if="reply.left.length" class="card left-behind" data-test="left">
          Not undone yet: {{ reply.left.join('; ') }}.
        </p>
      </template>
      <p v-else-if="reply" class="card error">No steady operating point: reduce a fault on the bench.</p>
    </section>
    <section class="side">
      <div class="tabs" role="tablist" aria-label="Steps" @keydown="arrows">
        <button role="tab" :tabindex="side === 'done' ? 0 : -1" :aria-selected="side === 'done'" @click="side = 'done'">
          History</button
        ><button
          role="tab"
          :tabindex="side === 'plan' ? 0 : -1"
          :aria-selected="side === 'plan'"
          data-test="plan-tab"
          @click="side = 'plan'"
        >
          Correct sequence
        </button>
      </div>
      <ol v-if="side === 'done'" class="card done" aria-live="polite" data-test="done">
        <li v-if="!steps.length" class="soft">Nothing yet. Let it run, measure, and only then act.</li>
        <li v-for="(s, i) in reply?.steps ?? []" :key="i" :class="{ refused: s.refused }">
          <b>{{ i + 1 }} · {{ s.name }}</b>
          <span class="soft num"
            >at {{ minutes(s.at_s)
            }}<template v-if="s.minutes >= 1">, takes {{ Math.round(s.minutes) }}</template></span
          ><span v-for="text in s.said" :key="text">{{ text }}</span>
        </li>
      </ol>
      <div v-else-if="plan && !plan.refusal" class="card plan" data-test="plan">
        <p class="first"><b>First:</b> {{ plan.first }}</p>
        <ol>
          <li v-for="(s, i) in plan.steps" :key="i">
            {{ s.text }}<small v-if="s.needs.length"> needs {{ s.needs.join(', ') }}</small>
          </li>
        </ol>
        <p class="proof">
          <b>Proof readings:</b> superheat {{ plan.proof.superheat }}, subcooling {{ plan.proof.subcooling }}, CTOA
          {{ plan.proof.ctoa }}, head {{ plan.proof.head_pressure }}.
        </p>
        <el-button v-if="plan.steps.length" class="wide" data-test="play-plan" @click="playIt">Run it</el-button>
        <h2>What wrong moves would do</h2>
        <ul>
          <li v-for="w in plan.wrong" :key="w.plan">{{ w.text }}</li>
        </ul>
      </div>
      <p v-else-if="plan" class="card error">{{ plan.refusal }}</p>
    </section>
  </main>
</template>

<style scoped>
.done b + .num {
  margin-left: 6px;
}
.work {
  display: grid;
  grid-template-columns: 270px minmax(0, 1fr) 310px;
  gap: 12px;
  padding: 12px 14px;
  max-width: 1640px;
  margin: 0 auto;
}
.left,
.middle,
.side {
  display: flex;
  flex-direction: column;
  gap: 12px;
  min-width: 0;
}
.site {
  margin: 0 0 6px;
  font-size: 14px;
}
.drift label {
  display: flex;
  justify-content: space-between;
  align-items: center;
  font-size: 13px;
  margin-top: 4px;
}
.drift input {
  width: 64px;
}
.picture {
  padding: 10px 14px 6px;
}
.head {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 2px 14px;
}
.head h2 {
  margin: 0;
}
.head label {
  margin-left: auto;
  font-size: 12.5px;
  white-space: nowrap;
}
.state {
  white-space: nowrap;
  font-size: 13.5px;
  font-weight: 600;
  color: var(--good);
}
.state.off {
  color: var(--amber);
}
.legend {
  margin: 0;
  font-size: 12.5px;
}
.left-behind {
  margin: 0;
  border-left: 5px solid var(--amber);
  font-size: 14px;
}
.tabs {
  display: flex;
  gap: 2px;
}
.tabs button {
  flex: 1;
  border: 1px solid var(--line);
  background: var(--paper);
  padding: 6px 8px;
  font-size: 13.5px;
  color: var(--ink);
  cursor: pointer;
  border-bottom: 3px solid transparent;
}
.tabs button[aria-selected='true'] {
  background: var(--card);
  border-bottom-color: var(--violet);
  font-weight: 600;
}
.done,
.plan {
  margin: -8px 0 0;
  font-size: 13.5px;
  max-height: calc(100vh - 130px);
  overflow: auto;
}
.done {
  list-style: none;
  padding: 10px 14px;
}
.done li {
  margin-bottom: 8px;
}
.done li > span:not(.soft) {
  display: block;
}
.done .refused b {
  color: var(--amber);
}
.plan ol {
  margin: 6px 0;
  padding-left: 22px;
}
.plan ul {
  margin: 0;
  padding-left: 18px;
}
.plan li {
  margin-bottom: 4px;
}
.plan small {
  color: var(--amber);
}
.plan h2 {
  margin-top: 12px;
}
.first,
.proof {
  margin: 0 0 6px;
}
.wide {
  width: 100%;
}
@media (max-width: 1000px) {
  .work {
    grid-template-columns: 1fr;
  }
  .done,
  .plan {
    max-height: none;
  }
}
</style>
