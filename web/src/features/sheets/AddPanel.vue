<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import { useFailing } from '@/shared/failing'
import FindSelect from '@/shared/FindSelect.vue'
import { kept, units } from '@/shared/kept'
import NumberField from '@/shared/NumberField.vue'
import { DRILLS, PLAIN, type Item } from './draft'
import RequestPanel from './RequestPanel.vue'
import { arrows } from '@/shared/tabs'

const props = defineProps<{ catalogue: Schemas['CatalogueReply'] | null; title: string }>()
const emit = defineEmits<{ add: [items: Item[]] }>()
const way = kept<'brief' | 'library' | 'situation' | 'drill' | 'rig'>('sheet.way', 'brief')
const WAYS = [
  ['brief', 'From a request'],
  ['library', 'From the library'],
  ['situation', 'Situation'],
  ['drill', 'Drill'],
  ['rig', 'On a rig'],
] as const
type Brief = {
  calls: number
  levels: number[]
  machines: string[]
  faults: string[]
  minutes: number | null
  fault_free_share: number
  two_faults: number
  second_visits: number
  instrument_faults: number
  drills: { kind: string; items?: number }[]
  instruments?: string
  apprentices?: number
  units?: 'us' | 'si'
  weather?: Record<string, number[]>
  altitude_ft?: number
}
const EMPTY: Brief = {
  calls: 5,
  levels: [1, 3],
  machines: [],
  faults: [],
  minutes: null,
  fault_free_share: 0.2,
  two_faults: 0,
  second_visits: 0,
  instrument_faults: 0,
  drills: [],
}
const brief = kept<Brief>('sheet.brief', { ...EMPTY })
type Plan = Schemas['BriefPlan']
const plan = ref<Plan | null>(null)
const { failure, busy, attempt: run } = useFailing()
const library = ref<Schemas['ScenarioRow'][]>([])
const chosen = ref<string[]>([])
const drill = ref('conversion')
const count = ref(6)
const machines = computed(() =>
  (props.catalogue?.machines ?? []).map((m) => ({ id: m.id, label: `${m.name}, ${m.refrigerant}`, also: m.also })),
)
const faults = computed(() =>
  (props.catalogue?.faults ?? [])
    .filter((f) => f.on_paper && f.id !== 'none' && f.acts_on === 'machine')
    .map((f) => ({ id: f.id, label: f.name, also: f.also })),
)
const fits = computed(() => library.value.filter((s) => s.on_paper))
const fitting = computed(() =>
  fits.value.map((s) => ({
    id: String(s.id),
    label: `${s.title} · ${s.fault_name}${s.level ? `, level ${s.level}` : ''}`,
  })),
)
const faultFree = computed({
  get: () => Math.round(brief.value.fault_free_share * brief.value.calls),
  set: (n: number) => {
    brief.value.fault_free_share = Math.min(n / Math.max(brief.value.calls, 1), 1)
  },
})

function body(): Schemas['BriefBody']['brief'] {
  const b = brief.value
  return {
    title: props.title.trim() || 'A sheet',
    calls: b.calls,
    levels: b.levels,
    fault_free_share: Math.round(b.fault_free_share * 1000) / 1000,
    two_faults: b.two_faults,
    drills: b.drills,
    units: b.units ?? units.value,
    ...(b.second_visits ? { second_visits: b.second_visits } : {}),
    ...(b.instrument_faults ? { instrument_faults: b.instrument_faults } : {}),
    ...(b.minutes ? { minutes: b.minutes } : {}),
    ...(b.machines.length ? { machines: b.machines } : {}),
    ...(b.faults.length ? { faults: b.faults } : {}),
    ...(b.instruments ? { instruments: b.instruments } : {}),
    ...(b.apprentices ? { apprentices: b.apprentices } : {}),
    ...(b.weather ? { weather: b.weather } : {}),
    ...(b.altitude_ft ? { altitude_ft: b.altitude_ft } : {}),
  }
}
const fromWords = (read: Schemas['BriefRead']['brief']) =>
  run(async () => {
    brief.value = { ...EMPTY, ...(read as Partial<Brief>) }
    plan.value = null
    await makePlan()
  })
// The plan comes a piece at a time: what is found stands there while the rest is looked for, and one may stop.
const looking = ref<AbortController | null>(null)
const lookingFor = computed(() => {
  const found = plan.value?.ladder.length ?? 0
  return found < (plan.value?.of ?? brief.value.calls)
    ? `Building call ${found + 1} of ${plan.value?.of ?? brief.value.calls}`
    : 'Finding equally hard faults, so that neighbors get different ones'
})
async function makePlan(): Promise<void> {
  const asking = new AbortController()
  const of = body()
  plan.value = null
  looking.value = asking
  try {
    let soFar: Plan['so_far'] = null
    do {
      const found: Plan = await ask(
        api.POST('/api/v1/briefs/plan', {
          body: { brief: of, stepwise: true, so_far: soFar },
          signal: asking.signal,
        }),
      )
      plan.value = found
      soFar = found.so_far
    } while (soFar)
  } catch (error) {
    plan.value = null
    if (!asking.signal.aborted) throw error
  } finally {
    looking.value = null
  }
}
const seePlan = () => run(makePlan)
function take(): void {
  if (!plan.value) return
  const of = plan.value.brief
  emit('add', [
    ...plan.value.drills.map((d): Item => ({
      kind: 'drill',
      title: d.title,
      scenario_id: null,
      level: null,
      minutes: d.minutes,
      asked: structuredClone(PLAIN),
      brief: of,
      drill: d.kind,
      items: Math.min(d.items, 12),
    })),
    ...plan.value.ladder.map((r): Item => ({
      kind: 'rung',
      title: r.title,
      scenario_id: null,
      level: r.level,
      minutes: r.minutes,
      asked: structuredClone(PLAIN),
      brief: of,
      rung: {
        number: r.rung,
        level: r.level,
        skill: r.skill,
        skills: r.skills,
        success: r.success,
        look_decides: r.look_decides,
        way: r.way,
      },
    })),
  ])
  plan.value = null
}
function fromLibrary(kind: 'scenario' | 'rig'): void {
  const rows = chosen.value.map((id) => fits.value.find((s) => String(s.id) === id)).filter((s) => s !== undefined)
  emit(
    'add',
    rows.map((s): Item => ({
      kind,
      title: s.title,
      scenario_id: s.id,
      level: s.level ?? null,
      minutes: kind === 'rig' ? 30 : s.level ? 4 + 2 * s.level : 9,
      asked: structuredClone(PLAIN),
    })),
  )
  chosen.value = []
}
function addDrill(): void {
  const name = DRILLS.find(([id]) => id === drill.value)?.[1] ?? drill.value
  emit('add', [
    {
      kind: 'drill',
      title: name,
      scenario_id: null,
      level: null,
      minutes: Math.round(1.5 * count.value),
      asked: structuredClone(PLAIN),
      brief: body(),
      drill: drill.value,
      items: count.value,
    },
  ])
}
const situations = computed(() => props.catalogue?.situations ?? [])
function addSituation(one: Schemas['SituationRow']): void {
  emit('add', [
    {
      kind: 'situation',
      title: one.name,
      scenario_id: null,
      level: one.level,
      minutes: one.minutes,
      asked: structuredClone(PLAIN),
      brief: body(),
      situation: one.id,
    },
  ])
}
onMounted(() =>
  run(async () => {
    library.value = (
      await ask(api.GET('/api/v1/scenarios', { params: { query: { archived: false, units: units.value } } }))
    ).scenarios
  }),
)
</script>

<template>
  <div class="ways" role="tablist" aria-label="What to add" @keydown="arrows">
    <button
      v-for="[id, name] in WAYS"
      :key="id"
      role="tab"
      :tabindex="way === id ? 0 : -1"
      :aria-selected="way === id"
      :class="{ on: way === id }"
      :data-test="`way-${id}`"
      @click="way = id"
    >
      {{ name }}
    </button>
  </div>
  <p v-if="failure" class="error" role="alert">{{ failure }}</p>
  <template v-if="way === 'brief'">
    <RequestPanel :busy="busy" @build="fromWords" @situations="way = 'situation'" />
    <details class="fields">
      <summary>The same in fields</summary>
      <div class="grid">
        <label class="field"><span>Calls</span><NumberField v-model="brief.calls" :min="0" :max="12" /></label>
        <label class="field"
          ><span>Level from</span><NumberField v-model="brief.levels[0]" :min="1" :max="brief.levels[1]"
        /></label>
        <label class="field"
          ><span>to</span><NumberField v-model="brief.levels[1]" :min="brief.levels[0]" :max="5"
        /></label>
        <label class="field"
          ><span>Nothing wrong</span><NumberField v-model="faultFree" :min="0" :max="brief.calls"
        /></label>
        <label class="field"
          ><span>With two faults</span><NumberField v-model="brief.two_faults" :min="0" :max="brief.calls"
        /></label>
        <label class="field"
          ><span>Second visits</span><NumberField v-model="brief.second_visits" :min="0" :max="brief.calls"
        /></label>
        <label class="field"
          ><span>Instrument reads wrong</span
          ><NumberField v-model="brief.instrument_faults" :min="0" :max="brief.calls"
        /></label>
        <label class="field"
          ><span>Maximum minutes</span><NumberField v-model="brief.minutes" :min="5" :max="480"
        /></label>
      </div>
      <label class="field"
        ><span>Machines (none: the usual ones)</span
        ><FindSelect v-model="brief.machines" multiple :rows="machines" aria-label="Machines"
      /></label>
      <label class="field"
        ><span>Faults (none: the usual ones)</span
        ><FindSelect v-model="brief.faults" multiple :rows="faults" aria-label="Faults"
      /></label>
      <el-button :loading="busy" @click="seePlan">Build calls, easy to hard</el-button>
    </details>
    <div v-if="looking" class="looking" role="status" data-test="planning">
      <span>{{ lookingFor }}</span>
      <el-button size="small" data-test="stop-plan" @click="looking.abort()">Stop</el-button>
    </div>
    <div v-if="plan" class="plan" data-test="plan">
      <h2 v-if="!looking">{{ plan.minutes }} minutes, easiest first</h2>
      <ol>
        <li v-for="(d, i) in plan.drills" :key="`d${i}`">
          <b>{{ d.title }}</b> <span class="soft">drill, {{ d.items }} items</span>
        </li>
        <li v-for="r in plan.ladder" :key="r.rung">
          <b>{{ r.title }}</b>
          <span class="soft"
            >level {{ r.level }} · {{ r.minutes }} min<template v-if="r.success !== null"
              >, {{ Math.round(100 * r.success) }} of 100 should name it</template
            ><template v-if="r.look_decides">, a look shows it</template></span
          >
        </li>
      </ol>
      <p v-if="plan.note" class="unread" data-test="plan-note">{{ plan.note }}</p>
      <el-button v-if="!looking" type="primary" data-test="take-plan" @click="take">Put these on the sheet</el-button>
    </div>
  </template>
  <template v-else-if="way === 'library' || way === 'rig'">
    <p class="soft">
      {{
        way === 'rig'
          ? 'Set on a trainer rig: everybody reads the same rig, the packet leaves the readings blank, and the class is marked against what the rig actually read.'
          : 'Every apprentice gets a variant of these with other numbers.'
      }}
    </p>
    <label class="field"
      ><span>Scenarios that fit on paper</span
      ><FindSelect v-model="chosen" multiple :rows="fitting" :data-test="`pick-${way}`" aria-label="Scenarios"
    /></label>
    <el-button
      type="primary"
      :disabled="!chosen.length"
      data-test="add-chosen"
      @click="fromLibrary(way === 'rig' ? 'rig' : 'scenario')"
      >Put on the sheet</el-button
    >
    <p class="soft">Something else? <RouterLink to="/bench">Build it on the bench</RouterLink>.</p>
  </template>
  <template v-else-if="way === 'situation'">
    <p class="soft">
      Visits that one steady set of readings cannot show: a unit that is off, trips or hunts, a warm box, rooftop air, a
      sealed system. Each brings its own questions; every apprentice gets a different machine, weather and case.
    </p>
    <ul class="situations">
      <li v-for="one in situations" :key="one.id">
        <el-button size="small" :data-test="`add-${one.id}`" :aria-label="`Add ${one.name}`" @click="addSituation(one)"
          >Add</el-button
        >
        <span
          ><b>{{ one.name }}</b> <span class="soft">level {{ one.level }} · {{ one.minutes }} min</span><br />{{
            one.trains
          }}</span
        >
      </li>
    </ul>
  </template>
  <template v-else>
    <label class="field"
      ><span>Drill</span
      ><FindSelect
        v-model="drill"
        :rows="DRILLS.map(([id, label]) => ({ id, label }))"
        aria-label="Drill"
        data-test="drill"
    /></label>
    <label class="field"><span>Items</span><NumberField v-model="count" :min="1" :max="12" /></label>
    <el-button type="primary" @click="addDrill">Put on the sheet</el-button>
  </template>
</template>

<style scoped>
.ways {
  display: flex;
  gap: 4px;
  margin-bottom: 12px;
  flex-wrap: wrap;
}
.ways button {
  border: 1px solid var(--edge);
  background: none;
  padding: 5px 10px;
  border-radius: 3px;
  cursor: pointer;
  font-size: 14px;
  color: var(--ink);
}
.ways button.on {
  background: var(--violet);
  color: var(--white);
  border-color: var(--violet);
}
.situations {
  list-style: none;
  padding: 0;
  margin: 0;
}
.situations li {
  display: flex;
  gap: 10px;
  align-items: flex-start;
  padding: 7px 0;
  border-bottom: 1px solid var(--edge);
}
.unread {
  border-left: 4px solid var(--amber);
  padding-left: 10px;
}
.fields {
  margin-bottom: 12px;
}
.fields summary {
  cursor: pointer;
  color: var(--violet);
  margin-bottom: 8px;
}
.grid {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(130px, 1fr));
  gap: 0 12px;
}
.looking {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 12px;
  margin: 12px 0;
}
.plan li b {
  margin-right: 6px;
}
.plan {
  background: var(--violet-soft);
  padding: 12px 14px;
  border-radius: 3px;
}
.plan ol {
  margin: 0 0 10px;
  padding-left: 22px;
  line-height: 1.7;
}
</style>
