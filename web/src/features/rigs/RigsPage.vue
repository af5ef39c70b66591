<script setup lang="ts">
/** The lab on one screen: every rig, whether it has settled, what stands on it, what to do. */
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import BeginSession from '@/features/lab/BeginSession.vue'
import SessionsPanel from '@/features/lab/SessionsPanel.vue'
import { kept } from '@/shared/kept'
import { localTime, user } from '@/shared/session'
import RigForm from './RigForm.vue'
import RotationPanel from './RotationPanel.vue'
import { beep } from './sound'
import { standing, useLab } from './useLab'
import RowsSkeleton from '@/shared/RowsSkeleton.vue'

const { rigs, rotation, left, take, lost, failure, alarming } = useLab()
const route = useRoute()
const router = useRouter()
/** A wall shows no answers, and neither does a screen that somebody hid. */
const wall = computed(() => route.query.wall === '1')
const hidden = kept('rigs.hidden', false)
const loud = kept('rigs.loud', true)
const entering = ref(false)
const starting = ref(false)
/** The rig a session is to begin at; 0 for none. */
const beginning = ref(Number(route.query.session ?? 0))
const taken = ref<ReadonlySet<number>>(new Set())
const teaches = computed(() => user.value?.role === 'instructor')
const placeOf = (rig: number) => rotation.value?.places.find((p) => p.rig_id === rig)
const shows = computed(() => !wall.value && !hidden.value)
const WANTED = ['suction_pressure', 'head_pressure', 'superheat', 'subcooling']
const SIDES: Record<string, string> = {
  suction_pressure: 'low',
  head_pressure: 'high',
  superheat: 'low',
  subcooling: 'high',
}
const figures = (rig: NonNullable<typeof rigs.value>[number]) =>
  WANTED.flatMap((id) => [...rig.readings, ...rig.figures].filter((r) => r.point === id))
watch(
  () => alarming.value.map((r) => r.id).join(),
  (now) => {
    if (now && loud.value && !wall.value) beep()
  },
)
function key(event: KeyboardEvent): void {
  if ((event.target as HTMLElement).closest('input, textarea, select')) return
  if (event.key === 'h') hidden.value = !hidden.value
}
</script>

<template>
  <main :class="['page', 'wide', { wall }]" tabindex="-1" @keydown="key">
    <div class="page-head">
      <h1>Rigs</h1>
      <span v-if="!wall" class="acts">
        <button type="button" class="as-button" :aria-pressed="hidden" data-test="hide" @click="hidden = !hidden">
          {{ hidden ? 'Show the faults' : 'Hide the faults' }} <kbd>h</kbd>
        </button>
        <label class="as-button"><input v-model="loud" type="checkbox" /> alarm sound</label>
        <RouterLink class="as-button" to="/refrigerant">Cylinders and log</RouterLink>
        <RouterLink class="as-button" to="/rigs?wall=1">Wall view</RouterLink>
        <el-button v-if="rigs?.length && !rotation" data-test="rotate" @click="starting = !starting"
          >Start a rotation</el-button
        >
        <el-button
          v-if="rigs?.length && teaches"
          data-test="lab-session"
          @click="beginning = beginning ? 0 : (rigs.find((r) => !taken.has(r.id))?.id ?? 0)"
          >Begin a session</el-button
        >
        <el-button v-if="teaches" type="primary" data-test="enter-rig" @click="entering = true">Enter a rig</el-button>
      </span>
      <RouterLink v-else class="as-button" to="/rigs">Back</RouterLink>
    </div>
    <p v-if="lost" class="error" role="alert">{{ failure }} What stands here is from before.</p>
    <RigForm v-if="entering" @close="entering = false" @made="(id) => router.push(`/rigs/${id}`)" />
    <p v-if="rigs && !rigs.length && !entering" class="card">
      No rig yet. Enter one with its machine; a logger is not needed, its readings can be typed. To try it without a
      rig, start simulated ones: <code>make rig</code>.
    </p>
    <RotationPanel
      v-if="rotation || starting"
      :rotation="rotation"
      :left="left"
      :rigs="rigs ?? []"
      :wall="wall"
      @changed="take"
      @close="starting = false"
    />
    <BeginSession
      v-if="beginning && rigs && !wall"
      :key="beginning"
      :rigs="rigs"
      :rotation="rotation"
      :rig="beginning"
      :busy="taken"
      @close="beginning = 0"
    />
    <SessionsPanel v-if="!wall" @busy="(now) => (taken = now)" />
    <RowsSkeleton v-if="!rigs && !lost" :cards="2" />
    <div class="lab">
      <article
        v-for="rig in rigs"
        :key="rig.id"
        :class="['rig', 'card', standing(rig).tone, { alarm: rig.alarms.some((a) => a.passed) }]"
        :aria-label="rig.name"
        data-test="rig"
      >
        <header>
          <RouterLink v-if="!wall" :to="`/rigs/${rig.id}`"
            ><b>{{ rig.name }}</b></RouterLink
          ><b v-else>{{ rig.name }}</b>
          <span class="soft">{{ rig.place }}</span>
          <span class="soft machine">{{ rig.machine_name }} · {{ rig.refrigerant }}</span>
        </header>
        <div v-if="placeOf(rig.id)" class="people" data-test="people">
          <b>{{ placeOf(rig.id)!.now.join(', ') || 'nobody' }}</b>
          <span v-if="placeOf(rig.id)!.following.length" class="soft"
            >next: {{ placeOf(rig.id)!.following.join(', ') }}</span
          >
        </div>
        <p class="state" role="status" data-test="state"><i aria-hidden="true" />{{ standing(rig).text }}</p>
        <div v-for="a in rig.alarms" :key="a.point" :class="['warn', { passed: a.passed }]" role="alert">
          <b>{{ a.text }}</b> {{ a.action }}
        </div>
        <dl v-if="figures(rig).length" class="figures">
          <div v-for="f in figures(rig)" :key="f.point" :class="SIDES[f.point]">
            <dt>{{ f.label }}</dt>
            <dd class="num">{{ f.text }}</dd>
            <dd v-if="f.healthy !== null && shows" class="sound num" title="with no fault, in this weather">
              normal {{ f.healthy_text }}
            </dd>
          </div>
        </dl>
        <p v-if="shows && rig.standing.length" class="planted" data-test="standing">
          <span v-for="s in rig.standing" :key="s.device"
            ><b>{{ s.name }}</b> {{ s.position }} {{ s.unit
            }}<small v-if="s.severity_text">{{ s.fault_name }}: {{ s.severity_text }}</small
            ><small v-else>not measured yet</small></span
          >
        </p>
        <p v-else-if="shows" class="soft nothing">
          {{ rig.baseline_at ? 'No fault set.' : 'No fault set. No baseline yet: run it, then calibrate.' }}
          <template v-if="rig.undone_at && !rig.held"
            >Undone {{ localTime(rig.undone_at) }}{{ rig.undone_by ? `, signed ${rig.undone_by}` : ', not signed'
            }}{{ rig.undone_seen ? `; ${rig.undone_seen}` : '' }}.</template
          >
        </p>
        <p v-if="shows && rig.held" class="doubt" data-test="held">
          <b>Held out of the rotation.</b> Undone{{ rig.undone_by ? ` by ${rig.undone_by}` : '' }}, not back at its
          baseline: {{ rig.held }}.
        </p>
        <p v-for="d in shows ? rig.doubts : []" :key="d" class="doubt">{{ d }}</p>
      </article>
    </div>
  </main>
</template>

<style scoped>
.wide {
  max-width: 1480px;
  padding-top: 16px;
  outline: none;
}
.acts {
  display: flex;
  gap: 10px;
  align-items: center;
  flex-wrap: wrap;
}
kbd {
  font: 11px var(--mono);
  border: 1px solid var(--line);
  border-radius: 3px;
  padding: 0 4px;
  color: var(--ink-soft);
}
.lab {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(min(340px, 100%), 1fr));
  gap: 12px;
}
.rig {
  border-top: 6px solid var(--edge);
  padding: 10px 14px 12px;
  margin: 0;
}
.rig.good {
  border-top-color: var(--good);
}
.rig.wait {
  border-top-color: var(--amber);
}
.rig.bad,
.rig.alarm {
  border-top-color: var(--high);
}
header {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 8px;
  align-items: baseline;
}
header b {
  font-size: 19px;
}
header .machine {
  width: 100%;
  font-size: 13px;
}
.people {
  display: grid;
  margin-top: 6px;
  padding: 5px 9px;
  background: var(--violet-soft);
  font-size: 14.5px;
}
.wall .people {
  font-size: 22px;
}
.state {
  display: flex;
  gap: 7px;
  align-items: baseline;
  margin: 8px 0;
  font-weight: 600;
}
.state i {
  flex: none;
  width: 11px;
  height: 11px;
  border-radius: 50%;
  background: var(--edge);
}
.good .state i {
  background: var(--good);
}
.wait .state i {
  border: 3px solid var(--amber);
  background: none;
}
.bad .state i {
  background: var(--high);
  border-radius: 0;
}
.warn {
  padding: 6px 9px;
  margin-bottom: 6px;
  border-left: 5px solid var(--amber);
  background: var(--amber-tint);
}
.warn.passed {
  border-left-color: var(--high);
  background: var(--high-tint-strong);
}
.figures {
  display: grid;
  grid-template-columns: repeat(2, minmax(0, 1fr));
  gap: 8px 14px;
  margin: 0;
}
.figures > div {
  border-left: 4px solid var(--low);
  padding-left: 8px;
}
.figures > .high {
  border-left-color: var(--high);
}
dt {
  font-size: 12.5px;
  color: var(--ink-soft);
}
dd {
  margin: 0;
  font-size: 20px;
}
dd.sound {
  font-size: 12.5px;
  color: var(--ink-soft);
}
.planted {
  margin: 10px 0 0;
  padding-top: 8px;
  border-top: 1px solid var(--line);
  display: grid;
  gap: 4px;
}
.planted small {
  display: block;
  color: var(--ink-soft);
}
.nothing {
  margin: 10px 0 0;
  font-size: 13px;
}
.doubt {
  margin: 6px 0 0;
  color: var(--amber-dark);
  font-size: 13.5px;
}
.wall .lab {
  grid-template-columns: repeat(auto-fill, minmax(min(460px, 100%), 1fr));
}
.wall header b {
  font-size: 28px;
}
.wall dd {
  font-size: clamp(20px, 2.4vw, 32px);
}
.wall .state {
  font-size: 20px;
}
</style>
