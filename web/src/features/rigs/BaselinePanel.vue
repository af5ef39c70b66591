<script setup lang="ts">
/** What makes this rig its own: how far it is from its profile, how closely it is now predicted. */
import { computed, ref } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import { useFailing } from '@/shared/failing'
import { localTime } from '@/shared/session'
import DriftPicture from './DriftPicture.vue'

const props = defineProps<{
  rigId: number
  baselines: Schemas['RigBaselineRow'][]
  planted: boolean
  teaches: boolean
}>()
const emit = defineEmits<{ changed: [full: Schemas['RigFull']] }>()
const minutes = ref(120)
const chosen = ref(0)
const { failure, busy, attempt } = useFailing()
const shown = computed(() => props.baselines.find((b) => b.id === chosen.value) ?? props.baselines[0])
const fit = () =>
  attempt(async () => {
    const full = await ask(
      api.POST('/api/v1/rigs/{rig_id}/baselines', {
        params: { path: { rig_id: props.rigId } },
        body: { minutes: minutes.value },
      }),
    )
    chosen.value = 0
    emit('changed', full)
  })
const WIDEST = 25
const share = (pct: number) => `${Math.min((50 * Math.abs(pct)) / WIDEST, 50)}%`
const signed = (v: number) => (Math.abs(v) < 0.05 ? '0.0' : `${v > 0 ? '+' : '−'}${Math.abs(v).toFixed(1)}`)
</script>

<template>
  <section class="card" aria-label="Baseline">
    <h2>Baseline</h2>
    <p v-if="!shown" class="soft">
      None yet. Run the rig with no fault set until it has settled, better in weather that changes by a few degrees,
      then calibrate: it finds this rig's own coils, airflow, compressor, charge and sensors.
    </p>
    <form v-if="teaches" class="row" @submit.prevent="fit">
      <label
        >From the last
        <select v-model.number="minutes" aria-label="How far back">
          <option :value="20">20 minutes</option>
          <option :value="60">hour</option>
          <option :value="120">2 hours</option>
          <option :value="480">8 hours</option>
          <option :value="10080">week</option>
        </select></label
      >
      <el-button type="primary" native-type="submit" :loading="busy" :disabled="planted" data-test="calibrate"
        >Calibrate</el-button
      >
      <span v-if="planted" class="soft">undo the faults first</span>
      <label v-if="baselines.length > 1" class="versions"
        ><span class="off">Baseline of</span
        ><select v-model.number="chosen">
          <option :value="0">the newest</option>
          <option v-for="b in baselines.slice(1)" :key="b.id" :value="b.id">{{ localTime(b.made_at) }}</option>
        </select></label
      >
    </form>
    <p v-if="failure" class="error" role="alert">{{ failure }}</p>
    <template v-if="shown">
      <p v-for="n in shown.notes" :key="n" class="note" data-test="note">{{ n }}</p>
      <p v-if="shown.old" class="note">The solver has changed since: calibrate again.</p>
      <div class="two">
        <table class="factors">
          <caption>
            This rig against its profile, %
          </caption>
          <tbody>
            <tr v-for="f in shown.factors" :key="f.id" :class="{ untold: !f.told }">
              <th scope="row">{{ f.words }}</th>
              <td class="bar" aria-hidden="true">
                <i :style="{ width: share(f.pct), [f.pct < 0 ? 'right' : 'left']: '50%' }" />
              </td>
              <td class="num right">{{ signed(f.pct) }}</td>
              <td class="num soft">± {{ f.uncertain_pct }}</td>
            </tr>
          </tbody>
        </table>
        <table class="met" data-test="met">
          <caption>
            Misses of
            {{
              shown.points
            }}
            settled stretches
          </caption>
          <thead>
            <tr>
              <th scope="col"><span class="off">Reading</span></th>
              <th scope="col" class="right">profile</th>
              <th scope="col" class="right">calibrated</th>
              <th scope="col" class="right">worst</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="m in shown.met" :key="m.point">
              <th scope="row">{{ m.label }}</th>
              <td class="num right soft">{{ signed(m.profile) }}</td>
              <td class="num right">{{ signed(m.fitted) }}</td>
              <td class="num right">{{ m.fitted_worst.toFixed(1) }} {{ m.unit }}</td>
            </tr>
          </tbody>
        </table>
      </div>
      <DriftPicture v-if="baselines.length > 1" :baselines="baselines" />
      <p class="soft small">
        Gray: the readings could not tell it from nothing.
        <template v-if="shown.together.length">Go together: {{ shown.together.join('; ') }}.</template> Made
        {{ localTime(shown.made_at) }}{{ shown.who ? ` by ${shown.who}` : '' }}.
      </p>
    </template>
  </section>
</template>

<style scoped>
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 12px;
  align-items: center;
}
.versions {
  margin-left: auto;
}
.two {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(340px, 100%), 1fr));
  gap: 8px 28px;
  margin-top: 8px;
}
table {
  border-collapse: collapse;
  width: 100%;
  font-size: 13.5px;
}
caption {
  text-align: left;
  font-size: 12.5px;
  color: var(--ink-soft);
  padding-bottom: 2px;
}
th {
  text-align: left;
  font-weight: 400;
}
td,
th {
  padding: 2px 6px 2px 0;
}
.right {
  text-align: right;
}
.bar {
  position: relative;
  width: 34%;
  background: linear-gradient(var(--edge), var(--edge)) 50% 0 / 1px 100% no-repeat;
}
.bar i {
  position: absolute;
  top: 4px;
  bottom: 4px;
  background: var(--violet);
}
.untold th,
.untold td {
  color: var(--ink-soft);
}
.untold .bar i {
  background: var(--line);
}
.note {
  border-left: 4px solid var(--amber);
  padding-left: 8px;
  margin: 6px 0 0;
}
.small {
  font-size: 12.5px;
  margin-bottom: 0;
}
</style>
