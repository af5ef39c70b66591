<script setup lang="ts">
/** One rig, live: gauges and lines against what it should show, what stands on it, what is known of it. */
import { computed, onMounted, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, ask, type Schemas } from '@/api/client'
import { askFirst } from '@/shared/asking'
import DialFace from '@/shared/DialFace.vue'
import { useFailing } from '@/shared/failing'
import { kept, units } from '@/shared/kept'
import { localTime, user } from '@/shared/session'
import { called } from '@/shared/title'
import BaselinePanel from './BaselinePanel.vue'
import DataPanel from './DataPanel.vue'
import DevicePanel from './DevicePanel.vue'
import RigSettings from './RigSettings.vue'
import { beep } from './sound'
import StripPicture from './StripPicture.vue'
import { standing, useTicking } from './useLab'

const route = useRoute()
const router = useRouter()
const id = Number(route.params.id)
const full = ref<Schemas['RigFull'] | null>(null)
const live = ref<Schemas['RigLive'] | null>(null)
const samples = ref<Schemas['RigSample'][]>([])
const frozen = ref<Schemas['RigFrozen'] | null>(null)
const { failure, busy, attempt } = useFailing()
const hidden = kept('rigs.hidden', false)
const loud = kept('rigs.loud', true)
const path = { params: { path: { rig_id: id } } }
const MOST = 1900

async function load(): Promise<void> {
  full.value = await ask(
    api.GET('/api/v1/rigs/{rig_id}', { params: { path: { rig_id: id }, query: { units: units.value } } }),
  )
  called(full.value.row.name)
}
/** From the last sample on: whoever was away fetches what they missed. */
async function follow(): Promise<void> {
  const after = samples.value.at(-1)?.at ?? ''
  const reply = await ask(
    api.GET('/api/v1/rigs/{rig_id}/live', {
      params: { path: { rig_id: id }, query: { units: units.value, after } },
    }),
  )
  live.value = reply
  if (reply.samples.length) samples.value = [...samples.value, ...reply.samples].slice(-MOST)
}
const { lost, failure: cut } = useTicking(follow)
watch(units, () => {
  samples.value = []
  void attempt(load)
})
onMounted(() => attempt(load))

const rig = computed(() => live.value?.rig ?? full.value?.row ?? null)
const state = computed(() => (rig.value ? standing(rig.value) : null))
const shown = computed(() => [...(rig.value?.readings ?? []), ...(rig.value?.figures ?? [])])
const gaps = computed(() => {
  const begin = samples.value[0]?.at ?? ''
  return (full.value?.events ?? [])
    .filter((e) => e.kind === 'gap' && e.at >= begin)
    .map((e) => [e.begin ?? e.at, e.end ?? e.at] as [string, string])
})
const planted = computed(() => (full.value?.devices ?? []).filter((d) => d.position > 0))
const off = (r: Schemas['RigReading']) => {
  const should = r.expected ?? r.healthy
  return r.value === null || should === null ? null : r.value - should
}
watch(
  () => rig.value?.alarms.filter((a) => a.passed).length ?? 0,
  (now, before) => {
    if (now > before && loud.value) beep()
  },
)
const teaches = computed(() => user.value?.role === 'instructor')
const take = (next: Schemas['RigFull']) => (full.value = next)
const undo = () =>
  attempt(async () => {
    const sure = await askFirst({
      title: 'Everything undone?',
      lines: [
        ...planted.value.map((d) => `${d.name}: ${d.undo}`),
        'You sign that you looked. The rig is watched until it is back where it was.',
      ],
      yes: 'Undone and signed',
    })
    if (!sure) return
    take(await ask(api.POST('/api/v1/rigs/{rig_id}/undo', { ...path, body: { signed: user.value?.name ?? '' } })))
  })
const reason = ref('')
const release = () =>
  attempt(async () => {
    take(await ask(api.POST('/api/v1/rigs/{rig_id}/release', { ...path, body: { reason: reason.value } })))
    reason.value = ''
  })
const freeze = () =>
  attempt(async () => {
    frozen.value = null
    frozen.value = await ask(
      api.GET('/api/v1/rigs/{rig_id}/frozen', { params: { path: { rig_id: id }, query: { units: units.value } } }),
    )
  })
const drop = () =>
  attempt(async () => {
    const sure = await askFirst({
      title: 'Put this rig away?',
      lines: ['It is no longer read or shown. What it showed stays stored.'],
      yes: 'Put it away',
      danger: true,
    })
    if (!sure) return
    await ask(api.DELETE('/api/v1/rigs/{rig_id}', path))
    await router.push('/rigs')
  })
const signed = (v: number) => (Math.abs(v) < 0.05 ? '0.0' : `${v > 0 ? '+' : '−'}${Math.abs(v).toFixed(1)}`)
</script>

<template>
  <main class="page wide">
    <div class="page-head">
      <h1>{{ rig?.name ?? 'Rig' }}</h1>
      <span v-if="rig" class="soft"
        >{{ rig.machine_name }} · {{ rig.refrigerant }}{{ rig.place ? ` · ${rig.place}` : '' }}</span
      >
      <span class="grow" />
      <span class="acts">
        <label class="soft"><input v-model="hidden" type="checkbox" /> hide the faults</label>
        <RouterLink to="/rigs">All rigs</RouterLink>
      </span>
    </div>
    <img
      v-if="rig?.photo_at"
      class="photo"
      :src="`/api/v1/rigs/${id}/photo?v=${rig.photo_at}`"
      :alt="`${rig.name} as it stands in the shop`"
      data-test="photo"
    />
    <p v-if="full?.rig.notes" class="soft notes">{{ full.rig.notes }}</p>
    <p v-if="failure" class="error" role="alert">{{ failure }}</p>
    <p v-if="lost" class="error" role="alert">{{ cut }} What stands here is from before.</p>
    <p v-if="state" :class="['state', state.tone]" role="status" data-test="state">
      <i aria-hidden="true" />{{ state.text }}
    </p>
    <div v-for="a in rig?.alarms" :key="a.point" :class="['warn', { passed: a.passed }]" role="alert">
      <b>{{ a.text }}</b> {{ a.action }}
      <el-button v-if="a.passed && planted.length" size="small" type="danger" @click="undo">Undo now</el-button>
    </div>
    <div v-if="rig?.held" class="warn" role="status" data-test="held">
      <b>Held out of the rotation:</b> undone{{ rig.undone_by ? ` by ${rig.undone_by}` : '' }}, not back at its
      baseline: {{ rig.held }}. No fault can be set until it is.
      <form v-if="teaches" class="release" @submit.prevent="release">
        <input v-model="reason" maxlength="300" placeholder="Release it anyway, because …" aria-label="Reason" />
        <el-button size="small" native-type="submit" :disabled="reason.trim().length < 3">Release</el-button>
      </form>
    </div>
    <p v-for="d in hidden ? [] : rig?.doubts" :key="d" class="warn" data-test="doubt">{{ d }}</p>

    <div v-if="rig && samples.length" class="live">
      <div class="dials card">
        <figure v-for="d in live?.dials" :key="d.side">
          <DialFace :drawing="d" />
          <figcaption class="num">{{ d.text }}</figcaption>
        </figure>
      </div>
      <div class="card box" tabindex="0" role="group" aria-label="Readings now">
        <table class="readings" data-test="readings">
          <thead>
            <tr>
              <th scope="col">Reading</th>
              <th scope="col" class="right">now</th>
              <th v-if="rig.baseline_at" scope="col" class="right">normal now</th>
              <th v-if="planted.length && !hidden" scope="col" class="right">with the fault</th>
              <th v-if="rig.baseline_at" scope="col" class="right">off</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="r in shown" :key="r.point" :class="{ doubted: r.doubt }">
              <th scope="row">{{ r.label }}</th>
              <td class="num right now">{{ r.text }}</td>
              <td v-if="rig.baseline_at" class="num right soft">{{ r.healthy === null ? '' : r.healthy_text }}</td>
              <td v-if="planted.length && !hidden" class="num right">
                {{ r.expected === null ? '' : r.expected_text }}
              </td>
              <td v-if="rig.baseline_at" class="num right">{{ off(r) === null ? '' : signed(off(r) ?? 0) }}</td>
            </tr>
          </tbody>
        </table>
      </div>
      <div class="card chart"><StripPicture :samples="samples" :readings="rig.readings" :gaps="gaps" /></div>
    </div>
    <p v-else-if="rig?.logged && rig.state !== 'new'" class="card soft">Nothing was read in the last half hour.</p>

    <template v-if="full">
      <section v-if="full.devices.length" v-show="!hidden" class="card" aria-label="Faults it can set">
        <div class="head">
          <h2>Faults it can set</h2>
          <el-button v-if="planted.length" type="primary" data-test="undo" @click="undo">Undo everything</el-button>
        </div>
        <div class="devices">
          <DevicePanel
            v-for="d in full.devices"
            :key="d.id"
            :rig-id="id"
            :rig-name="full.row.name"
            :device="d"
            :settled="(rig?.settled_min ?? 0) > 0"
            :alone="planted.length === 1 && planted[0]?.id === d.id"
            :teaches="teaches"
            @changed="take"
          />
        </div>
      </section>
      <BaselinePanel
        :rig-id="id"
        :baselines="full.baselines"
        :planted="planted.length > 0"
        :teaches="teaches"
        @changed="take"
      />
      <section v-if="teaches" class="card" aria-label="Readings for a class">
        <div class="head">
          <h2>Readings for a class</h2>
          <el-button :loading="busy" data-test="freeze" @click="freeze">Take the settled stretch</el-button>
        </div>
        <p v-if="!frozen" class="soft">
          The mean of what it has shown since it settled. A sheet's rig call takes it under <i>Rig readings</i>.
        </p>
        <template v-else>
          <p v-for="a in frozen.astray" :key="a" class="warn">{{ a }}: not ready for a class.</p>
          <p data-test="frozen">
            <b>{{ frozen.minutes }} minutes</b
            >{{ frozen.astray.length ? '' : ', and it shows what was predicted: ready.' }}
          </p>
          <p v-if="frozen.answer" data-test="answer">{{ frozen.answer }}</p>
          <ul class="frozen">
            <li v-for="t in frozen.texts" :key="t.point">
              {{ t.label }} <b class="num">{{ t.text }}</b>
            </li>
          </ul>
        </template>
      </section>
      <DataPanel v-if="teaches" :rig-id="id" :full="full" @changed="take" />
      <RigSettings v-if="teaches" :rig-id="id" :full="full" @changed="take" />
      <section class="card" aria-label="What happened">
        <div class="head">
          <h2>What happened</h2>
          <el-button v-if="teaches" size="small" @click="drop">Put this rig away</el-button>
        </div>
        <ul class="events">
          <li v-for="(e, n) in full.events" :key="n">
            <span class="soft num">{{ localTime(e.at) }}</span> {{ e.text }}
            <span v-if="e.who && !e.text.includes(e.who)" class="soft">{{ e.who }}</span>
          </li>
          <li v-if="!full.events.length" class="soft">Nothing yet.</li>
        </ul>
      </section>
    </template>
  </main>
</template>

<style scoped>
.wide {
  max-width: 1480px;
  padding-top: 16px;
}
.page-head {
  justify-content: flex-start;
}
.grow {
  flex: 1;
}
.notes {
  margin: -4px 0 6px;
  font-size: 13px;
}
.acts {
  display: flex;
  gap: 14px;
  align-items: center;
}
.photo {
  float: right;
  max-height: 110px;
  max-width: 200px;
  margin: -34px 0 6px 12px;
  border: 1px solid var(--line);
  border-radius: 3px;
}
.live {
  clear: both;
}
.state {
  display: flex;
  gap: 8px;
  align-items: baseline;
  margin: 0 0 10px;
  font-size: 17px;
  font-weight: 600;
}
.state i {
  flex: none;
  width: 12px;
  height: 12px;
  border-radius: 50%;
  background: var(--edge);
}
.state.good i {
  background: var(--good);
}
.state.wait i {
  border: 3px solid var(--amber);
  background: none;
}
.state.bad i {
  background: var(--high);
  border-radius: 0;
}
.warn {
  padding: 6px 10px;
  margin: 0 0 8px;
  border-left: 5px solid var(--amber);
  background: var(--amber-tint);
}
.release {
  display: flex;
  gap: 8px;
  margin-top: 4px;
}
.release input {
  flex: 1;
  max-width: 420px;
}
.warn.passed {
  border-left-color: var(--high);
  background: var(--high-tint-strong);
}
.live {
  display: grid;
  grid-template-columns: 196px auto minmax(320px, 1fr);
  gap: 10px;
  align-items: start;
}
@media (max-width: 1180px) {
  .live {
    grid-template-columns: 196px minmax(0, 1fr);
  }
  .chart {
    grid-column: 1 / -1;
  }
}
.dials {
  padding: 8px 10px;
  margin: 0;
}
.dials figure {
  margin: 0 auto 4px;
  max-width: 190px;
}
figcaption {
  text-align: center;
  font-weight: 700;
}
.box {
  margin: 0;
  padding: 8px 10px;
  overflow-x: auto;
}
.readings {
  border-collapse: collapse;
  width: 100%;
  font-size: 13.5px;
  white-space: nowrap;
}
.readings th {
  text-align: left;
  font-weight: 400;
}
.readings thead th {
  font-size: 12px;
  color: var(--ink-soft);
}
.readings td,
.readings th {
  padding: 3px 6px;
}
.readings .right,
.right {
  text-align: right;
}
.now {
  font-weight: 700;
}
.doubted th,
.doubted .now {
  color: var(--amber-dark);
}
.chart {
  margin: 0;
  padding: 8px;
}
.head {
  display: flex;
  justify-content: space-between;
  align-items: start;
  gap: 10px;
}
.devices {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(min(300px, 100%), 1fr));
  gap: 10px;
}
.frozen,
.events {
  list-style: none;
  margin: 0;
  padding: 0;
  font-size: 14px;
}
.frozen {
  columns: 3 220px;
}
section.card {
  margin-top: 12px;
}
@media (max-width: 700px) {
  .live {
    grid-template-columns: minmax(0, 1fr);
  }
  .dials {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 8px;
  }
}
</style>
