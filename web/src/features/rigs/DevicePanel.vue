<script setup lang="ts">
/** One thing a rig can plant with: set, measured, and which position brings a fault to the depth that is wanted. */
import { computed, ref, watch } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import { useFailing } from '@/shared/failing'
import { units } from '@/shared/kept'

const props = defineProps<{
  rigId: number
  rigName: string
  device: Schemas['RigDevice']
  settled: boolean
  alone: boolean
  teaches: boolean
}>()
const emit = defineEmits<{ changed: [full: Schemas['RigFull']] }>()
const position = ref(String(props.device.position || ''))
const fault = ref(props.device.settings.at(-1)?.fault ?? props.device.faults[0]?.id ?? '')
const wanted = ref('')
const plan = ref<Schemas['PlantPlan'] | null>(null)
const { failure, busy, attempt } = useFailing()
const path = () => ({ params: { path: { rig_id: props.rigId, device: props.device.id } } })
const known = computed(() => props.device.settings.filter((s) => s.fault === fault.value))
watch(
  () => props.device.position,
  (now) => (position.value = String(now || '')),
)
const mayNot = computed(() => !props.teaches && props.device.who === 'instructor')
const number = (text: string) => Number(text.trim().replace(',', '.'))
const set = (to: string) =>
  attempt(async () => {
    const body = { position: to === '' ? 0 : number(to), signed: '' }
    emit('changed', await ask(api.PUT('/api/v1/rigs/{rig_id}/devices/{device}', { ...path(), body })))
  })
const measure = () =>
  attempt(async () => {
    const body = { device: props.device.id, fault: fault.value, units: units.value }
    const full = await ask(
      api.POST('/api/v1/rigs/{rig_id}/settings', { params: { path: { rig_id: props.rigId } }, body }),
    )
    emit('changed', full)
  })
const drop = (id: number) =>
  attempt(async () => {
    const full = await ask(
      api.DELETE('/api/v1/rigs/{rig_id}/settings/{setting_id}', {
        params: { path: { rig_id: props.rigId, setting_id: id } },
      }),
    )
    emit('changed', full)
  })
const look = () =>
  attempt(async () => {
    plan.value = null
    plan.value = await ask(
      api.GET('/api/v1/rigs/{rig_id}/plan', {
        params: {
          path: { rig_id: props.rigId },
          query: { device: props.device.id, fault: fault.value, severity: number(wanted.value), units: units.value },
        },
      }),
    )
    position.value = String(plan.value.position)
  })
/** On paper the card stands alone: an assistant takes it to the rig. */
const card = ref<HTMLElement | null>(null)
function print(): void {
  if (!card.value) return
  const alone = card.value.cloneNode(true) as HTMLElement
  alone.classList.add('alone')
  document.body.append(alone)
  document.body.classList.add('one-card')
  window.print()
  document.body.classList.remove('one-card')
  alone.remove()
}
</script>

<template>
  <article :class="['device', { on: device.position > 0 }]" :aria-label="device.name" data-test="device">
    <header>
      <b>{{ device.name }}</b>
      <span v-if="device.position" class="num at">{{ device.position }} {{ device.unit }}</span>
    </header>
    <p v-if="mayNot" class="soft" data-test="may-not">An instructor sets this one.</p>
    <div v-else-if="device.most === 1" class="row">
      <el-button size="small" :loading="busy" data-test="set" @click="set(device.position ? '' : '1')">{{
        device.position ? 'Undo' : device.remote ? `Switch: ${device.unit}` : `I have switched it: ${device.unit}`
      }}</el-button>
    </div>
    <div v-else class="row">
      <label
        ><span class="off">Position of {{ device.name }}</span
        ><input v-model="position" inputmode="decimal" class="num" :placeholder="`0 to ${device.most}`"
      /></label>
      <span class="soft">{{ device.unit }}</span>
      <el-button size="small" :loading="busy" data-test="set" @click="set(position)">{{
        device.remote ? 'Set it' : 'I have set it'
      }}</el-button>
      <el-button v-if="device.position" size="small" data-test="undo-one" @click="set('')">Undo</el-button>
    </div>
    <p class="soft how">{{ device.position ? device.undo : device.set }}</p>
    <template v-if="device.faults.length">
      <div class="row">
        <select v-if="device.faults.length > 1" v-model="fault" :aria-label="`Fault of ${device.name}`">
          <option v-for="f in device.faults" :key="f.id" :value="f.id">{{ f.name }}</option>
        </select>
        <span v-else>{{ device.faults[0]?.name }}</span>
      </div>
      <ul v-if="known.length" class="known">
        <li v-for="s in known" :key="s.id">
          <span class="num">{{ s.position }} {{ device.unit }} = {{ s.severity_text.split(',')[0] }}</span
          >&nbsp;<span class="soft num">{{ s.spread_text }}</span
          ><button
            v-if="teaches"
            type="button"
            class="x"
            :aria-label="`Forget ${s.position} ${device.unit}`"
            @click="drop(s.id)"
          >
            ×
          </button>
        </li>
      </ul>
      <div class="row">
        <el-button
          v-if="teaches && device.position"
          size="small"
          type="primary"
          plain
          :disabled="!settled || !alone"
          :loading="busy"
          data-test="measure"
          @click="measure"
          >Measure severity</el-button
        >
        <span v-if="teaches && device.position && !settled" class="soft">once it has settled</span>
        <span v-else-if="teaches && device.position && !alone" class="soft">with nothing else set</span>
      </div>
      <form v-if="known.length && !device.position" class="row" @submit.prevent="look">
        <label
          ><span>Severity </span
          ><input v-model="wanted" inputmode="decimal" class="num" :aria-label="`Severity wanted of ${device.name}`"
        /></label>
        <span class="soft">{{ known[0]?.severity_text.split(',')[0]?.replace(/^[\d.]+ ?/, '') }}</span>
        <el-button size="small" native-type="submit" :disabled="!wanted" data-test="plan">Which position?</el-button>
      </form>
    </template>
    <p v-if="device.kind === 'charge' && device.position" class="small">
      <RouterLink
        :to="`/refrigerant?kind=recover&rig=${rigId}&log=${device.position} oz&why=set short`"
        data-test="to-log"
        >Write {{ device.position }} oz in the refrigerant log</RouterLink
      >
    </p>
    <p v-if="failure" class="error" role="alert">{{ failure }}</p>
    <div v-if="plan && !device.position" ref="card" class="plan" data-test="plan-card">
      <p class="paper">{{ rigName }}: {{ device.name }}</p>
      <b class="num">{{ plan.position }} {{ plan.unit }}</b>
      <span class="soft num"> ± {{ plan.give_or_take }}</span> for {{ plan.severity_text }}
      <dl v-if="plan.expected.length">
        <template
          v-for="e in plan.expected.filter((x) =>
            ['suction_pressure', 'head_pressure', 'superheat', 'subcooling'].includes(x.point),
          )"
          :key="e.point"
          ><dt>{{ e.label }}</dt>
          <dd class="num">
            {{ e.expected_text }} <span class="soft">normal now {{ e.healthy_text }}</span>
          </dd></template
        >
      </dl>
      <p class="paper">Set: {{ plan.set }}</p>
      <p class="paper">Undo: {{ plan.undo }}</p>
      <p class="caution">{{ plan.limits }}</p>
      <p v-for="h in plan.hazards" :key="h" class="caution">{{ h }}</p>
      <p class="paper sign">Set by, at</p>
      <p class="paper sign">Undone and looked over by, at</p>
      <el-button size="small" class="no-print" data-test="print-card" @click="print">Print the card</el-button>
    </div>
  </article>
</template>

<style scoped>
.device {
  border: 1px solid var(--line);
  border-left: 5px solid var(--edge);
  border-radius: 3px;
  padding: 8px 12px 10px;
  background: var(--card);
}
.device.on {
  border-left-color: var(--violet);
}
header {
  display: flex;
  justify-content: space-between;
  gap: 8px;
}
.at {
  color: var(--violet);
  font-weight: 700;
}
.row {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px;
  margin-top: 6px;
}
.row input {
  width: 84px;
}
.how {
  margin: 6px 0 0;
  font-size: 13px;
}
.known {
  list-style: none;
  margin: 4px 0 0;
  padding: 0;
  font-size: 13.5px;
}
.x {
  border: 0;
  background: none;
  color: var(--ink-soft);
  cursor: pointer;
  min-width: 24px;
  min-height: 24px;
}
.plan {
  margin-top: 8px;
  padding: 8px 10px;
  background: var(--violet-soft);
  border-radius: 3px;
}
.plan b {
  font-size: 17px;
}
.plan dl {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 1px 10px;
  margin: 6px 0;
  font-size: 13.5px;
}
.plan dd {
  margin: 0;
}
.paper {
  display: none;
}
@media print {
  .plan.alone {
    background: none;
    font-size: 15pt;
    color: #000;
  }
  .alone .paper {
    display: block;
    margin: 0 0 6pt;
    font-weight: 700;
  }
  .alone .sign {
    margin-top: 22pt;
    border-top: 1px solid #000;
    font-weight: 400;
    font-size: 11pt;
  }
  .no-print {
    display: none;
  }
}
.caution {
  color: var(--amber-dark);
  margin: 2px 0 0;
  font-size: 13px;
}
</style>
