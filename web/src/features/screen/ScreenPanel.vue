<script setup lang="ts">
/** A sheet's calls on screen: opened for practice or as an exam, who is how far, and their marks. */
import { computed, onBeforeUnmount, onMounted, ref } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import { askFirst } from '@/shared/asking'
import { useRouter } from 'vue-router'
import { useFailing } from '@/shared/failing'
import { kept } from '@/shared/kept'
import { localTime, user } from '@/shared/session'
import ClassWays from './ClassWays.vue'
import { clock } from './play'

const props = defineProps<{ sheet: Schemas['SheetRow'] }>()
const EVERY_MS = 5000
const state = ref<Schemas['ScreenSheet'] | null>(null)
const mode = ref<'practice' | 'exam'>('practice')
const minutes = ref('45')
const { failure, attempt } = useFailing()
const at = { params: { path: { sheet_id: props.sheet.id } } }
const opening = computed(() => state.value?.opening ?? null)
const running = computed(() => opening.value !== null && !opening.value.closed)
const positions = computed(() => [...new Set(opening.value?.rows.map((r) => r.position))].sort((a, b) => a - b))
/** One row for each apprentice, one cell for each call. */
const people = computed(() => {
  const rows = opening.value?.rows ?? []
  return [...new Map(rows.map((r) => [r.apprentice_id, r])).values()].map((r) => ({
    id: r.apprentice_id,
    name: r.name,
    factor: r.factor,
    cells: positions.value.map((n) => rows.find((o) => o.apprentice_id === r.apprentice_id && o.position === n)),
  }))
})
let timer = 0
function run(work: () => Promise<Schemas['ScreenSheet']>): Promise<unknown> {
  window.clearTimeout(timer)
  return attempt(async () => {
    state.value = await work()
    if (running.value) timer = window.setTimeout(look, EVERY_MS)
  })
}
const look = () => run(() => ask(api.GET('/api/v1/sheets/{sheet_id}/screen', at)))
const open = () =>
  run(() =>
    ask(
      api.POST('/api/v1/sheets/{sheet_id}/screen', {
        ...at,
        body: {
          mode: mode.value,
          minutes: mode.value === 'exam' && minutes.value.trim() ? Number(minutes.value.replace(',', '.')) : null,
        },
      }),
    ),
  )
async function close(): Promise<void> {
  const sure = await askFirst({
    title: 'Close it on screen?',
    lines: ['Whatever is under way is marked as it stands.'],
    yes: 'Close it',
  })
  if (sure) await run(() => ask(api.DELETE('/api/v1/sheets/{sheet_id}/screen', at)))
}
const tell = () => run(() => ask(api.POST('/api/v1/sheets/{sheet_id}/screen/told', at)))
const allow = (apprentice_id: number, factor: number) =>
  run(() => ask(api.PUT('/api/v1/sheets/{sheet_id}/screen/allowances', { ...at, body: { apprentice_id, factor } })))
const router = useRouter()
const teaches = computed(() => user.value?.role === 'instructor')
const ways = ref(0)
const lessons = ref<Schemas['LessonRow'][]>([])
const position = ref(1)
const link = kept<{ id: number; token: string }>('lesson.link', { id: 0, token: '' })
const beginLesson = () =>
  attempt(async () => {
    const body = { position: position.value }
    link.value = await ask(api.POST('/api/v1/sheets/{sheet_id}/lessons', { ...at, body }))
    await router.push(`/lesson/${link.value.id}`)
  })
onMounted(async () => {
  await look()
  if (!teaches.value) return
  await attempt(async () => {
    lessons.value = (await ask(api.GET('/api/v1/sheets/{sheet_id}/lessons', at))).lessons
  })
})
onBeforeUnmount(() => window.clearTimeout(timer))
</script>

<template>
  <p v-if="failure" class="error" role="alert">{{ failure }}</p>
  <template v-if="state">
    <p v-if="!state.playable" class="card soft">
      Drills, situations and calls on a rig are for paper; this sheet has nothing that can be played.
    </p>
    <form v-else-if="!running" class="card open" @submit.prevent="open">
      <label class="way"
        ><input v-model="mode" type="radio" value="practice" /><span
          ><b>Practice</b> hints that cost, marks at once</span
        ></label
      >
      <label class="way"
        ><input v-model="mode" type="radio" value="exam" data-test="exam" /><span
          ><b>Exam</b> no hints, one try, marks when you show them</span
        ></label
      >
      <label v-if="mode === 'exam'"
        ><span>Minutes for each call (empty: no limit)</span
        ><input v-model="minutes" inputmode="decimal" maxlength="6" data-test="screen-minutes"
      /></label>
      <el-button type="primary" native-type="submit" data-test="open-screen">Open on screen</el-button>
      <small class="soft">Everybody plays the calls of their own paper, under Your papers.</small>
    </form>
    <section v-if="opening" class="card">
      <div class="page-head">
        <h2>
          {{ opening.mode === 'exam' ? 'Exam' : 'Practice'
          }}{{ opening.minutes ? `, ${opening.minutes} min a call` : '' }}{{ opening.closed ? ', closed' : '' }}
        </h2>
        <span>
          <el-button v-if="running" size="small" data-test="close-screen" @click="close">Close</el-button>
          <el-button
            v-if="opening.mode === 'exam' && opening.closed && !opening.told"
            size="small"
            type="primary"
            data-test="tell"
            @click="tell"
            >Show everybody their marks</el-button
          >
        </span>
      </div>
      <table class="list rows">
        <thead>
          <tr>
            <th>Apprentice</th>
            <th v-for="n in positions" :key="n">Call {{ n }}</th>
            <th v-if="opening.mode === 'exam' && opening.minutes">Time</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="p in people" :key="p.id" data-test="screen-row">
            <td>{{ p.name }}</td>
            <td v-for="(r, n) in p.cells" :key="n" class="num">
              <template v-if="!r" />
              <RouterLink v-else-if="r.finished_at && r.run_id" :to="`/screen/${r.run_id}`" title="see the path"
                ><b>{{ r.earned }}/{{ r.possible }}</b
                >&nbsp;<span class="soft">{{ clock(r.minutes ?? 0) }} h</span></RouterLink
              ><template v-else-if="r.run_id">{{ r.steps }} steps</template><span v-else class="soft">not begun</span>
            </td>
            <td v-if="opening.mode === 'exam' && opening.minutes">
              <select
                :value="p.factor"
                :aria-label="`Time for ${p.name}`"
                :disabled="opening.closed"
                @change="allow(p.id, Number(($event.target as HTMLSelectElement).value))"
              >
                <option v-for="f in [1, 1.25, 1.5, 2, 3]" :key="f" :value="f">
                  {{ f === 1 ? 'usual' : `× ${f}` }}
                </option>
              </select>
            </td>
          </tr>
        </tbody>
      </table>
      <div v-if="teaches && opening.rows.some((r) => r.finished_at)" class="parting">
        <b>Where they split up</b>
        <el-button
          v-for="n in positions"
          :key="n"
          size="small"
          :type="ways === n ? 'primary' : ''"
          :data-test="`ways-${n}`"
          @click="ways = ways === n ? 0 : n"
          >Call {{ n }}</el-button
        >
        <ClassWays v-if="ways" :key="ways" :sheet="sheet.id" :position="ways" />
      </div>
    </section>
    <form v-if="state.playable && teaches" class="card open" @submit.prevent="beginLesson">
      <span><b>Lesson</b> the class plays one call together on the projector, by vote</span>
      <label
        ><span>Call</span
        ><select v-model="position" data-test="lesson-call">
          <option v-for="(c, n) in sheet.items" :key="n" :value="n + 1">{{ n + 1 }} · {{ c.title }}</option>
        </select></label
      >
      <el-button native-type="submit" data-test="begin-lesson">Begin a lesson</el-button>
      <small class="soft">It is drawn for the lesson: nobody has it on paper.</small>
      <p v-for="l in lessons" :key="l.id" class="held">
        <RouterLink :to="`/lesson/${l.id}`">Call {{ l.position }}, {{ localTime(l.began_at) }}</RouterLink>
        <span v-if="l.minutes !== null" class="soft num"
          >{{ clock(l.minutes) }} h, an expert {{ clock(l.expert_minutes ?? 0) }} h</span
        ><span v-else class="soft">{{ l.ended ? '' : 'not ended' }}</span>
      </p>
    </form>
    <details class="card">
      <summary>What earns what</summary>
      <dl>
        <template v-for="line in state.rubric" :key="line.what"
          ><dt>{{ line.what }}</dt>
          <dd>{{ line.earns }}</dd></template
        >
      </dl>
    </details>
  </template>
</template>

<style scoped>
.open {
  display: flex;
  flex-wrap: wrap;
  gap: 10px 22px;
  align-items: end;
}
.parting {
  margin-top: 12px;
}
.parting b {
  margin-right: 10px;
}
.held {
  flex: 1 1 100%;
  display: flex;
  gap: 10px;
  margin: 0;
}
.way {
  display: flex;
  gap: 8px;
  align-items: baseline;
}
.open label > span {
  display: block;
}
.open input[inputmode] {
  font: inherit;
  padding: 5px 8px;
  width: 80px;
}
section.card,
details.card,
form.card {
  margin-bottom: 12px;
}
dt {
  font-weight: 600;
}
dd {
  margin: 0 0 6px;
}
</style>
