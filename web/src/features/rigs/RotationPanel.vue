<script setup lang="ts">
/** A class that goes round the rigs: begun here, its minutes, who is here, the next round. */
import { computed, onMounted, ref, watch } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import { askFirst } from '@/shared/asking'
import { useFailing } from '@/shared/failing'
import { kept, units } from '@/shared/kept'
import NumberField from '@/shared/NumberField.vue'
import { user } from '@/shared/session'
import { beep } from './sound'

const props = defineProps<{
  rotation: Schemas['RotationRow'] | null
  left: number
  rigs: Schemas['RigRow'][]
  wall: boolean
}>()
const emit = defineEmits<{ changed: [lab: Schemas['RigLab']]; close: [] }>()
const { failure, busy, attempt } = useFailing()
const asked = kept('rigs.rotation', { class_id: 0, minutes: 30, seats: 2, rounds: 0 })
const classes = ref<Schemas['ClassRow'][]>([])
const listed = ref(false)
const query = () => ({ params: { query: { units: units.value } } })
const last = computed(() => !!props.rotation && props.rotation.number >= props.rotation.of)
const away = computed(() => props.rotation?.people.filter((p) => p.away).map((p) => p.id) ?? [])
const clock = computed(() => {
  const seconds = Math.round(Math.abs(props.left) * 60)
  return `${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, '0')}`
})
watch(
  () => props.rotation !== null && props.left <= 0,
  (over, before) => over && before === false && beep(),
)
const begin = () =>
  attempt(async () => {
    const { class_id, minutes, seats, rounds } = asked.value
    const body = { class_id, minutes, seats, rounds: rounds || null, rigs: [], away: [] }
    emit('changed', await ask(api.POST('/api/v1/rigs/rotation', { ...query(), body })))
    emit('close')
  })
const turn = () =>
  attempt(async () => {
    const body = { number: (props.rotation?.number ?? 0) + 1 }
    emit('changed', await ask(api.PUT('/api/v1/rigs/rotation/round', { ...query(), body })))
  })
const mark = (id: number) =>
  attempt(async () => {
    const body = { away: away.value.includes(id) ? away.value.filter((a) => a !== id) : [...away.value, id] }
    emit('changed', await ask(api.PUT('/api/v1/rigs/rotation/people', { ...query(), body })))
  })
const end = () =>
  attempt(async () => {
    const sure =
      last.value ||
      (await askFirst({
        title: 'End the rotation?',
        lines: [`Round ${props.rotation?.number} of ${props.rotation?.of} is running; the rounds left are dropped.`],
        yes: 'End it',
      }))
    if (sure) emit('changed', await ask(api.DELETE('/api/v1/rigs/rotation', query())))
  })
onMounted(() =>
  attempt(async () => {
    if (props.wall) return
    if (user.value?.role !== 'instructor') {
      // whoever assists knows classes by their sheets
      const { sheets } = await ask(api.GET('/api/v1/sheets'))
      const rows = sheets.map((s) => [s.class_id, { id: s.class_id, name: s.class_name, term: '', size: 0 }] as const)
      classes.value = [...new Map(rows).values()] as Schemas['ClassRow'][]
    } else classes.value = (await ask(api.GET('/api/v1/classes', { params: { query: { archived: false } } }))).classes
    if (!classes.value.some((c) => c.id === asked.value.class_id)) asked.value.class_id = classes.value[0]?.id ?? 0
  }),
)
</script>

<template>
  <form v-if="!rotation" class="card start" aria-label="Start a rotation" @submit.prevent="begin">
    <label class="field"
      ><span>Class</span
      ><select v-model="asked.class_id" data-test="rotation-class">
        <option v-for="c in classes" :key="c.id" :value="c.id">{{ c.name }}{{ c.term ? `, ${c.term}` : '' }}</option>
      </select></label
    >
    <label class="field"><span>Minutes a round</span><NumberField v-model="asked.minutes" :min="5" :max="240" /></label>
    <label class="field"><span>People at a rig</span><NumberField v-model="asked.seats" :min="1" :max="6" /></label>
    <label class="field"
      ><span>Rounds</span
      ><NumberField
        :model-value="asked.rounds || null"
        :min="1"
        :max="24"
        optional
        placeholder="enough for all"
        @update:model-value="asked.rounds = $event ?? 0"
    /></label>
    <span class="hands"
      ><el-button type="primary" native-type="submit" :loading="busy" :disabled="!asked.class_id" data-test="begin"
        >Start round 1</el-button
      ><el-button @click="emit('close')">Cancel</el-button></span
    >
    <p v-if="failure" class="error" role="alert">{{ failure }}</p>
  </form>
  <section v-else class="card round" :class="{ over: left <= 0 }" aria-label="Rotation" data-test="rotation">
    <p class="line">
      <b>Round {{ rotation.number }} of {{ rotation.of }}</b>
      <span class="num clock" role="timer" data-test="left">{{ left <= 0 ? `+${clock}` : clock }}</span>
      <span class="soft">{{ left <= 0 ? 'over time' : 'left' }} · {{ rotation.class_name }}</span>
      <span class="grow" />
      <template v-if="!wall">
        <el-button v-if="!last" type="primary" :loading="busy" data-test="next-round" @click="turn"
          >Next round</el-button
        >
        <el-button data-test="who" :aria-expanded="listed" @click="listed = !listed"
          >Who is here ({{ rotation.people.length - away.length }} of {{ rotation.people.length }})</el-button
        >
        <el-button data-test="end-rotation" @click="end">End</el-button>
      </template>
    </p>
    <p v-if="rotation.desk.length || rotation.desk_following.length" class="desk" data-test="desk">
      At the desk: <b>{{ rotation.desk.join(', ') || 'nobody' }}</b>
      <span v-if="rotation.desk_following.length" class="soft"> next: {{ rotation.desk_following.join(', ') }}</span>
    </p>
    <p v-if="failure" class="error" role="alert">{{ failure }}</p>
    <fieldset v-if="listed && !wall" class="here">
      <legend>Untick who is not here; what follows is planned again at once.</legend>
      <label v-for="p in rotation.people" :key="p.id"
        ><input type="checkbox" :checked="!p.away" :disabled="busy" @change="mark(p.id)" /> {{ p.name }}</label
      >
    </fieldset>
  </section>
</template>

<style scoped>
.start {
  display: grid;
  grid-template-columns: minmax(180px, 2fr) repeat(3, minmax(110px, 1fr)) auto;
  gap: 4px 14px;
  align-items: end;
  margin-bottom: 12px;
}
.start .error {
  grid-column: 1 / -1;
}
.hands {
  padding-bottom: 10px;
}
.round {
  margin-bottom: 12px;
  border-left: 6px solid var(--violet);
}
.round.over {
  border-left-color: var(--amber);
}
.line {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 12px;
  align-items: baseline;
  margin: 0;
  font-size: 17px;
}
.clock {
  font-size: 26px;
  font-weight: 700;
}
.over .clock {
  color: var(--amber-dark);
}
.grow {
  flex: 1;
}
.desk {
  margin: 6px 0 0;
}
.here {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(190px, 1fr));
  gap: 4px 14px;
  margin: 10px 0 0;
  padding: 8px 0 0;
  border: 0;
  border-top: 1px solid var(--line);
}
.here legend {
  float: left;
  grid-column: 1 / -1;
  padding: 0;
  font-size: 13px;
  color: var(--ink-soft);
}
.here label {
  min-height: 28px;
}
.here input {
  width: 18px;
  height: 18px;
  vertical-align: -3px;
  accent-color: var(--violet);
}
@media (max-width: 760px) {
  .start {
    grid-template-columns: 1fr 1fr;
  }
}
</style>
