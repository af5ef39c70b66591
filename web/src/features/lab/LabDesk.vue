<script setup lang="ts">
/** A lab session as whoever runs the lab sees it: the plan that waits, what is hidden, the marks, what was done when. */
import { computed, ref } from 'vue'
import { askFirst } from '@/shared/asking'
import { kept } from '@/shared/kept'
import { localTime, clockTime, user } from '@/shared/session'
import LabResult from './LabResult.vue'
import SignOff from './SignOff.vue'
import type { Carried } from './session'

const props = defineProps<{ carried: Carried; paper: boolean }>()
defineEmits<{ paper: [] }>()
const { session, say } = props.carried
const s = computed(() => session.value!)
const teaches = computed(() => user.value?.role === 'instructor')
/** The lab's screen shows no fault where somebody hid them. */
const hidden = kept('rigs.hidden', false)
const PARTS = { safety: 'Safety', method: 'Method', result: 'Result on the rig', record: 'Record' }
const seen = ref({ part: 'safety', points: -1, why: '' })
const skill = ref({ skill: 'hook_up', level: 'alone', why: '' })
const most = computed(() => Math.max(...(s.value.minutes ?? []).map((m) => m.minutes), 1))
const STATUS: Record<string, string> = {
  'at work': 'at work',
  'sign-off': 'waits for your word',
  stopped: 'changes the plan',
  help: 'asks for help',
  finished: 'finished',
  ended: 'ended',
}
function observe(): void {
  if (!seen.value.why.trim()) return
  say('observe', { ...seen.value })
  seen.value.why = ''
}
function award(): void {
  say('skill', { ...skill.value })
  skill.value.why = ''
}
async function end(): Promise<void> {
  const open = s.value.state.finished ? [] : ['They have not finished: what was not typed earns nothing.']
  const lines = [...open, 'Marks and reasons go to the students and into the gradebook. Then put the rig back.']
  if (await askFirst({ title: `End the session at ${s.value.rig}?`, lines, yes: 'End it' })) say('end')
}
</script>

<template>
  <div class="page desk">
    <div class="page-head">
      <h1>{{ s.rig }}: {{ s.people.join(', ') }}</h1>
      <span :class="['status', s.status]" role="status" data-test="status">{{ STATUS[s.status] }}</span>
      <span class="acts">
        <button type="button" class="as-button" :aria-pressed="paper" data-test="paper" @click="$emit('paper')">
          {{ paper ? 'Close the fields' : 'Enter from paper' }}
        </button>
        <a class="as-button" :href="`/api/v1/lab/sessions/${s.id}/sheet.pdf`" target="_blank">Lab sheet</a>
        <RouterLink v-if="s.rig_id" class="as-button" :to="`/rigs/${s.rig_id}`">{{
          s.ended_at ? 'Put the rig back' : 'Rig'
        }}</RouterLink>
        <RouterLink v-if="s.ended_at && s.rig_id" class="as-button" :to="`/rigs?session=${s.rig_id}`"
          >Next pair</RouterLink
        >
        <el-button v-if="!s.ended_at" type="primary" data-test="end" @click="end">End the session</el-button>
      </span>
    </div>
    <p class="soft">
      {{ s.title }} · since {{ localTime(s.began_at)
      }}<template v-if="!hidden">
        · planted: <b>{{ s.planted }}</b></template
      >
    </p>
    <div class="two">
      <div>
        <SignOff v-if="!s.ended_at" :session="s" @say="say" />
        <LabResult v-if="s.result" :session="s" :result="s.result" />
      </div>
      <div>
        <section class="card" aria-label="Time in each step">
          <h2>Time in each step</h2>
          <div v-for="m in s.minutes" :key="m.phase" class="minutes">
            <span>{{ m.name }}</span><i :style="{ width: `${(60 * m.minutes) / most}%` }" aria-hidden="true" /><span
              class="num"
              >{{ m.minutes.toFixed(0) }} min</span
            >
          </div>
        </section>
        <section v-if="teaches" class="card" aria-label="What you saw">
          <h2>What you saw</h2>
          <p v-for="(o, i) in s.observed" :key="i" class="small">
            <b class="num">{{ o.points > 0 ? '+' : '' }}{{ o.points }}</b> {{ PARTS[o.part as keyof typeof PARTS] }}:
            {{ o.why }}
          </p>
          <form class="row" @submit.prevent="observe">
            <select v-model="seen.part" aria-label="Part">
              <option v-for="(name, id) in PARTS" :key="id" :value="id">{{ name }}</option>
            </select>
            <select v-model.number="seen.points" aria-label="Points" data-test="points">
              <option v-for="p in [-5, -3, -2, -1, 1, 2, 3, 5]" :key="p" :value="p">{{ p > 0 ? `+${p}` : p }}</option>
            </select>
            <input v-model="seen.why" placeholder="why" aria-label="Why" maxlength="600" data-test="observed" />
            <el-button native-type="submit" :disabled="!seen.why.trim()" data-test="observe">Count it</el-button>
          </form>
          <form class="row" @submit.prevent="award">
            <select v-model="skill.skill" aria-label="Skill">
              <option v-for="k in s.skills" :key="k.id" :value="k.id">{{ k.name }}</option>
            </select>
            <select v-model="skill.level" aria-label="Level">
              <option value="shown">was shown</option>
              <option value="helped">with help</option>
              <option value="alone">alone</option>
            </select>
            <input v-model="skill.why" placeholder="seen how" aria-label="Seen how" maxlength="600" />
            <el-button native-type="submit">Put on record</el-button>
          </form>
        </section>
        <section class="card" aria-label="What was done">
          <h2>What was done</h2>
          <ol class="log" tabindex="0" aria-label="Steps, the last first">
            <li v-for="(e, i) in [...(s.events ?? [])].reverse()" :key="i">
              <span class="num soft">{{ clockTime(e.at) }}</span> {{ e.text }}
              <small v-if="e.who" class="soft">{{ e.who }}</small>
            </li>
          </ol>
        </section>
      </div>
    </div>
  </div>
</template>

<style scoped>
.desk {
  max-width: 1200px;
}
.acts {
  display: flex;
  gap: 8px;
  flex-wrap: wrap;
  margin-left: auto;
}
.status {
  padding: 2px 10px;
  border-radius: 3px;
  background: var(--violet-soft);
  font-weight: 600;
}
.status.help,
.status.sign-off {
  background: var(--amber-tint);
}
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 16px;
}
@media (max-width: 900px) {
  .two {
    grid-template-columns: minmax(0, 1fr);
  }
}
.card {
  margin-bottom: 14px;
}
h2 {
  font-size: 16px;
  margin: 0 0 8px;
}
.minutes {
  display: grid;
  grid-template-columns: 130px 1fr auto;
  gap: 8px;
  align-items: center;
  padding: 2px 0;
}
.minutes i {
  height: 10px;
  min-width: 2px;
  background: var(--violet);
  border-radius: 2px;
}
.row {
  display: flex;
  gap: 6px;
  flex-wrap: wrap;
  margin-top: 8px;
}
.row input {
  flex: 1 1 120px;
}
.log {
  list-style: none;
  margin: 0;
  padding: 0;
  max-height: 340px;
  overflow: auto;
}
.log li {
  padding: 3px 0;
  border-bottom: 1px solid var(--line);
  font-size: 14px;
}
</style>
