<script setup lang="ts">
/** Begin a session at a rig: who, and what about: what stands planted, or a call of the library on this machine. */
import { computed, onMounted, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, type Schemas } from '@/api/client'
import { useFailing } from '@/shared/failing'
import { kept, units } from '@/shared/kept'
import { user } from '@/shared/session'

const props = defineProps<{
  rigs: Schemas['RigRow'][]
  rotation: Schemas['RotationRow'] | null
  rig: number
  busy: ReadonlySet<number>
}>()
const emit = defineEmits<{ close: [] }>()
const router = useRouter()
const { failure, busy: sending, attempt } = useFailing()
const form = kept('lab.begin', { class_id: 0, people: [] as number[], complaint: '', instruments: 'analogue' })
const rig = ref(props.rig)
const scenario = ref(0)
const classes = ref<Schemas['ClassRow'][]>([])
const people = ref<{ id: number; name: string }[]>([])
const library = ref<Schemas['ScenarioRow'][]>([])
const chosen = computed(() => props.rigs.find((r) => r.id === rig.value))
const calls = computed(() => library.value.filter((c) => c.body.machine === chosen.value?.machine))
const free = computed(() => props.rigs.filter((r) => !props.busy.has(r.id)))
async function roster(): Promise<void> {
  if (!form.value.class_id) return
  const found = await ask(
    api.GET('/api/v1/classes/{class_id}', { params: { path: { class_id: form.value.class_id } } }),
  )
  people.value = (found.people ?? []).filter((p) => !p.gone)
  const place = props.rotation?.places.find((p) => p.rig_id === rig.value)
  if (place) form.value.people = people.value.filter((p) => place.now.includes(p.name)).map((p) => p.id)
  else form.value.people = form.value.people.filter((id) => people.value.some((p) => p.id === id))
}
onMounted(() =>
  attempt(async () => {
    if (user.value?.role === 'instructor') {
      classes.value = (await ask(api.GET('/api/v1/classes', { params: { query: { archived: false } } }))).classes
      library.value = (await ask(api.GET('/api/v1/scenarios'))).scenarios
    }
    if (props.rotation) {
      const known = classes.value.find((c) => c.name === props.rotation?.class_name)
      if (known) form.value.class_id = known.id
    }
    if (!classes.value.some((c) => c.id === form.value.class_id)) form.value.class_id = classes.value[0]?.id ?? 0
    await roster()
  }),
)
watch([() => form.value.class_id, rig], () => void attempt(roster))
const begin = () =>
  attempt(async () => {
    const made = await ask(
      api.POST('/api/v1/lab/sessions', {
        body: {
          rig_id: rig.value,
          people: form.value.people,
          scenario_id: scenario.value || null,
          title: '',
          complaint: form.value.complaint,
          instruments: form.value.instruments as 'analogue' | 'digital',
          units: units.value,
        },
      }),
    )
    form.value.people = []
    form.value.complaint = ''
    await router.push(`/lab/${made.id}`)
  })
</script>

<template>
  <form class="card begin" aria-label="Begin a lab session" data-test="begin-session" @submit.prevent="begin">
    <label class="field"
      ><span>Rig</span
      ><select v-model.number="rig" data-test="session-rig">
        <option v-for="r in free" :key="r.id" :value="r.id">{{ r.name }}, {{ r.machine_name }}</option>
      </select></label
    >
    <label class="field"
      ><span>Class</span
      ><select v-model.number="form.class_id" data-test="session-class">
        <option v-for="c in classes" :key="c.id" :value="c.id">{{ c.name }}{{ c.term ? `, ${c.term}` : '' }}</option>
      </select></label
    >
    <label class="field"
      ><span>What is on it</span
      ><select v-model.number="scenario" data-test="session-call">
        <option :value="0">what stands on the rig{{ chosen?.standing.length ? '' : ', nothing is planted' }}</option>
        <option v-for="c in calls" :key="c.id" :value="c.id">{{ c.body.title }}</option>
      </select></label
    >
    <label class="field"
      ><span>Their instruments</span
      ><select v-model="form.instruments">
        <option value="analogue">analogue gauges</option>
        <option value="digital">digital gauges</option>
      </select></label
    >
    <fieldset class="who">
      <legend>Who works at it, one to three</legend>
      <label v-for="p in people" :key="p.id" :class="{ on: form.people.includes(p.id) }"
        ><input v-model="form.people" type="checkbox" :value="p.id" />{{ p.name }}</label
      >
    </fieldset>
    <label class="field wide"
      ><span>What the customer says</span
      ><input v-model="form.complaint" maxlength="600" placeholder="left empty, one is written that fits"
    /></label>
    <span class="hands"
      ><el-button
        type="primary"
        native-type="submit"
        :loading="sending"
        :disabled="!form.people.length"
        data-test="session-begin"
        >Begin</el-button
      ><el-button @click="emit('close')">Cancel</el-button></span
    >
    <p v-if="failure" class="error" role="alert">{{ failure }}</p>
  </form>
</template>

<style scoped>
.begin {
  display: flex;
  flex-wrap: wrap;
  gap: 12px;
  align-items: end;
  margin-bottom: 14px;
}
.field select {
  max-width: 260px;
}
.wide {
  flex: 1 1 260px;
}
.wide input {
  width: 100%;
}
.who {
  flex: 1 0 100%;
  border: 0;
  margin: 0;
  padding: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}
.who legend {
  padding: 0 0 4px;
  font-size: 13.5px;
  color: var(--ink-soft);
}
.who label {
  display: flex;
  flex-direction: row;
  align-items: center;
  gap: 6px;
  padding: 4px 10px;
  border: 1px solid var(--edge);
  border-radius: 3px;
  cursor: pointer;
}
.who label.on {
  background: var(--violet-soft);
  border-color: var(--violet);
}
.who input {
  margin: 0;
}
</style>
